/** Draws a machine and what moves in it: boxes with values, lines, and tokens under way. */
import './datapath.css';
import { memo, useMemo } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { controlDone } from '@zettak/core/engine/tell/control';
import type { View } from '@zettak/core/session/protocol';
import { AluPicture } from './AluPicture';
import { layOut, type Drawing, type Point } from './layout';
import { linesOf, outlineOf } from './lines';
import { MemoryPicture } from './MemoryPicture';
import { OutsidePicture, type PressSwitch } from './OutsidePicture';
import { RegisterPicture, shownOf } from './RegisterPicture';
import { journeysOf, wiresOf } from './routes';
import { Tokens, type Moving } from './Tokens';
import { writeOf } from './touched';

interface Parts {
  readonly machine: Machine;
  readonly view: View;
  readonly labels: readonly ReadonlyMap<number, string>[];
  readonly moving: Moving | undefined;
  /** Names of registers that a lesson does without. */
  readonly hidden?: readonly string[];
  readonly press?: PressSwitch | undefined;
}

const NOTHING: readonly string[] = [];
const NO_LABELS: ReadonlyMap<number, string> = new Map();

/** `moving`: a tick whose tokens are under way; the values are still those before it. */
export function Datapath({ machine, view, labels, moving, hidden = NOTHING, press }: Parts) {
  const drawing = useMemo(() => layOut(machine, hidden), [machine, hidden]);
  const report = moving?.report ?? view.last;
  const journeys = useMemo(() => (report ? journeysOf(machine, drawing, report) : []), [machine, drawing, report]);
  const control = useMemo(() => (report ? controlDone(machine, report) : []), [machine, report]);
  const last = moving ? undefined : view.last;
  return (
    <svg
      className="datapath"
      viewBox={`-2 -2 ${drawing.width + 4} ${drawing.height + 4}`}
      preserveAspectRatio="xMidYMin"
      role="group"
      aria-label="Datapath"
      data-testid="datapath"
    >
      <Ground machine={machine} drawing={drawing} />
      {drawing.spaces.map((box) => (
        <MemoryPicture
          key={box.space}
          {...{ machine, box, view }}
          labels={labels[box.space] ?? NO_LABELS}
          report={last}
          control={control.flatMap(({ word, place }) => (place.kind === 'memory' && place.space === box.space ? [word] : []))}
        />
      ))}
      {journeys.map((each, at) => (
        <polyline key={at} points={pointsOf(each.points)} className={`wire active ${each.path}`} markerEnd={`url(#tip-${each.path})`} />
      ))}
      <AluPicture machine={machine} box={drawing.alu} report={report} />
      {drawing.registers.map((box) => (
        <RegisterPicture
          key={box.register}
          {...{ machine, box }}
          {...shownOf(machine, view, box, last)}
          control={control.find(({ place }) => place.kind === 'register' && place.register === box.register)?.word}
        />
      ))}
      {drawing.pairs
        .filter(({ registers }) => last?.transfers.some((each) => each.joint?.place.registers.join() === registers.join()))
        .map(({ name, x, y, width, height, registers }) => (
          <rect
            key={name}
            {...{ x, y, width, height }}
            rx="5"
            className={`pair ${writeOf(last, registers[0]!)?.path ?? 'data'}`}
            data-pair={name}
          />
        ))}
      <OutsidePicture
        {...{ machine, press }}
        box={drawing.outside}
        devices={view.devices}
        output={view.output}
        queued={view.inputs.length - view.inputsUsed}
        waits={view.waiting !== undefined}
      />
      <Tokens journeys={journeys} moving={moving} parts={drawing.registers} />
    </svg>
  );
}

const pointsOf = (points: readonly Point[]): string => points.map(({ x, y }) => `${x},${y}`).join(' ');

/** What never changes while a program runs. */
const Ground = memo(function Ground({ machine, drawing }: { machine: Machine; drawing: Drawing }) {
  const lines = useMemo(() => linesOf(wiresOf(machine, drawing)), [machine, drawing]);
  return (
    <>
      <defs>
        {(['address', 'data'] as const).map((path) => (
          <marker
            key={path}
            id={`tip-${path}`}
            markerWidth="14"
            markerHeight="14"
            refX="9"
            refY="7"
            orient="auto"
            markerUnits="userSpaceOnUse"
          >
            <path d="M0 0 L13 7 L0 14 z" className={`tip ${path}`} />
          </marker>
        ))}
      </defs>
      <rect {...drawing.processor} rx="8" className="ground sand" />
      <text x="14" y="22" className="title">
        Processor
      </text>
      <path d={outlineOf(lines.data)} className="wire" />
      <path d={outlineOf(lines.address)} className="wire address" />
      {lines.dots.map(({ x, y }) => (
        <circle key={`${x} ${y}`} cx={x} cy={y} r="3.5" className="dot" />
      ))}
      {drawing.files.map(({ title, x, y, width, height }) => (
        <rect key={title} {...{ x, y, width, height }} rx="6" className="file">
          <title>{title}</title>
        </rect>
      ))}
      {drawing.pairs.map(({ name, x, y, width, height }) => (
        <g key={name}>
          <title>{name}</title>
          <rect x={x + 2} y={y + 2} width={width - 4} height={height - 4} rx="5" className="halves" />
        </g>
      ))}
    </>
  );
});

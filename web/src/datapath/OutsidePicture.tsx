/** What stands outside as small working things: lamps light, switches are pressed, digits show, a timer counts down. */
import { memo } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { ShownDevice, View } from '@zettak/core/session/protocol';
import { digitsAt, shownDigits } from '@zettak/core/text/number';
import type { Box } from './layout';

/** Sets one line of a device. */
export type PressSwitch = (device: string, bit: number, on: boolean) => void;

interface OutsideParts {
  readonly machine: Machine;
  readonly devices: View['devices'];
  readonly output: string;
  /** Inputs that are left. */
  readonly queued: number;
  readonly waits: boolean;
  readonly box: Box;
  /** Undefined where switches cannot be pressed. */
  readonly press: PressSwitch | undefined;
}

const LETTER = 7.6;

export const OutsidePicture = memo(function OutsidePicture({ box, press, ...outside }: OutsideParts) {
  const { machine } = outside;
  const things = thingsOf(outside);
  const left = 76;
  const gap = 8;
  const wanted = things.reduce((sum, each) => sum + each.width, 0) + gap * things.length;
  const room = box.width - left - 6;
  const scale = Math.min(2.2, room / Math.max(1, wanted));
  let x = left;
  return (
    <g>
      <rect {...box} rx="8" className="ground sea" />
      <text x="14" y={box.y + 21} className="title">
        {machine.devices.length > 0 ? 'Outside' : 'Traps'}
      </text>
      {things.map((each) => {
        const width = each.width * scale;
        const at = { x, y: box.y + 6, width, height: box.height - 12 };
        x += width + gap * scale;
        return <Thing key={each.title} thing={each} box={at} {...{ machine, press }} tight={scale < 0.98} />;
      })}
    </g>
  );
});

interface ThingOf {
  readonly title: string;
  readonly text: string;
  readonly alarm: boolean;
  readonly width: number;
  readonly device?: ShownDevice;
}

/** What traps speak with, then the devices that show something, in the order of the machine. */
function thingsOf({ machine, devices, output, queued, waits }: Omit<OutsideParts, 'box' | 'press'>): ThingOf[] {
  const kinds = machine.devices.map((each) => each.kind);
  const reads = machine.traps.some((each) => each.service.startsWith('read')) || kinds.includes('keyboard');
  const writes = machine.traps.some((each) => each.service.startsWith('write')) || kinds.includes('display');
  const lastLine = output.trimEnd().split('\n').at(-1)!.slice(-12);
  return [
    ...(writes ? [{ title: 'console', text: lastLine || '–', alarm: false, width: 118 }] : []),
    ...(reads ? [{ title: 'input queue', text: waits ? 'waiting' : `${queued} left`, alarm: waits, width: 96 }] : []),
    ...devices.flatMap((device): ThingOf[] => {
      if (device.kind === 'keyboard' || device.kind === 'display') return [];
      const text = device.kind === 'timer' || device.kind === 'digits' ? shownDigits(device.value, device.width, machine) : '';
      const grid = device.lines.length > 0 ? gridWidth(device) : device.width * 15;
      return [
        {
          title: device.name,
          text,
          alarm: false,
          device,
          width: Math.max(device.name.length * 8 + 18, text.length * 13 + 18, text ? 0 : grid + 14),
        },
      ];
    }),
  ];
}

const columnsOf = ({ lines }: ShownDevice): number => Math.max(1, Math.ceil(lines.length / 2));
const columnWidth = ({ lines }: ShownDevice): number => Math.max(...lines.map(([name]) => name.length)) * LETTER + 18;
const gridWidth = (device: ShownDevice): number => columnsOf(device) * columnWidth(device);

interface ThingParts {
  readonly thing: ThingOf;
  readonly box: Box;
  readonly machine: Machine;
  readonly press: PressSwitch | undefined;
  /** Less room than it asks for: names of lines are left to pointing. */
  readonly tight: boolean;
}

function Thing({ thing, box, machine, press, tight }: ThingParts) {
  const { title, text, alarm, device } = thing;
  const shown = text.length * 9.8 + 12 > box.width ? text.slice(-Math.max(1, Math.floor((box.width - 16) / 9.8))) : text;
  return (
    <g>
      <rect {...box} rx="6" className={`register ${alarm ? 'alarm' : ''}`} />
      <text x={box.x + 8} y={box.y + 15} className="name small">
        {title.length * 8 + 10 > box.width ? `${title.slice(0, Math.max(1, Math.floor(box.width / 8) - 2))}…` : title}
      </text>
      {device && text === '' ? (
        <LinesOf {...{ device, box, machine, press, tight }} />
      ) : (
        <text x={box.x + 8} y={box.y + box.height - 8} className={device ? 'shown' : 'reading'}>
          {shown}
        </text>
      )}
    </g>
  );
}

function LinesOf({ device, box, machine, press, tight }: Omit<ThingParts, 'thing'> & { readonly device: ShownDevice }) {
  const named = device.lines.length > 0 ? device.lines : unnamed(device);
  const columns = device.lines.length > 0 ? columnsOf(device) : named.length;
  const step = (box.width - 12) / columns;
  const rows = Math.ceil(named.length / columns);
  return named.map(([name, bit, title], at) => {
    const on = digitsAt(device.value, bit, 1, machine.radix) !== 0;
    const x = box.x + 7 + (at % columns) * step;
    const y = box.y + (rows > 1 ? 29 : 38) + Math.floor(at / columns) * 19;
    const words = !tight && device.lines.length > 0 ? name : '';
    if (device.kind !== 'switches') return <Line key={name} {...{ x, y, on, words, title }} square={false} />;
    const pressed = (): void => press?.(device.name, bit, !on);
    return (
      <g
        key={name}
        role="switch"
        aria-checked={on}
        aria-label={`${device.name}: ${title}`}
        tabIndex={press ? 0 : undefined}
        className={press ? 'switch' : undefined}
        onClick={pressed}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' && event.key !== ' ') return;
          event.preventDefault();
          event.stopPropagation();
          pressed();
        }}
      >
        <Line {...{ x, y, on, words, title }} square />
      </g>
    );
  });
}

/** Lines without names, the highest first, as the digits of a number. */
const unnamed = ({ width }: ShownDevice): (readonly [string, number, string])[] =>
  Array.from({ length: width }, (_, at) => [String(width - 1 - at), width - 1 - at, `line ${width - 1 - at}`] as const);

interface LineParts {
  readonly x: number;
  readonly y: number;
  readonly on: boolean;
  readonly words: string;
  readonly title: string;
  /** A switch; else a lamp. */
  readonly square: boolean;
}

/** A lamp is a disc, a switch a slider; on is filled, and reads so, too. */
const Line = ({ x, y, on, words, title, square }: LineParts) => (
  <g>
    <title>{`${title}: ${on ? 'on' : 'off'}`}</title>
    {square ? (
      <>
        <rect x={x - 1} y={y - 6} width="13" height="12" rx="3" className={`lamp ${on ? 'on' : ''}`} />
        <rect x={on ? x + 6 : x + 1} y={y - 4} width="4" height="8" className="knob" />
      </>
    ) : (
      <circle cx={x + 5} cy={y} r="5.5" className={`lamp ${on ? 'on' : ''}`} />
    )}
    <text x={x + 15} y={y + 4.5} className="quiet line-name">
      {words}
    </text>
  </g>
);

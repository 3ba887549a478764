/** A register with its value, as large as its place in the drawing allows; what just changed shows the old value, too. */
import { memo } from 'react';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import type { View } from '@zettak/core/session/protocol';
import type { Machine } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { binaryDigits, digitsAt, shownDigits, signedReading } from '@zettak/core/text/number';
import { DIGIT, type RegisterBox } from './layout';
import { readsRegister, writeOf } from './touched';

interface Shown {
  readonly machine: Machine;
  readonly box: RegisterBox;
  readonly value: number;
  /** What the tick did with it: the path that a value came by, or that it was read. */
  readonly tone: 'data' | 'address' | 'read' | '';
  /** The whole of it before the tick, where that was another. */
  readonly before: number | undefined;
  /** “PC + 1”: what it is told to do to itself. */
  readonly control: string | undefined;
  /** Of the program counter: the mnemonic that it points at. */
  readonly points: string;
  /** Of the instruction register: the form that it holds, once that is decoded. */
  readonly form: number | undefined;
}

/** What a register shows, as plain values, so that one that shows the same is left alone. */
export function shownOf(machine: Machine, view: View, box: RegisterBox, report: TickReport | undefined) {
  const { width } = itemAt(machine.registers, box.register);
  const change = writeOf(report, box.register);
  const whole = change !== undefined && change.before !== change.value && change.width === width;
  const decoded = box.look === 'wide' && view.phases.length > 0 && view.decoded.length > 0;
  return {
    value: itemAt(view.registers, box.register),
    tone: change ? change.path : readsRegister(report, box.register) ? ('read' as const) : ('' as const),
    before: whole ? change.before : undefined,
    points: box.register === machine.programCounter ? (view.next.text ?? '').split(' ')[0]! : '',
    form: decoded ? view.last?.form : undefined,
  };
}

export const RegisterPicture = memo(function RegisterPicture({ machine, box, value, tone, before, control, points, form }: Shown) {
  const { name, title, width } = itemAt(machine.registers, box.register);
  const digits = shownDigits(value, width, machine);
  const counter = box.register === machine.programCounter;
  const inner = { machine, box, name, title, digits, value, tone, points, form, counter };
  const old = before === undefined ? undefined : shownDigits(before, width, machine);
  return (
    <g role="img" aria-label={`${title || name} ${digits}`}>
      <rect
        {...{ x: box.x, y: box.y, width: box.width, height: box.height }}
        rx={box.look === 'cell' ? 4 : 6}
        className={`register ${box.look} ${tone} ${counter ? 'counter' : ''}`}
      />
      <Inside {...inner} old={old} />
      {control && (
        <g className="pill" data-control={name}>
          <rect x={box.x + box.width - control.length * 7.6 - 14} y={box.y - 8} width={control.length * 7.6 + 10} height="17" rx="8" />
          <text x={box.x + box.width - 9} y={box.y + 5} textAnchor="end">
            {control}
          </text>
        </g>
      )}
    </g>
  );
});

interface Inner {
  readonly machine: Machine;
  readonly box: RegisterBox;
  readonly name: string;
  readonly title: string;
  readonly digits: string;
  readonly value: number;
  readonly tone: string;
  readonly old: string | undefined;
  readonly counter: boolean;
  readonly points: string;
  readonly form: number | undefined;
}

function Inside(inner: Inner) {
  switch (inner.box.look) {
    case 'wide':
      return <Instruction {...inner} />;
    case 'cell':
      return <InFile {...inner} />;
    case 'small':
      return <Small {...inner} />;
    case 'plain':
      return <Plain {...inner} />;
    case 'large':
      return <Large {...inner} />;
    default:
      return inner.box.look satisfies never;
  }
}

/** Of a cell's width, that a value may fill in large digits. */
const SHARE = 0.76;

function InFile({ box, name, digits }: Inner) {
  const middle = box.x + box.width / 2;
  const room = digits.length * DIGIT;
  // Values beside each other are told apart by what is between them.
  const size = room + 6 > box.width ? 'tight' : room > SHARE * box.width ? 'close' : '';
  return (
    <>
      <text x={middle} y={box.y + 14} textAnchor="middle" className="name small">
        {name}
      </text>
      <text x={middle} y={box.y + 36} textAnchor="middle" className={`value ${size}`} data-register={name}>
        {digits}
      </text>
    </>
  );
}

function Small({ box, name, digits }: Inner) {
  return (
    <>
      <text x={box.x + 9} y={box.y + box.height / 2 + 5} className="name">
        {name}
      </text>
      <text x={box.x + box.width - 9} y={box.y + box.height / 2 + 8} textAnchor="end" className="value" data-register={name}>
        {digits}
      </text>
    </>
  );
}

/** “stack pointer” without the word that every register shares. */
const shortTitle = (title: string): string => title.replace(/ (register|pointer)$/, '');

const fitting = (text: string, room: number, letter: number): string => {
  const most = Math.floor(room / letter);
  return text.length <= most ? text : most < 4 ? '' : `${text.slice(0, most - 1)}…`;
};

function Plain({ box, name, title, digits, counter, old, points: words }: Inner) {
  const room = box.width - 26 - name.length * 9;
  const after = box.width - 20 - digits.length * DIGIT;
  return (
    <>
      <text x={box.x + 10} y={box.y + 17} className="name">
        {name} <tspan className="quiet">{counter ? 'next' : fitting(title === name ? '' : shortTitle(title), room, 7)}</tspan>
      </text>
      <text x={box.x + 10} y={box.y + 43} className="value" data-register={name}>
        {digits}
        {old && (old.length + words.length + 1) * 10 < after && (
          <tspan className="old" dx="7">
            {old}
          </tspan>
        )}
        {counter && (
          <tspan className="reading" dx="8">
            {fitting(words, after - 8 - (old ? old.length * 10 : 0), 10)}
          </tspan>
        )}
      </text>
    </>
  );
}

function Large({ machine, box, name, title, digits, value, old }: Inner) {
  const { width } = itemAt(machine.registers, box.register);
  const { radix } = machine;
  const signed = signedReading(value, width, radix);
  const bits = radix === 2 && width <= 9 ? binaryDigits(value, width) : '';
  const after = box.width - 20 - digits.length * 19;
  return (
    <>
      <text x={box.x + 10} y={box.y + 18} className="name">
        {name} <tspan className="quiet">{fitting(title === name ? '' : title, box.width - 26 - name.length * 9, 7)}</tspan>
      </text>
      <text x={box.x + 10} y={box.y + 48} className="value big" data-register={name}>
        {digits}
        {old && old.length * 10.5 < after && (
          <tspan className="old" dx="8">
            {old}
          </tspan>
        )}
        {radix === 2 && machine.base !== 10 && (old?.length ?? 0) * 10.5 + String(value).length * 10 + 16 < after && (
          <tspan className="reading" dx="8">
            {value}
          </tspan>
        )}
      </text>
      <text x={box.x + 10} y={box.y + 69} className="reading">
        {bits}
        {signed < 0 && <tspan dx={bits ? 7 : 0}>{String(signed).replace('-', '−')}</tspan>}
      </text>
    </>
  );
}

/** The instruction register, cell by cell; what is left of an instruction before is pale. */
function Instruction({ machine, box, name, value, tone, form }: Inner) {
  const { width } = itemAt(machine.registers, box.register);
  const cell = itemAt(machine.spaces, machine.programSpace).width;
  const count = Math.max(1, Math.round(width / cell));
  const used = form === undefined ? count : itemAt(machine.forms, form).format.cells;
  const digits = (at: number): string => shownDigits(digitsAt(value, cell * (count - 1 - at), cell, machine.radix), cell, machine);
  const wanted = digits(0).length * DIGIT + 14;
  const each = Math.min(Math.max(72, wanted), (box.width - 20) / count - 4);
  const words = form === undefined ? 'instruction' : `executing ${itemAt(machine.forms, form).mnemonic}`;
  return (
    <>
      <text x={box.x + 10} y={box.y + 18} className="name">
        {name} <tspan className="quiet">{fitting(words, box.width - 26 - name.length * 9, 7)}</tspan>
      </text>
      {Array.from({ length: count }, (_, at) => (
        <g key={at} className={at < used ? '' : 'stale'}>
          <rect
            x={box.x + 10 + at * (each + 4)}
            y={box.y + 25}
            width={each}
            height="32"
            className={at === 0 ? 'part opcode' : 'part operand'}
          />
          <text
            x={box.x + 10 + at * (each + 4) + each / 2}
            y={box.y + 49}
            textAnchor="middle"
            className={`value ${wanted > each ? 'tight' : ''} ${tone === 'data' ? 'fresh' : ''}`}
          >
            {digits(at)}
          </text>
        </g>
      ))}
    </>
  );
}

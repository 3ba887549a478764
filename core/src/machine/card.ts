/** The reference card of a machine, as data: every written form with its encoding, ticks, flags and tick count. */
import type { Action } from '../notation/tree';
import { hexDigits } from '../text/number';
import type { Form, Machine } from './machine';
import { programSpaceOf } from './machine';

export interface CardRow {
  readonly written: string;
  readonly title: string;
  readonly family: string;
  /** One entry a cell: fixed digits in hex, or the names of the fields in it. */
  readonly cells: readonly string[];
  readonly execute: readonly string[];
  /** Flags that some tick of it sets, in the machine's order. */
  readonly flags: readonly string[];
  /** All ticks, fetch included. */
  readonly ticks: number;
}

export const cardOf = (machine: Machine): CardRow[] => machine.forms.map((form) => rowOf(machine, form));

function rowOf(machine: Machine, form: Form): CardRow {
  const touched = new Set(form.schedule.flatMap(({ tick }) => tick.actions.flatMap(flagsOf)));
  return {
    written: form.written.replace(/[{}]/g, ''),
    title: form.title,
    family: form.family,
    cells: cellsOf(machine, form),
    execute: form.schedule.filter((each) => each.part === 'execute').map(({ tick }) => tick.text),
    flags: machine.flags.filter((_, flag) => touched.has(flag)).map((each) => each.name),
    ticks: form.schedule.length,
  };
}

function flagsOf(action: Action): number[] {
  switch (action.kind) {
    case 'transfer':
      return [...(action.flagged?.effects.map((each) => each.flag) ?? []), ...(action.target.kind === 'flag' ? [action.target.flag] : [])];
    case 'compare':
      return action.flagged.effects.map((each) => each.flag);
    case 'if':
      return [...action.then, ...action.otherwise].flatMap(flagsOf);
    case 'halt':
    case 'service':
      return [];
    default:
      return action satisfies never;
  }
}

function cellsOf(machine: Machine, form: Form): string[] {
  const { width } = programSpaceOf(machine);
  return Array.from({ length: form.format.cells }, (_, cell) => {
    const low = (form.format.cells - 1 - cell) * width;
    const here = form.format.fields.filter((each) => each.high >= low && each.low < low + width);
    return here
      .map((field) => {
        const fixed = form.fixed.find((each) => each.field === field);
        return fixed ? hexDigits(fixed.value, field.high - field.low + 1) : field.name;
      })
      .join(' ');
  });
}

/** The card as a Markdown page. */
export function cardAsMarkdown(machine: Machine): string {
  const rows = cardOf(machine);
  const families = [...new Set(rows.map((each) => each.family))];
  const cell = (text: string): string => text.replaceAll('|', '\\|');
  const table = (family: string): string[] => [
    `## ${family}`,
    '',
    '| written | cells | does | ticks of its own | flags | ticks |',
    '|---|---|---|---|---|---|',
    ...rows
      .filter((each) => each.family === family)
      .map(
        (each) =>
          `| \`${cell(each.written)}\` | ${each.cells.join(', ')} | ${cell(each.title)} | ${each.execute.map((tick) => `\`${cell(tick.split(';')[0]!.trim())}\``).join('; ') || '–'} | ${each.flags.join(' ') || '–'} | ${each.ticks} |`,
      ),
    '',
  ];
  return [`# ${machine.name}`, '', machine.title, '', ...families.flatMap(table)].join('\n');
}

/** The reference card of a machine, as data: every written form with its encoding, ticks, flags and tick count. */
import { flatActions, flatTargets } from '../../notation/tree';
import { shownDigits } from '../../text/number';
import type { Form, Machine } from './machine';
import { programSpaceOf } from './machine';
import { itemAt } from '../../text/itemAt';
import { plainWritten, spelledAs, type SpelledAs } from './spellings';

export interface CardRow {
  readonly written: string;
  /** Where names are part of the operation: each way to write it. */
  readonly spelled: readonly SpelledAs[];
  /** The guard, as written. */
  readonly onlyIf?: string;
  readonly title: string;
  readonly family: string;
  /** One entry a cell: fixed digits (in hex where digits are bits), or the names of the fields in it. */
  readonly cells: readonly string[];
  readonly execute: readonly string[];
  /** Flags that some tick of it sets, in the machine's order. */
  readonly flags: readonly string[];
  /** All ticks, fetch included. */
  readonly ticks: number;
  /** What it does and costs, in one plain sentence. */
  readonly sentence: string;
}

/** In the order of the document, by family. */
export const cardOf = (machine: Machine): CardRow[] => machine.forms.map((form) => rowOf(machine, form));

function rowOf(machine: Machine, form: Form): CardRow {
  const flags = flagsSetBy(form).map((flag) => itemAt(machine.flags, flag).name);
  const written = plainWritten(form);
  const spelled = spelledAs(form, machine);
  const row = {
    written,
    spelled,
    ...(form.guard && { onlyIf: form.guard.text }),
    title: form.title,
    family: form.family,
    cells: cellsOf(machine, form),
    execute: form.schedule.filter((each) => each.part === 'execute' || each.part === 'enter').map(({ tick }) => tick.text),
    flags,
    ticks: form.schedule.length,
  };
  return { ...row, sentence: sentenceOf(row, form) };
}

/** Flags that some tick of a form sets, in the machine's order. */
export const flagsSetBy = ({ schedule }: Form): number[] =>
  [...new Set(schedule.flatMap(({ tick }) => flagsIn(tick.actions)))].sort((a, b) => a - b);

const flagsIn = (actions: Parameters<typeof flatActions>[0]): number[] =>
  flatActions(actions).flatMap((action) => {
    const effects = action.kind === 'transfer' || action.kind === 'compare' ? (action.flagged?.effects ?? []) : [];
    const targets = action.kind === 'transfer' ? flatTargets(action.target) : [];
    return [...effects.map((each) => each.flag), ...targets.flatMap((each) => (each.kind === 'flag' ? [each.flag] : []))];
  });

function sentenceOf({ written, spelled, onlyIf, title, flags, ticks }: Omit<CardRow, 'sentence'>, { format: { cells } }: Form): string {
  const sets = flags.length === 0 ? 'leaves the flags alone' : `sets ${flags.join(', ')}`;
  const ways = spelled.length > 0 ? ` Written as ${spelled.map((each) => each.operation).join(', ')}.` : '';
  const only = onlyIf === undefined ? '' : `, only if ${onlyIf}`;
  return `${written}${title ? `: ${title}` : ''}${only}; it ${sets} and takes ${cells === 1 ? 'one cell' : `${cells} cells`} and ${ticks} ticks.${ways}`;
}

function cellsOf(machine: Machine, form: Form): string[] {
  const { width } = programSpaceOf(machine);
  return Array.from({ length: form.format.cells }, (_, cell) => {
    const low = (form.format.cells - 1 - cell) * width;
    const within = form.format.fields.flatMap((field) =>
      field.pieces.filter((piece) => piece.high >= low && piece.low < low + width).map((piece) => ({ field, piece })),
    );
    return within
      .toSorted((a, b) => b.piece.high - a.piece.high)
      .map(({ field }) => {
        const fixed = form.fixed.find((each) => each.field === field);
        return fixed ? shownDigits(fixed.value, field.width, machine) : field.name;
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
          `| \`${cell(each.written)}\`${each.spelled.length > 0 ? `: ${each.spelled.map(({ operation }) => `\`${operation}\``).join(' ')}` : ''} | ${each.cells.join(', ')} | ${cell(each.title)} | ${each.execute.map((tick) => `\`${cell(itemAt(tick.split(';'), 0).trim())}\``).join('; ') || '–'} | ${each.flags.join(' ') || '–'} | ${each.ticks} |`,
      ),
    '',
  ];
  const shorts = machine.shortForms.map(
    (each) =>
      `| \`${cell(each.written.replace(/[{}]/g, ''))}\` | ${each.lines.map((line) => `\`${cell(line)}\``).join('; ')} | ${cell(each.title)} |`,
  );
  const short = shorts.length > 0 ? ['## short forms', '', '| written | stands for | does |', '|---|---|---|', ...shorts, ''] : [];
  const conditions =
    machine.conditions.length > 0
      ? [
          '## conditions',
          '',
          '| name | code | holds where | means |',
          '|---|---|---|---|',
          ...machine.conditions.map(
            ({ names, code, text, title }) =>
              `| ${names.map((each) => (each === '' ? '(none)' : `\`${each}\``)).join(', ')} | ${code} | ${cell(text)} | ${cell(title)} |`,
          ),
          '',
        ]
      : [];
  return [`# ${machine.name}`, '', machine.title, '', ...families.flatMap(table), ...short, ...conditions].join('\n');
}

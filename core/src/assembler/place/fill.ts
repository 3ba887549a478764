/** The second pass: works values out and puts cells and rows together. */
import type { Expanded, ImageCell, Row } from '../../image/program';
import { programSpaceOf } from '../../machine/model/machine';
import type { Placed, Placement } from './assembly';
import { itemCells } from './data';
import { encodeOperands } from './templates';
import type { Statement, Unit } from '../read/syntax';

export interface Filled {
  readonly cells: readonly ImageCell[];
  /** By text: the program's own first. */
  readonly rows: ReadonlyMap<Unit, Row[]>;
  /** Addresses of instructions whose cells could not be worked out. */
  readonly unfinished: readonly number[];
}

/** A row for every line of the text, with the cells of those that have some; problems are added. */
export function fillLines(placement: Placement, units: readonly Unit[]): Filled {
  const rows = new Map<Unit, (Row | undefined)[]>(units.map((unit) => [unit, unit.source.lineStarts.map(() => undefined)]));
  const cells: ImageCell[] = [];
  const unfinished: number[] = [];
  for (const placed of placement.placed) {
    const { statement, kind, address, space } = placed;
    placement.user = statement;
    placement.scope = placed.routine;
    const { cells: size, width } = placement.machine.spaces[space]!;
    placement.here = address % size;
    placement.cellWidth = width;
    const words = wordsOf(placement, placed, address % size);
    placed.words = words;
    if (kind === 'code' && !words) unfinished.push(address);
    const line = statement.unit.part === undefined ? statement.line : statement.unit.line;
    if (words) for (let at = 0; at < words.length; at++) cells.push({ space, address: address + at, value: words[at]!, line });
    putRow(placement, rows.get(statement.unit)!, placed, words ?? NO_WORDS);
  }
  checkOverlaps(placement);
  placement.user = undefined;
  placement.scope = undefined;
  placement.cellWidth = programSpaceOf(placement.machine).width;
  for (const [unit, own] of rows) for (let at = 0; at < own.length; at++) own[at] ??= emptyRow(unit, at + 1);
  return { cells, rows: rows as ReadonlyMap<Unit, Row[]>, unfinished };
}

/** What the cells of a line hold; undefined, with problems told, where that cannot be said. Room has none. */
function wordsOf(placement: Placement, { form, operands, items, statement }: Placed, at: number): readonly number[] | undefined {
  const cells = form && encodeOperands(placement, form, operands!, at);
  if (!items) return cells;
  const data = itemCells(placement, items, statement);
  return form && data ? cells && [...cells, ...data] : data;
}

const NO_WORDS: readonly number[] = [];

const emptyRow = ({ part }: Unit, line: number): Row =>
  part === undefined ? { line, kind: 'none', words: NO_WORDS } : { line, kind: 'none', words: NO_WORDS, part };

function putRow(placement: Placement, rows: (Row | undefined)[], placed: Placed, words: readonly number[]): void {
  const { statement, kind, address, space, size, expanded, routine } = placed;
  const { line, unit } = statement;
  if (kind === 'code' && !expanded && unit.part === undefined && space === placement.machine.programSpace) {
    // Most rows are so, and are small when they are made in one go.
    const text = textOf(statement);
    rows[line - 1] = routine ? { line, kind, words, address, text, routine: routine.name } : { line, kind, words, address, text };
    return;
  }
  const before = rows[line - 1];
  const row: { -readonly [Key in keyof Row]: Row[Key] } = { line, kind, words, address };
  if (unit.part !== undefined) row.part = unit.part;
  if (space !== placement.machine.programSpace) row.space = space;
  if (routine !== undefined) row.routine = routine.name;
  if (expanded) {
    const earlier = before?.expanded ?? [];
    if (earlier.length > 0) row.address = before!.address!;
    row.words = [...(before?.words ?? NO_WORDS), ...words];
    row.expanded = [...earlier, { address, words, text: textOf(expanded) } satisfies Expanded];
  } else if (kind === 'code') row.text = textOf(statement);
  else if (kind === 'room') row.size = size;
  rows[line - 1] = row;
}

/** The instruction with single blanks behind its operation and behind commas only, as it is read aloud. */
function textOf({ key, behind, last, unit: { tokens } }: Statement): string {
  if (behind === last) return key;
  let text = `${key} `;
  for (let at = behind; at < last; at++) {
    const word = tokens.wordAt(at).text;
    text += word === ',' ? ', ' : word;
  }
  return text.trim();
}

/** Pieces that lie over each other, each told once, at the later of the two. */
function checkOverlaps(placement: Placement): void {
  if (placement.total > placement.mostCells || liesInOrder(placement)) return;
  const pieces = placement.placed.map((placed, order) => ({ placed, order })).filter(({ placed }) => placed.size > 0);
  pieces.sort((a, b) => a.placed.space - b.placed.space || a.placed.address - b.placed.address || a.order - b.order);
  const told = new Set<Statement>();
  let furthest = pieces[0];
  for (const piece of pieces.slice(1)) {
    const [a, b] = [furthest!, piece];
    const over = a.placed.space === b.placed.space && b.placed.address < a.placed.address + a.placed.size;
    if (!over || endOf(b.placed) > endOf(a.placed)) furthest = b;
    const [earlier, later] = a.order < b.order ? [a.placed, b.placed] : [b.placed, a.placed];
    if (!over || told.has(later.statement)) continue;
    told.add(later.statement);
    const { line, unit } = earlier.statement;
    const of = unit.part === undefined ? {} : { part: unit.part };
    placement.problems.push({ code: 'cells-overlap', grade: 'error', span: later.statement.span, address: b.placed.address, line, ...of });
  }
}

/** As most programs are: each piece behind the one before, so that none lies over another. */
function liesInOrder({ placed, machine }: Placement): boolean {
  const ends = machine.spaces.map(() => 0);
  return placed.every((each) => {
    if (each.size === 0) return true;
    const behind = each.address >= ends[each.space]!;
    ends[each.space] = endOf(each);
    return behind;
  });
}

const endOf = ({ address, size }: Placed): number => address + size;

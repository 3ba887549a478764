/** Views of the encodings as data: the opcode map, the free ones, and the tree by which decode finds its way. */
import { digitsAt, power, shownDigits, shownNumber, type Numerals } from '../../text/number';
import { claimsOf, commonCells, decoderOf, demandsOf, firstCellOf, formOf, spelledBy, type Demand } from './encode';
import { programSpaceOf, type Form, type Format, type Machine } from './machine';
import { itemAt } from '../../text/itemAt';

export interface OpcodeMap {
  /** Width of the first cell in digits, and how many values it has. */
  readonly width: number;
  readonly size: number;
  /** How many first cells mean something. */
  readonly used: number;
  readonly free: number;
  /** Each form with what it demands of the first cell, the smallest such cell, and how many there are. */
  readonly entries: readonly { readonly form: Form; readonly demands: readonly Demand[]; readonly match: number; readonly count: number }[];
}

/** What each form takes of the values that a first cell can have, and how many of them mean nothing. */
export function opcodeMap(machine: Machine): OpcodeMap {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const size = power(radix, width);
  const seen = new Set<string>();
  let used = 0;
  const entries = machine.forms.map((form) => {
    const { demands, choices } = firstCellOf(claimsOf(form, width, radix));
    // Digits of names make as many first cells as there are names.
    const named = choices.reduce((sum, each) => sum + each.pieces.reduce((digits, piece) => digits + piece.width, 0), 0);
    const ways = choices.reduce((product, each) => product * each.values.size, 1);
    const match = smallest({ demands, choices }, radix);
    const count = power(radix, width - named - demands.reduce((sum, each) => sum + each.width, 0)) * ways;
    const key = JSON.stringify([demands, choices.map((each) => [each.pieces, [...each.values]])]);
    // Forms that later cells tell apart share their first cell.
    if (!seen.has(key)) used += count;
    seen.add(key);
    return { form, demands, match, count };
  });
  return { width, size, used, free: size - used, entries };
}

/** The least first cell with those digits, of names the least. */
const smallest = ({ demands, choices }: ReturnType<typeof claimsOf>, radix: number): number =>
  demands.reduce((sum, each) => sum + each.value * power(radix, each.low), 0) +
  choices.reduce((sum, { pieces, values }) => {
    const value = Math.min(...values);
    return sum + pieces.reduce((all, { low, width, at }) => all + digitsAt(value, at, width, radix) * power(radix, low), 0);
  }, 0);

/** Values of the first cell that mean nothing yet, smallest first, at most `most`. */
export function freeOpcodes(machine: Machine, most: number): number[] {
  const size = power(machine.radix, programSpaceOf(machine).width);
  const free: number[] = [];
  for (let cell = 0; cell < Math.min(size, 1_000_000) && free.length < most; cell++) if (!formOf(machine, cell)) free.push(cell);
  return free;
}

/** How decode goes on: looks at digits of a cell and takes the branch with their value, until a form is left. */
export type DecodeTree =
  | { readonly kind: 'form'; readonly form: number }
  | { readonly kind: 'undefined' }
  | {
      readonly kind: 'look';
      readonly cell: number;
      readonly high: number;
      readonly low: number;
      readonly branches: readonly { readonly value: number; readonly tree: DecodeTree }[];
    };

/** The questions by which decoding finds a form, most telling first. */
export function decodeTree(machine: Machine): DecodeTree {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const left = machine.forms.map((form) => ({ form, digits: digitMap(demandsOf(form, width, radix), radix) }));
  return branch(left, new Set(), radix);
}

type Digits = ReadonlyMap<string, number>;

function digitMap(demands: readonly Demand[], radix: number): Digits {
  const digits = new Map<string, number>();
  for (const { cell, low, width, value } of demands)
    for (let at = 0; at < width; at++) digits.set(`${cell} ${low + at}`, digitsAt(value, at, 1, radix));
  return digits;
}

/** Looks next at the digits that all forms left have fixed and nobody has looked at; a run of neighbours at once. */
function branch(left: readonly { readonly form: Form; readonly digits: Digits }[], seen: ReadonlySet<string>, radix: number): DecodeTree {
  const [first] = left;
  if (!first) return { kind: 'undefined' };
  const common = [...first.digits.keys()].filter((key) => !seen.has(key) && left.every((each) => each.digits.has(key)));
  if (common.length === 0) return { kind: 'form', form: first.form.index };
  const places = common.map((key) => key.split(' ').map(Number) as [number, number]).sort((a, b) => a[0] - b[0] || b[1] - a[1]);
  const run = [itemAt(places, 0)];
  for (const place of places.slice(1)) {
    const last = run.at(-1)!;
    if (place[0] !== last[0] || place[1] !== last[1] - 1 || run.length >= 16) break;
    run.push(place);
  }
  const keys = run.map(([cell, digit]) => `${cell} ${digit}`);
  const groups = new Map<number, (typeof left)[number][]>();
  for (const each of left) {
    const value = keys.reduce((sum, key) => sum * radix + each.digits.get(key)!, 0);
    groups.set(value, [...(groups.get(value) ?? []), each]);
  }
  const branches = [...groups]
    .sort(([a], [b]) => a - b)
    .map(([value, forms]) => ({ value, tree: branch(forms, new Set([...seen, ...keys]), radix) }));
  return { kind: 'look', cell: itemAt(run, 0)[0], high: itemAt(run, 0)[1], low: run.at(-1)![1], branches };
}

/** Every operation whose instructions may begin with a cell: later cells tell them apart. */
function mnemonicsAt(machine: Machine, cell: number): string {
  const names = new Set(
    decoderOf(machine)
      .byFirst(cell)
      .map((each) => itemAt(spelledBy(machine, each, cell).split(/[^\w.]/), 0)),
  );
  return names.size === 0 ? '.' : [...names].join('/');
}

/** Columns of a map of so many first cells: as many as make round numbers in the machine's base. */
export const mapColumns = ({ radix, base }: Numerals, size: number): number =>
  Math.min(radix === 10 || base === 10 ? 10 : base === 8 ? 8 : 16, size);

/** A grid of sixteen (eight, ten) columns for first cells of up to 256 values, else a list of ranges. */
export function mapAsText(machine: Machine): string {
  const { width, size, used, free, entries } = opcodeMap(machine);
  const head = `${machine.name}: ${used} of ${size} first cells used, ${free} free.`;
  if (size > 256)
    return [
      head,
      ...entries.map(
        ({ form, match, count }) => `${shownDigits(match, width, machine)}  ${count > 1 ? `and ${count - 1} more  ` : ''}${form.written}`,
      ),
    ].join('\n');
  const columns = mapColumns(machine, size);
  const cells = Array.from({ length: size }, (_, cell) => mnemonicsAt(machine, cell));
  const widest = Math.max(...cells.map((each) => each.length)) + 1;
  const rows = Array.from({ length: Math.ceil(size / columns) }, (_, row) => {
    const line = cells.slice(row * columns, (row + 1) * columns).map((each) => each.padEnd(widest));
    return `${shownDigits(row * columns, width, machine)}  ${line.join('').trimEnd()}`;
  });
  const heading = Array.from({ length: columns }, (_, column) => column.toString(16).toUpperCase().padEnd(widest)).join('');
  return [head, `${' '.repeat(shownDigits(0, width, machine).length + 2)}${heading.trimEnd()}`, ...rows].join('\n');
}

/** Of forms that are as they were in a machine before a change of it. */
const patterns = new WeakMap<Form, { readonly of: string; readonly text: string }>();

/** The first cells of a form as people write them: digits where fixed, dots where free. */
export function patternText(machine: Machine, form: Form): string {
  const { radix, base } = machine;
  const { width } = programSpaceOf(machine);
  const of = `${radix} ${base} ${width}`;
  let known = patterns.get(form);
  if (known?.of !== of) patterns.set(form, (known = { of, text: freshPattern(machine, form, width) }));
  return known.text;
}

function freshPattern(machine: Machine, form: Form, width: number): string {
  const { radix } = machine;
  const demands = demandsOf(form, width, radix);
  const fixed = demands.filter((each) => each.cell === 0).reduce((sum, each) => sum + each.width, 0);
  if (fixed === width)
    return shownNumber(
      demands.filter((each) => each.cell === 0).reduce((sum, each) => sum + each.value * power(radix, each.low), 0),
      width,
      machine,
    );
  const digits = Array.from({ length: width }, (_, at) => {
    const demand = demands.find((each) => each.cell === 0 && at >= each.low && at < each.low + each.width);
    return demand ? String(digitsAt(demand.value, at - demand.low, 1, radix)) : '·';
  });
  return digits
    .toReversed()
    .join('')
    .replace(/(?!^)(?=(?:.{4})+$)/g, radix === 2 ? ' ' : '');
}

/** Some first cells that begin alike, and what they may mean. */
export interface MapCell {
  /** The least of them. */
  readonly first: number;
  readonly forms: readonly Form[];
  /** Two of the forms mean the same cells. */
  readonly clash: boolean;
}

export interface FirstCells {
  readonly columns: number;
  /** How many first cells one entry stands for. */
  readonly step: number;
  readonly cells: readonly MapCell[];
}

/** Leading digits by which a map is laid out: so many that it has room on a screen. */
const MOST_DIGITS: Readonly<Record<2 | 10, number>> = { 2: 8, 10: 2 };

/** All first cells in at most 256 entries; of wider cells an entry stands for all that begin alike. */
export function firstCells(machine: Machine): FirstCells {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const leading = Math.min(width, MOST_DIGITS[radix]);
  const step = power(radix, width - leading);
  const { byFirst } = decoderOf(machine);
  const entries = power(radix, leading);
  const meant = Array.from({ length: entries }, (): Form[] => []);
  if (step > 1)
    for (const form of machine.forms) for (const at of entriesOf(leadingDigits(form, width, leading, radix), radix)) meant[at]?.push(form);
  const clashes = clashesIn(machine);
  const cells = meant.map((several, at): MapCell => {
    const forms = step === 1 ? byFirst(at) : several;
    return {
      first: at * step,
      forms,
      clash: clashes.size > 0 && forms.some((each) => forms.some((other) => clashes.has(`${each.index} ${other.index}`))),
    };
  });
  return { columns: mapColumns(machine, cells.length), step, cells };
}

/** All numbers with those digits, high to low; −1 stands for each. */
const entriesOf = (digits: readonly number[], radix: number): number[] =>
  digits.reduce<number[]>(
    (all, digit) =>
      all.flatMap((each) => (digit === -1 ? Array.from({ length: radix }, (_, any) => each * radix + any) : [each * radix + digit])),
    [0],
  );

/** The first digits of a form's first cell, high to low; −1 where any may stand. */
function leadingDigits(form: Form, width: number, leading: number, radix: number): number[] {
  const demands = demandsOf(form, width, radix).filter((each) => each.cell === 0);
  return Array.from({ length: leading }, (_, place) => {
    const digit = width - 1 - place;
    const demand = demands.find((each) => digit >= each.low && digit < each.low + each.width);
    return demand ? digitsAt(demand.value, digit - demand.low, 1, radix) : -1;
  });
}

/** Pairs of forms, by their indices in both orders, that some cells mean both. */
function clashesIn(machine: Machine): ReadonlySet<string> {
  const { radix, forms } = machine;
  const { width } = programSpaceOf(machine);
  const claims = forms.map((form) => claimsOf(form, width, radix));
  const found = new Set<string>();
  const leading = forms.map((form) => leadingDigits(form, width, Math.min(width, MOST_DIGITS[radix]), radix));
  // Only forms that begin alike can mean the same: those without a free digit there are compared with few.
  const alike = new Map<number, Form[]>();
  for (const [at, form] of forms.entries()) {
    const rivals = new Set<Form>();
    for (const entry of entriesOf(itemAt(leading, at), radix)) {
      const own = alike.get(entry) ?? [];
      own.forEach((each) => rivals.add(each));
      alike.set(entry, [...own, form]);
    }
    for (const other of rivals) {
      const before = other.index;
      const [one, two] = [itemAt(claims, at), itemAt(claims, before)];
      const same = form.format.cells === other.format.cells;
      const cells = same ? commonCells(one, two, form.format.cells, radix) : commonCells(firstCellOf(one), firstCellOf(two), 1, radix);
      if (!cells) continue;
      found.add(`${form.index} ${other.index}`);
      found.add(`${other.index} ${form.index}`);
    }
  }
  return found;
}

/** The values of fixed fields by which an instruction of a format begins with a cell; fields that reach beyond it are left out. */
export function fixedAt(
  machine: Machine,
  format: Format,
  fields: readonly string[],
  cell: number,
): { readonly field: string; readonly value: number }[] {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const low = (format.cells - 1) * width;
  return format.fields.flatMap(({ name, pieces }) => {
    if (!fields.includes(name) || pieces.some((each) => each.low < low)) return [];
    const value = pieces.reduce(
      (sum, piece) => sum + digitsAt(cell, piece.low - low, piece.high - piece.low + 1, radix) * power(radix, piece.at),
      0,
    );
    return [{ field: name, value }];
  });
}

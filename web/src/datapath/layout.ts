/**
 * Machine to drawing: where its registers, ALU and memories stand, from their roles alone. Two upright lines with the ALU
 * between them, joined by a level one below; every part hangs on one of them. Knows no machine and no page.
 */
import { pairsOf, type RegisterPair } from '@zettak/core/machine/model/pairs';
import { programSpaceOf, type DeviceKind, type Machine, type Role, type Space } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { shownLength, type Numerals } from '@zettak/core/text/number';

export interface Point {
  readonly x: number;
  readonly y: number;
}

export interface Box extends Point {
  readonly width: number;
  readonly height: number;
}

/** Where a part hangs on: a point of its edge, and the upright line that is level with it. */
export interface Hold {
  readonly line: 'left' | 'right';
  readonly from: Point;
}

/** large: value, old value and other readings; plain: name above value; small: name beside value; cell: one of a file; wide: the instruction. */
export type Look = 'large' | 'plain' | 'small' | 'cell' | 'wide';

export interface RegisterBox extends Box {
  readonly register: number;
  readonly look: Look;
  readonly hold: Hold;
}

/** Registers that belong together, with one way in and out. */
export interface FileBox extends Box {
  readonly title: string;
}

/** A pair whose halves stand beside each other. */
export interface PairBox extends Box, RegisterPair {
  readonly hold: Hold;
}

export interface SpaceBox extends Box {
  readonly space: number;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly processor: Box;
  readonly registers: readonly RegisterBox[];
  readonly files: readonly FileBox[];
  readonly pairs: readonly PairBox[];
  readonly alu: Box;
  readonly spaces: readonly SpaceBox[];
  readonly outside: Box;
  /** Where the two upright lines stand. */
  readonly left: number;
  readonly right: number;
  /** Where results climb from the ALU to an accumulator above it. */
  readonly riser: number;
  /** Accumulators that stand right above an input of the ALU. */
  readonly above: { readonly a: number | undefined; readonly b: number | undefined };
  /** Heights of the level lines: of data, and below it of addresses that no register of the memory brings. */
  readonly dataLine: number;
  readonly addressLine: number;
}

const EDGE = 12;
const TOP = 34;
const ALU = { width: 132, height: 66 };
/** Between a part and the upright line that it hangs on. */
const STUB = 14;

/** Room that a value takes in large digits, and a name beside or above it. */
export const DIGIT = 14.5;
const LETTER = 9;

interface Ground {
  readonly machine: Machine;
  readonly pairs: readonly RegisterPair[];
  /** Of a file of registers, where its cells are no wider than most. */
  readonly rows: number;
}

const roleOf = ({ machine }: Ground, at: number): Role | undefined => itemAt(machine.registers, at).role;
const digitsOf = ({ machine }: Ground, at: number): number => shownLength(itemAt(machine.registers, at).width, machine);
const lettersOf = ({ machine }: Ground, at: number): number => itemAt(machine.registers, at).name.length;

/** The room that a drawing has on the bench, in px: where a file of registers is high, it makes all the rest small. */
const ROOM = { width: 585, height: 310 };
const ROWS = [4, 3, 2, 1];
/** How much larger letters have to become for a file to be lower and wider. */
const WORTH_IT = 1.05;

const sizeIn = ({ width, height }: Drawing): number => Math.min(ROOM.width / width, ROOM.height / height);

/** Where everything of a machine stands, in units of the drawing; `hidden`: names of registers that a lesson does without. */
export function layOut(machine: Machine, hidden: readonly string[] = []): Drawing {
  const pairs = pairsOf(machine);
  return ROWS.map((rows) => laidOut({ machine, pairs, rows }, hidden)).reduce((best, each) =>
    sizeIn(each) > sizeIn(best) * WORTH_IT ? each : best,
  );
}

function laidOut(ground: Ground, hidden: readonly string[]): Drawing {
  const { machine } = ground;
  const parts = partsOf(ground, hidden);
  const left = leftColumn(ground, parts);
  const leftLine = EDGE + left.width + STUB;
  const middle = { x: leftLine + 28, width: middleWidth(ground, parts.accumulators) };
  const upper = accumulatorBoxes(ground, parts.accumulators, middle);
  const aluTop = bottomOf(upper.boxes, TOP + 26) + 30;
  const alu = { x: middle.x + (middle.width - ALU.width) / 2, y: aluTop, ...ALU };
  const rightLine = middle.x + middle.width + STUB;
  const right = rightColumn(ground, parts, { x: rightLine + STUB, least: aluTop + ALU.height });
  const dataLine = Math.max(aluTop + ALU.height + 26, right.bottom + 10, left.bottom - 20, memoriesHeight(machine) - 26);
  const processor = { x: 0, y: 0, width: rightLine + STUB + (right.width > 0 ? right.width + 12 : 0), height: dataLine + 26 };
  const memoryX = processor.width + 34;
  const width = memoryX + memoryWidth(machine);
  const registers = [...left.boxes, ...upper.boxes, ...right.boxes];
  return {
    ...{ width, processor, alu, registers, riser: leftLine + 13, above: upper.above },
    height: processor.height + 8 + outsideHeight(machine),
    files: [...left.files, ...upper.files, ...right.files],
    pairs: ground.pairs.flatMap((pair) => pairBox(registers, pair)),
    spaces: spaceBoxes(machine, { x: memoryX, height: processor.height }),
    outside: { x: 0, y: processor.height + 8, width, height: outsideHeight(machine) },
    ...{ left: leftLine, right: rightLine, dataLine, addressLine: dataLine + 13 },
  };
}

const bottomOf = (boxes: readonly Box[], none: number): number => Math.max(none, ...boxes.map((each) => each.y + each.height));

// ---- what stands where ----

interface Parts {
  readonly counter: readonly number[];
  readonly single: readonly number[];
  readonly arrays: readonly { readonly title: string; readonly registers: readonly number[] }[];
  readonly instruction: readonly number[];
  readonly accumulators: readonly number[];
  readonly address: readonly number[];
  readonly data: readonly number[];
  readonly scratch: readonly number[];
}

function partsOf(ground: Ground, hidden: readonly string[]): Parts {
  const { machine, pairs } = ground;
  const all = machine.registers.map((_, at) => at).filter((at) => !hidden.includes(itemAt(machine.registers, at).name));
  const own = all.filter((at) => roleOf(ground, at) === 'accumulator');
  const partners = own.length === 1 ? pairs.filter((each) => each.registers.includes(own[0]!)).flatMap((each) => each.registers) : [];
  const accumulators = own.length === 1 ? [...new Set([...own, ...partners.filter((at) => all.includes(at))])].slice(0, 2) : own;
  const of = (role: Role): number[] => all.filter((at) => roleOf(ground, at) === role && !accumulators.includes(at));
  const special = [...accumulators, ...of('memory address'), ...of('memory data'), ...of('instruction'), ...of('hidden scratch')];
  const rest = all.filter((at) => !special.includes(at) && at !== machine.programCounter);
  const arrayOf = (at: number): string | undefined => itemAt(machine.registers, at).array;
  const names = [...new Set(rest.flatMap((at) => arrayOf(at) ?? []))];
  return {
    counter: all.filter((at) => at === machine.programCounter),
    single: rest.filter((at) => arrayOf(at) === undefined),
    arrays: names.map((title) => ({ title, registers: rest.filter((at) => arrayOf(at) === title) })),
    ...{ instruction: of('instruction'), accumulators, address: of('memory address'), data: of('memory data') },
    scratch: of('hidden scratch'),
  };
}

interface Column {
  readonly boxes: readonly RegisterBox[];
  readonly files: readonly FileBox[];
}

/** PC, then what stands alone, then files, and the instruction at the foot; several of its registers are a file. */
function leftColumn(ground: Ground, parts: Parts): Column & { readonly width: number; readonly bottom: number } {
  const { counter, single, arrays, instruction } = parts;
  // Of several instruction registers each holds a cell: they stand beside each other, as the instruction does.
  const several = instruction.length > 1;
  const filed = single.length > 3 || (single.length > 1 && (arrays.length > 0 || several));
  const groups = [
    ...(filed ? [{ title: 'registers', registers: single }] : []),
    ...arrays,
    ...(several ? [{ title: 'instruction', registers: instruction }] : []),
  ];
  const grids = groups.map((each) => gridOf(ground, each));
  const cells = slotsOf(ground);
  const width = Math.max(
    150,
    ...grids.map((each) => each.width),
    ...(several ? [] : instruction).map(() => Math.min(240, cells.all * DIGIT + cells.count * 14 + 16)),
  );
  const boxes: RegisterBox[] = [];
  const files: FileBox[] = [];
  let y = TOP;
  const put = (register: number, height: number, look: Look): void => {
    const box = { x: EDGE, y, width, height };
    boxes.push({ ...box, register, look, hold: { line: 'left', from: { x: EDGE + width, y: y + height / 2 } } });
    y += height + 8;
  };
  for (const each of [...counter, ...(filed ? [] : single)]) put(each, 52, 'plain');
  for (const grid of grids) {
    const placed = placeGrid(lowered(grid, width), { x: EDGE, y, width, line: 'left' });
    boxes.push(...placed.boxes);
    files.push(placed.file);
    y += placed.file.height + 8;
  }
  if (!several) for (const each of instruction) put(each, 64, 'wide');
  return { boxes, files, width, bottom: y - 8 };
}

/** Characters of the cells that an instruction takes, and how many cells there are. */
function slotsOf({ machine }: Ground): { readonly all: number; readonly count: number } {
  const { width } = itemAt(machine.registers, machine.instructionRegister);
  const cell = programSpaceOf(machine).width;
  const count = Math.max(1, Math.round(width / cell));
  return { count, all: count * shownLength(cell, machine) };
}

interface Grid {
  readonly title: string;
  readonly registers: readonly number[];
  /** Registers that stay beside each other: two where there are pairs. */
  readonly step: number;
  readonly columns: number;
  readonly cell: number;
  readonly width: number;
}

const CELL_HEIGHT = 44;
/** Cells wider than this stand in more rows, and further apart, so that long values can be told from each other. */
const WIDE_CELL = 96;

/** Registers as a file: halves of pairs beside each other, as many columns as keep it low. */
function gridOf(ground: Ground, { title, registers }: { title: string; registers: readonly number[] }): Grid {
  const ordered = pairsFirst(ground, registers);
  const widest = Math.max(...ordered.map((at) => Math.max(digitsOf(ground, at) * DIGIT, lettersOf(ground, at) * LETTER)));
  const close = Math.max(34, Math.min(widest, 8 * DIGIT) + 10);
  const [cell, rows] = close > WIDE_CELL ? [close + 10, 2 * ground.rows] : [close, ground.rows];
  const paired = ground.pairs.some((each) => each.registers.every((at) => ordered.includes(at)));
  const step = paired ? 2 : 1;
  let columns = Math.min(ordered.length, step);
  while (columns < ordered.length && (Math.ceil(ordered.length / columns) > rows || (columns + step) * cell <= 142)) columns += step;
  return { title, registers: ordered, step, columns, cell, width: columns * cell + 8 };
}

/** The same, as low as the width of its column lets it be, with rows of one length. */
function lowered(grid: Grid, width: number): Grid {
  const { registers, step, cell } = grid;
  const fitting = Math.max(grid.columns, Math.floor((width - 8) / cell / step) * step);
  const rows = Math.ceil(registers.length / fitting);
  return { ...grid, columns: Math.min(fitting, Math.ceil(registers.length / rows / step) * step) };
}

/** Whole pairs, in the order of their first halves, then what is in none. */
function pairsFirst({ pairs }: Ground, registers: readonly number[]): number[] {
  const whole = pairs.filter((each) => each.registers.length === 2 && each.registers.every((at) => registers.includes(at)));
  const taken = new Set<number>();
  const first = whole.flatMap(({ registers: halves }) => {
    if (halves.some((at) => taken.has(at))) return [];
    halves.forEach((at) => taken.add(at));
    return halves;
  });
  return [...first, ...registers.filter((at) => !taken.has(at))];
}

function placeGrid(
  { title, registers, columns, cell }: Grid,
  { x, y, width, line }: { x: number; y: number; width: number; line: Hold['line'] },
): { boxes: RegisterBox[]; file: FileBox } {
  const rows = Math.ceil(registers.length / columns);
  const each = Math.max(cell, (width - 8) / columns);
  const file = { title, x, y, width: Math.max(width, columns * each + 8), height: rows * CELL_HEIGHT + 8 };
  const hold: Hold = { line, from: { x: line === 'left' ? x + file.width : x, y: y + file.height / 2 } };
  const boxes = registers.map((register, at): RegisterBox => {
    const place = { x: x + 4 + (at % columns) * each, y: y + 4 + Math.floor(at / columns) * CELL_HEIGHT };
    return { ...place, register, width: each, height: CELL_HEIGHT, look: 'cell', hold };
  });
  return { boxes, file };
}

/** Two accumulators stand beside each other, each above one input of the ALU. */
function middleWidth(ground: Ground, accumulators: readonly number[]): number {
  if (accumulators.length > 2) return Math.max(ALU.width, gridOf(ground, { title: 'accumulators', registers: accumulators }).width);
  const widest = Math.max(0, ...accumulators.map((at) => Math.max(digitsOf(ground, at) * DIGIT, lettersOf(ground, at) * LETTER) + 22));
  if (accumulators.length === 2) return Math.max(ALU.width, 2 * widest + 12);
  const [one] = accumulators;
  if (one === undefined) return ALU.width;
  const { width } = itemAt(ground.machine.registers, one);
  // Its bits in groups of four, and the signed reading behind them.
  const readings = ground.machine.radix === 2 && width <= 9 ? (width + Math.floor((width - 1) / 4) + 5) * 9.7 + 20 : 0;
  return Math.max(ALU.width, digitsOf(ground, one) * 18.5 + 24, readings);
}

function accumulatorBoxes(
  ground: Ground,
  accumulators: readonly number[],
  { x, width }: { x: number; width: number },
): Column & { readonly above: Drawing['above'] } {
  const [a, b, more] = accumulators;
  if (more !== undefined) {
    const placed = placeGrid(gridOf(ground, { title: 'accumulators', registers: accumulators }), {
      x,
      y: TOP,
      width,
      line: 'left',
    });
    return { boxes: placed.boxes, files: [placed.file], above: { a: undefined, b: undefined } };
  }
  if (a === undefined) return { boxes: [], files: [], above: { a: undefined, b: undefined } };
  if (b === undefined) {
    const box: RegisterBox = { x, y: TOP, width, height: 78, register: a, look: 'large', hold: { line: 'left', from: { x, y: TOP + 22 } } };
    return { boxes: [box], files: [], above: { a, b: undefined } };
  }
  const half = (width - 12) / 2;
  const boxes = [a, b].map((register, at): RegisterBox => {
    const place = { x: x + at * (half + 12), y: TOP, width: half, height: 52 };
    const hold: Hold = at === 0 ? { line: 'left', from: { x, y: TOP + 16 } } : { line: 'right', from: { x: x + width, y: TOP + 16 } };
    return { ...place, register, look: 'plain', hold };
  });
  return { boxes, files: [], above: { a, b } };
}

/** The memory's own registers, and what is hidden from programs between them. */
function rightColumn(
  ground: Ground,
  { address, data, scratch }: Parts,
  { x, least }: { x: number; least: number },
): Column & { readonly width: number; readonly bottom: number } {
  const loose = scratch.length > 2 ? [] : scratch;
  const small = [...address, ...loose, ...data];
  const grid = scratch.length > 2 ? gridOf(ground, { title: 'hidden', registers: scratch }) : undefined;
  if (small.length === 0 && !grid) return { boxes: [], files: [], width: 0, bottom: 0 };
  const width = Math.max(84, grid?.width ?? 0, ...small.map((at) => lettersOf(ground, at) * 10 + digitsOf(ground, at) * DIGIT + 30));
  const boxes: RegisterBox[] = [];
  const files: FileBox[] = [];
  let y = TOP;
  const put = (register: number): void => {
    const box = { x, y, width, height: 38 };
    boxes.push({ ...box, register, look: 'small', hold: { line: 'right', from: { x, y: y + 19 } } });
    y += 48;
  };
  [...address, ...loose].forEach(put);
  if (grid) {
    const placed = placeGrid(grid, { x, y, width, line: 'right' });
    boxes.push(...placed.boxes);
    files.push(placed.file);
    y += placed.file.height + 10;
  }
  // Data come in and go out at the height of the ALU.
  y = Math.max(y, least - 38 * data.length - 10 * (data.length - 1));
  data.forEach(put);
  return { boxes, files, width, bottom: y - 10 };
}

function pairBox(registers: readonly RegisterBox[], pair: RegisterPair): PairBox[] {
  const halves = pair.registers.map((at) => registers.find((each) => each.register === at));
  const [high, low, more] = halves;
  if (!high || !low || more || high.y !== low.y || low.x < high.x || low.x - high.x - high.width > 12) return [];
  return [{ ...pair, x: high.x, y: high.y, width: low.x + low.width - high.x, height: high.height, hold: high.hold }];
}

// ---- memories and what stands outside ----

/** What the memory that programs run in needs for the instruction under way and the next one; and any memory for one cell. */
export const INSTRUCTIONS_HEIGHT = 132;
const ONE_CELL = 57;

const SPACE_GAP = 8;

/** And for data beside the top of a stack, where one lies there. */
const STACK = 104;

/** What all memories need, one over the other. */
const memoriesHeight = ({ spaces, stacks, programSpace }: Machine): number =>
  INSTRUCTIONS_HEIGHT +
  (spaces.length - 1) * (ONE_CELL + SPACE_GAP) +
  (spaces.length === 1 && stacks.some((each) => each.space === programSpace) ? STACK : 0);

/** All as high as each other, as far as the instructions have their room. */
function spaceBoxes(machine: Machine, { x, height }: { x: number; height: number }): SpaceBox[] {
  const count = machine.spaces.length;
  const room = height - SPACE_GAP * (count - 1);
  const own = Math.max(room / count, INSTRUCTIONS_HEIGHT);
  const others = (room - own) / Math.max(1, count - 1);
  const width = memoryWidth(machine);
  let y = 0;
  return machine.spaces.map((_, space) => {
    const box = { space, x, width, y, height: space === machine.programSpace ? own : others };
    y += box.height + SPACE_GAP;
    return box;
  });
}

/** Lamps and switches stand below their names, large digits too, what else there is beside them. */
const outsideHeight = ({ devices }: Machine): number =>
  Math.max(50, ...devices.map(({ kind, lines }) => (lines.size > 0 ? 70 : OUTSIDE[kind])));
const OUTSIDE: Readonly<Record<DeviceKind, number>> = { lamps: 70, switches: 70, digits: 60, timer: 60, keyboard: 50, display: 50 };

/** Digits that an address of a space takes on screen, its bank included. */
export const shownPlace = ({ addressWidth, banks }: Space, numerals: Numerals): number =>
  shownLength(addressWidth, numerals) + (banks > 1 ? 2 : 0);

/** How many characters a cell's value takes. */
export const shownCell = ({ width }: Space, numerals: Numerals): number => shownLength(width, numerals);

/** Room for an address, a value and the beginning of a name. */
function memoryWidth(machine: Machine): number {
  const { spaces } = machine;
  const widest = Math.max(...spaces.map((each) => shownPlace(each, machine) + shownCell(each, machine)));
  const titled = Math.max(...spaces.map((each) => each.title.length)) * 8.6 + 74;
  return Math.max(Math.min(210, 118 + Math.max(0, widest - 4) * 11), Math.min(210, titled));
}

/** The box of a register; undefined where it is not drawn. */
export const boxOf = (drawing: Drawing, register: number): RegisterBox | undefined =>
  drawing.registers.find((each) => each.register === register);

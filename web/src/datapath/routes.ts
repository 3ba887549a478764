/** Which way a value travels over the drawing. The same code finds the idle lines and the way of each token. */
import {
  toldTransfers,
  type PairRef,
  type PlaceRef,
  type ReadValue,
  type TickReport,
  type ToldTransfer,
} from '@zettak/core/engine/meaning/report';
import { registersIn, withRole, type Machine } from '@zettak/core/machine/model/machine';
import { operandsOf, stepOf, workIn } from '@zettak/core/notation/operation';
import { rolesOf } from '@zettak/core/engine/meaning/tickRecorder';
import { flatActions, possibleTargets, type ElementPlace, type Expr, type Target } from '@zettak/core/notation/tree';
import { shownDigits } from '@zettak/core/text/number';
import { boxOf, type Box, type Drawing, type Hold, type Point } from './layout';
import { itemAt } from '@zettak/core/text/itemAt';

export type { Point };

export interface Journey {
  readonly points: readonly Point[];
  readonly path: 'address' | 'data';
  /** The value as its token shows it. */
  readonly text: string;
  /** Journeys of stage 1 begin when those of stage 0 have arrived. */
  readonly stage: 0 | 1;
}

type Where =
  /** One register, or a pair's, high first. */
  | { readonly kind: 'register'; readonly registers: readonly number[] }
  | { readonly kind: 'space'; readonly space: number }
  | { readonly kind: 'outside' };
type AluInput = 'a' | 'b';
type Path = 'address' | 'data';

const p = (x: number, y: number): Point => ({ x, y });

interface Ground {
  readonly machine: Machine;
  readonly drawing: Drawing;
}

/** Where a register or a pair stands and hangs on; undefined where it is not drawn. */
function standing({ drawing }: Ground, registers: readonly number[]): (Box & { readonly hold: Hold }) | undefined {
  const key = registers.join();
  return drawing.pairs.find((each) => each.registers.join() === key) ?? boxOf(drawing, registers[0]!);
}

/** The end of a way: from a part to the line that it hangs on, which is one of the four. */
interface End {
  readonly points: readonly Point[];
  readonly on: 'left' | 'right' | 'level';
}

/** Nothing where the part is not drawn. */
function endOf(ground: Ground, where: Where, path: Path): End | undefined {
  const { drawing } = ground;
  switch (where.kind) {
    case 'register': {
      const hold = standing(ground, where.registers)?.hold;
      return hold && { points: [hold.from, p(drawing[hold.line], hold.from.y)], on: hold.line };
    }
    case 'space':
      return { points: toSpace(drawing, where.space, path), on: 'level' };
    case 'outside':
      return { points: [p(drawing.left, drawing.outside.y), p(drawing.left, drawing.addressLine)], on: 'left' };
    default:
      return where satisfies never;
  }
}

/** Beside the memories two lines climb to those that the level lines do not reach. */
const CLIMB = { data: 9, address: 18 } as const;

/** From a memory to its level line. */
function toSpace(drawing: Drawing, space: number, path: Path): Point[] {
  const box = itemAt(drawing.spaces, space);
  const level = path === 'address' ? drawing.addressLine : drawing.dataLine;
  if (box.y + box.height >= drawing.addressLine) return [p(box.x, level)];
  const y = box.y + box.height - (path === 'address' ? 34 : 16);
  const x = box.x - CLIMB[path];
  return [p(box.x, y), p(x, y), p(x, level)];
}

/** Along the lines from one end to another. */
function along({ drawing }: Ground, from: End, to: End, path: Path): Point[] {
  const [a, b] = [from.points.at(-1)!, to.points.at(-1)!];
  if (from.on === to.on) return from.on === 'level' && a.y !== b.y ? [p(drawing.left, a.y), p(drawing.left, b.y)] : [];
  if (from.on === 'level') return [p(drawing[to.on as 'left' | 'right'], a.y)];
  if (to.on === 'level') return [p(drawing[from.on], b.y)];
  const level = path === 'address' ? drawing.addressLine : drawing.dataLine;
  return [p(drawing[from.on], level), p(drawing[to.on], level)];
}

/** Without points that are no bends. */
const simplified = (points: readonly Point[]): Point[] =>
  points
    .filter((each, at) => at === 0 || each.x !== points[at - 1]!.x || each.y !== points[at - 1]!.y)
    .filter((each, at, list) => {
      const [before, after] = [list[at - 1], list[at + 1]];
      if (!before || !after) return true;
      const between = (low: number, middle: number, high: number): boolean => (middle - low) * (high - middle) > 0;
      const upright = before.x === each.x && each.x === after.x && between(before.y, each.y, after.y);
      const level = before.y === each.y && each.y === after.y && between(before.x, each.x, after.x);
      return !upright && !level;
    });

function joined(ground: Ground, from: End | undefined, to: End | undefined, path: Path): Point[] {
  if (!from || !to) return [];
  return simplified([...from.points, ...along(ground, from, to, path), ...to.points.toReversed()]);
}

/** Beside the memory, its own registers speak with it directly. */
function direct({ machine, drawing }: Ground, from: Where, to: Where): Point[] | undefined {
  const [register, space] = from.kind === 'register' ? [from, to] : [to, from];
  if (register.kind !== 'register' || space.kind !== 'space') return undefined;
  const { role } = itemAt(machine.registers, register.registers[0]!);
  if (role !== 'memory address' && role !== 'memory data') return undefined;
  const box = boxOf(drawing, register.registers[0]!);
  if (!box) return [];
  const y = box.y + box.height / 2;
  const target = itemAt(drawing.spaces, space.space);
  const bottom = target.y + target.height - 16;
  const meet = y < target.y + 14 ? target.y + 14 : y > bottom ? (role === 'memory address' ? bottom - 18 : bottom) : y;
  const x = target.x - CLIMB[role === 'memory address' ? 'address' : 'data'];
  const points = [p(box.x + box.width, y), ...(meet === y ? [] : [p(x, y), p(x, meet)]), p(target.x, meet)];
  return from === register ? points : points.toReversed();
}

/** No points where an end of it is not drawn. */
function way(ground: Ground, from: Where, to: Where, path: Path): Point[] {
  return direct(ground, from, to) ?? joined(ground, endOf(ground, from, path), endOf(ground, to, path), path);
}

function intoAlu(ground: Ground, from: Where, input: AluInput): Point[] {
  const { alu, above, left, right } = ground.drawing;
  const x = input === 'a' ? alu.x + 32 : alu.x + alu.width - 32;
  if (from.kind === 'register' && from.registers.length === 1 && above[input] === from.registers[0]) {
    const box = boxOf(ground.drawing, from.registers[0]!)!;
    return [p(x, box.y + box.height), p(x, alu.y)];
  }
  const y = alu.y - 11;
  const side = input === 'a' ? left : right;
  return joined(
    ground,
    endOf(ground, from, 'data'),
    { points: [p(x, alu.y), p(x, y), p(side, y)], on: input === 'a' ? 'left' : 'right' },
    'data',
  );
}

function outOfAlu(ground: Ground, to: Where): Point[] {
  const { alu, above, riser, dataLine } = ground.drawing;
  const [x, bottom] = [alu.x + alu.width / 2, alu.y + alu.height];
  if (to.kind === 'register' && above.a !== undefined && to.registers.includes(above.a)) {
    const box = boxOf(ground.drawing, above.a)!;
    const y = box.y + box.height - 14;
    return [p(x, bottom), p(x, bottom + 11), p(riser, bottom + 11), p(riser, y), p(box.x, y)];
  }
  return joined(ground, { points: [p(x, bottom), p(x, dataLine)], on: 'level' }, endOf(ground, to, 'data'), 'data');
}

const inOne = (register: number): Where => ({ kind: 'register', registers: [register] });

const whereOf = (place: PlaceRef | PairRef): Where | undefined => {
  switch (place.kind) {
    case 'register':
      return inOne(place.register);
    case 'pair':
      return { kind: 'register', registers: place.registers };
    case 'cell':
      return { kind: 'space', space: place.space };
    case 'port':
    case 'line':
      return { kind: 'outside' };
    case 'flag':
      return undefined;
    default:
      return place satisfies never;
  }
};

/** The ways of everything that moved in a tick, as far as its ends are drawn; what was written as one moves as one. */
export function journeysOf(machine: Machine, drawing: Drawing, report: TickReport): Journey[] {
  const ground = { machine, drawing };
  const journeys = toldTransfers(report.transfers).flatMap((each) => transferJourneys(ground, each));
  if (report.compared) journeys.push(...operandJourneys(ground, report.compared.sources));
  const { service } = report;
  if (service?.kind?.startsWith('write') && service.place && service.value !== undefined) {
    const text = shownDigits(service.value, service.place.width, machine);
    const from: Where = { kind: 'register', registers: service.place.registers };
    journeys.push({ points: way(ground, from, { kind: 'outside' }, 'data'), path: 'data', text, stage: 0 });
  }
  return journeys.filter((each) => each.points.length > 1);
}

function transferJourneys(ground: Ground, transfer: ToldTransfer): Journey[] {
  const to = whereOf(transfer.target);
  if (!to) return [];
  const text = shownDigits(transfer.value, transfer.width, ground.machine);
  const { path } = transfer;
  const addressed = addressJourneys(ground, transfer, to);
  switch (transfer.route) {
    case 'service':
      return [{ points: way(ground, { kind: 'outside' }, to, 'data'), path, text, stage: 0 }];
    // A register that steps itself is told so where it stands: nothing travels.
    case 'count':
      return [];
    case 'alu':
      return [...addressed, ...operandJourneys(ground, transfer.sources), { points: outOfAlu(ground, to), path, text, stage: 1 }];
    case 'straight': {
      const place = sourceOf(transfer);
      const from = place && whereOf(place);
      if (!from) return addressed;
      return [
        ...addressed,
        { points: way(ground, from, to, 'data'), path, text, stage: addressed.length > 0 && from.kind === 'space' ? 1 : 0 },
      ];
    }
    default:
      return transfer.route satisfies never;
  }
}

/** Where a value is seen to come from: of one that was put together, its longest part that lies anywhere. */
function sourceOf({ sources, parts }: ToldTransfer): ReadValue['place'] {
  const placed = (parts ?? sources.slice(0, 1)).filter((each) => each.place);
  return placed.reduce<ReadValue | undefined>((longest, each) => (longest && longest.width >= each.width ? longest : each), undefined)
    ?.place;
}

/** The address on its way to the memory that is read or written: what arrives there, whatever was added to a register for it. */
function addressJourneys(ground: Ground, { addressed, sources, target }: ToldTransfer, to: Where): Journey[] {
  const cell = [target, ...sources.map((each) => each.place)].find((each) => each?.kind === 'cell');
  const [reading] = addressed;
  const from = reading?.place && whereOf(reading.place);
  if (!cell || !from) return [];
  const { cells, addressWidth } = itemAt(ground.machine.spaces, cell.space);
  const address = cell.address % cells;
  const text = shownDigits(address, Number(reading.value) === address ? reading.width : addressWidth, ground.machine);
  const space: Where = cell === target ? to : { kind: 'space', space: cell.space };
  return [{ points: way(ground, from, space, 'address'), path: 'address', text, stage: 0 }];
}

function operandJourneys(ground: Ground, sources: readonly ReadValue[]): Journey[] {
  return sources.slice(0, 2).flatMap((each, at): Journey[] => {
    const from = each.place && whereOf(each.place);
    if (!from) return [];
    const text = shownDigits(each.value, each.width, ground.machine);
    return [{ points: intoAlu(ground, from, at === 0 ? 'a' : 'b'), path: 'data', text, stage: 0 }];
  });
}

export interface Wire {
  readonly points: readonly Point[];
  readonly path: Path;
}

/** Every line that some tick of the machine uses, once each. */
export function wiresOf(machine: Machine, drawing: Drawing): Wire[] {
  const ground = { machine, drawing };
  const wires = new Map<string, Wire>();
  const add = (points: readonly Point[], path: Wire['path']): void => {
    if (points.length > 1) wires.set(points.map(({ x, y }) => `${x},${y}`).join(' '), { points, path });
  };
  for (const { tick } of [...machine.opening, ...machine.forms.flatMap((each) => each.schedule), ...machine.entry]) {
    for (const action of flatActions(tick.actions)) {
      if (action.kind === 'transfer') for (const target of possibleTargets(action.target)) wireTransfer(ground, target, action.value, add);
      if (action.kind === 'compare') wireOperands(ground, action.flagged.operation, add);
    }
  }
  for (const { argument, result } of machine.traps) {
    const place = argument ?? result;
    for (const register of place ? registersIn(place) : []) add(way(ground, inOne(register), { kind: 'outside' }, 'data'), 'data');
  }
  return [...wires.values()];
}

type Add = (points: readonly Point[], path: Path) => void;

const registersOf = ({ first, count, scale, offset }: ElementPlace): Where[] =>
  Array.from({ length: count }, (_, at) => inOne(first + scale * at + offset));

function goalsOf(target: Target): Where[] {
  switch (target.kind) {
    case 'cell':
      return [{ kind: 'space', space: target.space }];
    case 'register':
      return [inOne(target.register)];
    case 'element':
      return registersOf(target);
    case 'port':
      return [{ kind: 'outside' }];
    case 'flag':
    case 'nowhere':
    case 'choose':
    case 'joined':
      return [];
    default:
      return target satisfies never;
  }
}

function wireTransfer(ground: Ground, target: Target, value: Expr, add: Add): void {
  for (const to of goalsOf(target)) {
    if (target.kind === 'cell') wireAddress(ground, target.address, to, add);
    if (value.kind === 'cell') wireAddress(ground, value.address, { kind: 'space', space: value.space }, add);
    const work = workIn(value);
    if (!work) {
      for (const from of sourcesOf(ground, value)) if (!sameWhere(from, to)) add(way(ground, from, to, 'data'), 'data');
      continue;
    }
    if (to.kind === 'register' && stepsItself(ground, to.registers[0]!, value)) continue;
    wireOperands(ground, operandsOf(work.expr), add);
    add(outOfAlu(ground, to), 'data');
  }
}

const sameWhere = (a: Where, b: Where): boolean => JSON.stringify(a) === JSON.stringify(b);

const stepsItself = ({ machine }: Ground, register: number, value: Expr): boolean =>
  stepOf(value)?.register === register && rolesOf(machine).counting.has(register);

function wireOperands(ground: Ground, { a, b }: { a: Expr; b?: Expr | undefined }, add: Add): void {
  for (const from of sourcesOf(ground, a)) add(intoAlu(ground, from, 'a'), 'data');
  for (const from of b ? sourcesOf(ground, b) : []) add(intoAlu(ground, from, 'b'), 'data');
}

function wireAddress(ground: Ground, address: Expr, space: Where, add: Add): void {
  for (const from of sourcesOf(ground, address)) add(way(ground, from, space, 'address'), 'address');
}

/** Where a value that is only moved comes from; nothing where an operation makes it. */
function sourcesOf(ground: Ground, expr: Expr): Where[] {
  switch (expr.kind) {
    case 'register':
    case 'slice':
    case 'field':
      return [inOne(expr.register)];
    case 'element':
      return registersOf(expr);
    case 'latch':
      return [inOne(ground.machine.programCounter)];
    case 'cell':
      return [{ kind: 'space', space: expr.space }];
    case 'port':
    case 'line':
    case 'shown':
      return [{ kind: 'outside' }];
    case 'resize':
    case 'digits':
      return sourcesOf(ground, expr.operand);
    case 'join':
      return expr.parts.flatMap((each) => sourcesOf(ground, each));
    case 'choose':
      return expr.options.flatMap((each) => (each ? sourcesOf(ground, each) : []));
    case 'holds':
    case 'literal':
    case 'flag':
    case 'bound':
    case 'unary':
    case 'binary':
    case 'shift':
      return [];
    default:
      return expr satisfies never;
  }
}

/** The register that addresses the memory, where there is one. */
export const addressRegister = (machine: Machine): number | undefined => withRole(machine, 'memory address');

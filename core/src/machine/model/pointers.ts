/** Registers and pairs that say where a cell is: found in the ticks of a machine, and followed to the cell. */
import { partsOf, readsOf, flatActions, flatTargets, type Expr, type Tick } from '../../notation/tree';
import { itemAt } from '../../text/itemAt';
import { digitsAt } from '../../text/number';
import { foldConstant } from './foldConstant';
import type { Machine } from './machine';
import { pairOf, pairsOf } from './pairs';
import { perMachine } from './perMachine';

/** A cell that some tick reads or writes at what registers say, and nothing else. */
export interface Pointer {
  /** Of the register or the pair that holds the address. */
  readonly name: string;
  /** High first. */
  readonly registers: readonly number[];
  readonly space: number;
  readonly bank?: Expr | undefined;
  readonly address: Expr;
}

/** A pointer followed: `address` counts over all banks. */
export interface PointedCell {
  readonly name: string;
  readonly space: number;
  readonly address: number;
}

type Cell = Pick<Pointer, 'space' | 'bank' | 'address'>;

/** More registers than this by number say nothing of where one of them points. */
const MOST_OF_A_LIST = 8;

/** Every pointer of a machine once, in the order of its document; the program counter is none. */
export const pointersOf = perMachine(readPointers);

function readPointers(machine: Machine): readonly Pointer[] {
  const ticks = [...machine.opening, ...machine.entry, ...machine.forms.flatMap((each) => each.schedule)].map((each) => each.tick);
  const pairs = pairsOf(machine);
  const found = new Map<string, Pointer>();
  for (const cell of [...new Set(ticks)].flatMap(cellsOf)) {
    if (cell.bank && registersOf(cell.bank) === undefined) continue;
    for (const address of eachOf(cell.address)) {
      const registers = registersOf(address);
      if (!registers || registers.length === 0 || registers.includes(machine.programCounter)) continue;
      const { name } = registers.length === 1 ? itemAt(machine.registers, registers[0]!) : pairOf(machine, pairs, registers);
      const key = `${name} ${cell.space}`;
      if (!found.has(key)) found.set(key, { ...cell, address, name, registers });
    }
  }
  return [...found.values()];
}

/** Where the pointers of a machine lead while its registers hold these values; those that lead out of a memory, nowhere. */
export function pointedCells(machine: Machine, registers: readonly number[]): readonly PointedCell[] {
  const leaf = (each: Expr): number | undefined => {
    if (each.kind === 'register') return registers[each.register];
    return each.kind === 'slice' ? digitsAt(registers[each.register] ?? 0, each.low, each.width, machine.radix) : undefined;
  };
  return pointersOf(machine).flatMap(({ name, space, bank, address }): PointedCell[] => {
    const { cells, banks } = itemAt(machine.spaces, space);
    const [at, inBank] = [foldConstant(address, leaf, machine.radix), bank ? foldConstant(bank, leaf, machine.radix) : 0];
    if (at === undefined || inBank === undefined) return [];
    const wraps = machine.faults['cell outside']?.kind === 'wrap';
    if (!wraps && (at >= cells || inBank >= banks)) return [];
    return [{ name, space, address: (inBank % banks) * cells + (at % cells) }];
  });
}

/** The cells that a tick reads or writes. */
function cellsOf({ actions }: Tick): Cell[] {
  const written = flatActions(actions).flatMap((each) => (each.kind === 'transfer' ? flatTargets(each.target) : []));
  const within = (expr: Expr): Cell[] => [...(expr.kind === 'cell' ? [expr] : []), ...partsOf(expr).flatMap(within)];
  return [...written.filter((each) => each.kind === 'cell'), ...actions.flatMap(readsOf).flatMap(within)].map((each) => ({
    space: each.space,
    bank: each.bank,
    address: each.address,
  }));
}

/** The registers that a value is put together from as they are; undefined where anything else comes into it. */
function registersOf(expr: Expr): readonly number[] | undefined {
  switch (expr.kind) {
    case 'register':
      return [expr.register];
    case 'slice':
      return expr.field ? undefined : [expr.register];
    case 'literal':
      return [];
    case 'join':
      return together(expr.parts.map(registersOf));
    case 'resize':
      return expr.signed ? undefined : registersOf(expr.operand);
    default:
      return undefined;
  }
}

const together = (lists: readonly (readonly number[] | undefined)[]): readonly number[] | undefined =>
  lists.includes(undefined) ? undefined : lists.flatMap((each) => each ?? []);

/** A value whose registers an operand numbers, with each of the numbers in turn; all others as they are. */
function eachOf(expr: Expr): readonly Expr[] {
  const count = countIn(expr);
  if (count === undefined) return [expr];
  if (count > MOST_OF_A_LIST) return [];
  return Array.from({ length: count }, (_, at) => numbered(expr, at)).filter((each) => each !== undefined);
}

function countIn(expr: Expr): number | undefined {
  if (expr.kind === 'element') return expr.count;
  if (expr.kind === 'choose') return expr.options.length;
  return expr.kind === 'join' || expr.kind === 'resize'
    ? partsOf(expr)
        .map(countIn)
        .find((each) => each !== undefined)
    : undefined;
}

function numbered(expr: Expr, at: number): Expr | undefined {
  switch (expr.kind) {
    case 'element':
      return { kind: 'register', register: expr.first + expr.scale * at + expr.offset, width: expr.width };
    case 'choose':
      return expr.options[at];
    case 'join': {
      const parts = expr.parts.map((each) => numbered(each, at));
      return parts.includes(undefined) ? undefined : { ...expr, parts: parts as Expr[] };
    }
    case 'resize': {
      const operand = numbered(expr.operand, at);
      return operand && { ...expr, operand };
    }
    default:
      return expr;
  }
}

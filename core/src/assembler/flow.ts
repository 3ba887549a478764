/** The flow of a program as a graph: which instruction may follow which, read off what the machine's ticks do. */
import type { Program } from '../image/program';
import { decode } from '../machine/encode';
import { effectsOf, registerFor, valueFor, type Effects, type Instance, type RegisterUse } from '../machine/effects';
import type { Form, Machine, Trap } from '../machine/machine';
import { programSpaceOf } from '../machine/machine';
import type { Expr } from '../notation/tree';

/** An instruction of a program. `next` lies behind it and its inline data. */
export interface Node extends Instance {
  readonly form: Form;
  readonly next: number;
  readonly effects: Effects;
  /** Where it may jump or call, as far as that can be told. */
  readonly targets: readonly number[];
  /** It jumps where a register or a cell says. */
  readonly computed: boolean;
  /** It ends the program, or enters a trap that never comes back. */
  readonly ends: boolean;
  /** It ends the program by itself. */
  readonly halts: boolean;
  readonly reads: readonly number[];
  readonly writes: readonly number[];
  /** Built-in services that it asks for. */
  readonly services: readonly Trap[];
  /** The number of a service is taken from this register. */
  readonly asks?: number;
  /** It enters a trap through memory. */
  readonly enters: boolean;
  /** Names of services and traps, for the facts. */
  readonly named: readonly string[];
}

export interface Piece extends Instance {
  readonly form: Form;
  readonly size: number;
}

export function nodeOf(machine: Machine, piece: Piece): Node {
  const { form, cells, at, size } = piece;
  const effects = effectsOf(machine, form);
  const own = { cells: cells.length > form.format.cells ? cells.slice(0, form.format.cells) : cells, at };
  const space = programSpaceOf(machine).cells;
  const next = at + size;
  const targets: number[] = [];
  let computed = false;
  for (const each of effects.jumps) {
    const value = valueFor(machine, own, each);
    if (value === undefined) computed = true;
    else targets.push(value % space);
  }
  const registers = (uses: readonly RegisterUse[]): number[] => uses.flatMap((each) => registerFor(machine, own, each) ?? []);
  const reads = registers(effects.reads);
  const writes = registers(effects.writes);
  const shared = { form, cells: own.cells, at, next, effects, targets, enters: effects.enters.length > 0 };
  if (effects.services.length === 0 && effects.enters.length === 0)
    return { ...shared, computed, ends: effects.halts && !effects.falls && targets.length === 0, halts: effects.halts, reads, writes, services: [], named: [] };
  const asked = requests(machine, own, effects.services);
  const services = asked.numbers.flatMap((number) => machine.traps.find((each) => each.number === number) ?? []);
  for (const { argument, length, result } of services) {
    for (const each of [argument, length]) if (each !== undefined) reads.push(each);
    if (result !== undefined) writes.push(result);
  }
  const entered = requests(machine, own, effects.enters);
  const routines = entered.numbers.flatMap((number) => machine.routines.find((each) => each.number === number) ?? []);
  const over = services.some((each) => each.service === 'end');
  const away = routines.length > 0 && routines.every((each) => neverReturns(machine, each.number));
  const ends = (effects.halts && !effects.falls) || over || away;
  const asks = asked.register ?? entered.register;
  const named = [...services, ...routines].map((each) => each.name);
  return { ...shared, computed, ends, halts: effects.halts || over || away, reads, writes, services, named, ...(asks !== undefined && { asks }) };
}

function requests(machine: Machine, own: Instance, exprs: readonly Expr[]): { numbers: number[]; register?: number } {
  const numbers: number[] = [];
  let register: number | undefined;
  for (const each of exprs) {
    const number = valueFor(machine, own, each);
    if (number !== undefined) numbers.push(number);
    else if (each.kind === 'register') register = each.register;
    else if (each.kind === 'element') register = registerFor(machine, own, { first: each.first + each.offset, scale: each.scale, index: each.index });
  }
  return { numbers, ...(register !== undefined && { register }) };
}

/** Instructions by address, and what each is followed by. */
export class Flow {
  readonly nodes = new Map<number, Node>();
  private readonly comesBack = new Set<Node>();

  constructor(machine: Machine, pieces: Iterable<Piece>) {
    for (const each of pieces) this.nodes.set(each.at, nodeOf(machine, each));
    this.findReturns();
  }

  /** What may follow within the same routine: a call is stepped over. */
  *within(node: Node): Iterable<number> {
    if (node.ends) return;
    if (node.effects.calls) {
      if (this.mayComeBack(node)) yield node.next;
      return;
    }
    yield* node.targets;
    if (node.effects.falls) yield node.next;
  }

  /** What may follow, calls followed. */
  *after(node: Node): Iterable<number> {
    if (node.ends) return;
    yield* node.targets;
    if (node.effects.calls ? this.mayComeBack(node) : node.effects.falls) yield node.next;
  }

  /** Whether a call may come back: it does where nothing is known of what it calls. */
  mayComeBack({ targets, computed }: Node): boolean {
    return computed || targets.length === 0 || targets.some((each) => this.returns(each));
  }

  /** Whether a return can be reached from an address. */
  returns(address: number): boolean {
    const node = this.nodes.get(address);
    return !node || this.comesBack.has(node);
  }

  /** Works backwards from the returns; a call passes on what follows it once its routine is known to return. */
  private findReturns(): void {
    const before = new Map<number, Node[]>();
    const callers = new Map<number, Node[]>();
    const work: Node[] = [];
    const add = (map: Map<number, Node[]>, key: number, node: Node): void => {
      const list = map.get(key);
      if (list) list.push(node);
      else map.set(key, [node]);
    };
    const mark = (node: Node): void => {
      if (this.comesBack.has(node)) return;
      this.comesBack.add(node);
      work.push(node);
    };
    for (const node of this.nodes.values()) {
      if (node.ends) continue;
      const { calls, returns, falls } = node.effects;
      if (calls) {
        add(before, node.next, node);
        for (const each of node.targets) add(callers, each, node);
        continue;
      }
      if (falls) add(before, node.next, node);
      for (const each of node.targets) add(before, each, node);
      // Where a jump leads outside or somewhere unknown, it may lead to a return.
      if (returns || node.computed || node.targets.some((each) => !this.nodes.has(each))) mark(node);
    }
    for (let node = work.pop(); node; node = work.pop()) {
      for (const each of before.get(node.at) ?? []) if (!each.effects.calls || this.mayComeBack(each)) mark(each);
      for (const each of callers.get(node.at) ?? []) if (this.returns(each.next)) mark(each);
    }
  }
}

const systemFlows = new WeakMap<Machine, { readonly flow: Flow; readonly entry: (number: number) => number | undefined }>();

/** To be called once the system program of a machine has been assembled. */
export function noteSystem(machine: Machine, program: Program): void {
  const cells = new Map<number, number>();
  for (const { space, address, value } of program.cells) if (space === machine.programSpace) cells.set(address, value);
  const pieces = program.rows
    .filter((each) => each.kind === 'code' && each.space === undefined)
    .flatMap((row) => (row.expanded ?? [{ address: row.address!, words: row.words }]).map(({ address, words }) => ({ address, words })))
    .flatMap(({ address, words }): Piece[] => {
      const decoded = decode(machine, (offset) => words[offset], address);
      return 'refused' in decoded ? [] : [{ form: decoded.form, cells: words, at: address, size: words.length }];
    });
  const vector = machine.system?.vector;
  const entry = (number: number): number | undefined => (vector && number < vector.count ? cells.get(vector.at + number) : undefined);
  systemFlows.set(machine, { flow: new Flow(machine, pieces), entry });
}

function neverReturns(machine: Machine, number: number): boolean {
  const system = systemFlows.get(machine);
  const entry = system?.entry(number);
  return system !== undefined && entry !== undefined && system.flow.nodes.has(entry) && !system.flow.returns(entry);
}

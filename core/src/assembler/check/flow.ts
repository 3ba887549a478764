/** The flow of a program as a graph: which instruction may follow which, read off what the machine's ticks do. */
import type { Program } from '../../image/program';
import { decode } from '../../machine/model/encode';
import {
  effectsOf,
  registerFor,
  registersFor,
  valueFor,
  type Effects,
  type Instance,
  type RegisterUse,
  fallsFor,
} from '../../machine/model/effects';
import type { Form, Machine, Trap } from '../../machine/model/machine';
import { programSpaceOf } from '../../machine/model/machine';
import type { Expr } from '../../notation/tree';
import { itemAt } from '../../text/itemAt';
import { registersIn } from '../../machine/model/machine';

interface Piece extends Instance {
  readonly form: Form;
  readonly size: number;
}

const NONE: readonly never[] = [];

/** An instruction of a program. */
export class Node implements Instance {
  readonly cells: readonly number[];
  readonly at: number;
  /** Behind it and its inline data. */
  readonly next: number;
  readonly effects: Effects;
  /** Where it may jump or call, as far as that can be told. */
  readonly targets: readonly number[];
  /** It jumps where a register or a cell says. */
  readonly computed: boolean;
  /** The instruction behind it may be next. */
  readonly falls: boolean;
  /** It ends the program, or enters a trap that never comes back. */
  ends: boolean;
  /** It ends the program by itself. */
  halts: boolean;
  /** Built-in services that it asks for. */
  services: readonly Trap[] = NONE;
  /** Names of services and traps, for the facts. */
  named: readonly string[] = NONE;
  /** The number of a service is taken from this register. */
  asks: number | undefined = undefined;
  /** A return can be reached from it. */
  comesBack = false;
  private readonly machine: Machine;
  private read: readonly number[] | undefined = undefined;
  private written: readonly number[] | undefined = undefined;

  constructor(machine: Machine, { form, cells, at, size }: Piece) {
    this.machine = machine;
    const effects = effectsOf(machine, form);
    this.cells = cells.length > form.format.cells ? cells.slice(0, form.format.cells) : cells;
    this.at = at;
    this.next = at + size;
    this.effects = effects;
    let computed = false;
    let targets: readonly number[] = NONE;
    for (const each of effects.jumps) {
      const value = valueFor(machine, this, each);
      if (value === undefined) computed = true;
      else targets = [...targets, value % programSpaceOf(machine).cells];
    }
    this.targets = targets;
    this.computed = computed;
    this.falls = fallsFor(machine, this, effects);
    this.ends = effects.halts && !this.falls && targets.length === 0;
    this.halts = effects.halts;
    if (effects.services.length > 0 || effects.enters.length > 0) this.noteRequests(machine, effects);
  }

  /** It enters a trap through memory. */
  get enters(): boolean {
    return this.effects.enters.length > 0;
  }

  /** Registers whose value from before it uses. */
  get reads(): readonly number[] {
    return (this.read ??= this.with(this.effects.reads, ({ argument, length }) => [argument, length]));
  }

  get writes(): readonly number[] {
    return (this.written ??= this.with(this.effects.writes, ({ result }) => [result]));
  }

  /** What the instruction itself uses, and what services use that it asks for. */
  private with(uses: readonly RegisterUse[], ofService: (trap: Trap) => readonly Trap['result'][]): readonly number[] {
    const own = usedBy(this.machine, this, uses);
    if (this.services.length === 0) return own;
    return [...own, ...this.services.flatMap((each) => ofService(each).flatMap((place) => (place ? registersIn(place) : NONE)))];
  }

  private noteRequests(machine: Machine, effects: Effects): void {
    const asked = requests(machine, this, effects.services);
    const entered = requests(machine, this, effects.enters);
    this.services = asked.numbers.flatMap((number) => machine.traps.find((each) => each.number === number) ?? []);
    const routines = entered.numbers.flatMap((number) => machine.routines.find((each) => each.number === number) ?? []);
    const over = this.services.some((each) => each.service === 'end');
    const away = routines.length > 0 && routines.every((each) => neverReturns(machine, each.number));
    this.ends = (effects.halts && !this.falls) || over || away;
    this.halts = effects.halts || over || away;
    this.asks = asked.register ?? entered.register;
    this.named = [...this.services, ...routines].map((each) => each.name);
  }
}

/** Of uses that no operand decides, which most are: one list for every instruction of the form. */
const fixed = new WeakMap<readonly RegisterUse[], readonly number[] | 'by operands'>();

function usedBy(machine: Machine, own: Instance, uses: readonly RegisterUse[]): readonly number[] {
  let known = fixed.get(uses);
  if (known === undefined) {
    known = uses.every((each) => 'register' in each) ? uses.map((each) => each.register) : 'by operands';
    fixed.set(uses, known);
  }
  return known === 'by operands' ? uses.flatMap((each) => registersFor(machine, own, each)) : known;
}

function requests(machine: Machine, own: Instance, exprs: readonly Expr[]): { numbers: number[]; register?: number } {
  const numbers: number[] = [];
  let register: number | undefined;
  for (const each of exprs) {
    const number = valueFor(machine, own, each);
    if (number !== undefined) numbers.push(number);
    else if (each.kind === 'register') register = each.register;
    else if (each.kind === 'element')
      register = registerFor(machine, own, { first: each.first + each.offset, scale: each.scale, index: each.index });
  }
  return { numbers, ...(register !== undefined && { register }) };
}

/** Lists of instructions by address, without an object for each address. */
class ByAddress {
  private readonly first: Int32Array;
  private readonly link: number[] = [];
  private readonly node: Node[] = [];

  constructor(size: number) {
    this.first = new Int32Array(size + 1);
  }

  add(address: number, node: Node): void {
    if (address >= this.first.length) return;
    this.link.push(itemAt(this.first, address));
    this.node.push(node);
    this.first[address] = this.link.length;
  }

  each(address: number, act: (node: Node) => void): void {
    for (let at = this.first[address] ?? 0; at !== 0; at = itemAt(this.link, at - 1)) act(itemAt(this.node, at - 1));
  }
}

/** Instructions by address, in the order in which they were given. */
class Nodes {
  private readonly list: Node[] = [];
  private readonly at: (Node | undefined)[];

  constructor(nodes: readonly Node[], reach: number) {
    this.at = new Array<Node | undefined>(reach).fill(undefined);
    for (const node of nodes) {
      const before = this.at[node.at];
      // Where two lie over each other the later one counts, in the place of the earlier.
      if (before) this.list[this.list.indexOf(before)] = node;
      else this.list.push(node);
      this.at[node.at] = node;
    }
  }

  get(address: number): Node | undefined {
    return this.at[address];
  }

  has(address: number): boolean {
    return this.at[address] !== undefined;
  }

  values(): readonly Node[] {
    return this.list;
  }
}

/** Addresses that have been seen on one way through a program; a new way begins without any of them. */
export class Seen {
  private readonly marks: Int32Array;
  private way = 1;

  /** Each address has so many sides, which are seen apart. */
  constructor(
    size: number,
    private readonly sides = 1,
  ) {
    this.marks = new Int32Array(size * sides);
  }

  /** Whether it is seen for the first time. */
  add(address: number, side = 0): boolean {
    const at = address * this.sides + side;
    if (this.marks[at] === this.way) return false;
    this.marks[at] = this.way;
    return true;
  }

  has(address: number): boolean {
    return this.marks[address * this.sides] === this.way;
  }

  begin(): void {
    this.way++;
  }
}

/** Instructions by address, and what each is followed by. */
export class Flow {
  readonly nodes: Nodes;
  /** All instructions lie below this address. */
  readonly size: number;

  constructor(machine: Machine, nodes: readonly Node[]) {
    // Lists are as long as the program reaches, not as its memory: they are made at every key press.
    let reach = 0;
    for (const { next } of nodes) if (next > reach) reach = next;
    this.nodes = new Nodes(nodes, reach);
    this.size = Math.min(reach + 1, programSpaceOf(machine).cells);
    this.findReturns();
  }

  /** What is behind it may follow, after what it calls. */
  goesOn(node: Node): boolean {
    return !node.ends && (node.effects.calls ? this.mayComeBack(node) : node.falls);
  }

  /** Adds the addresses that may follow; calls are followed, or stepped over. */
  after(node: Node, list: number[], calls: 'follow' | 'step over' = 'follow'): void {
    if (!node.ends && (calls === 'follow' || !node.effects.calls)) for (const each of node.targets) list.push(each);
    if (this.goesOn(node)) list.push(node.next);
  }

  /** Instructions that may be reached from some addresses, calls followed. */
  reachable(roots: Iterable<number>): { readonly nodes: readonly Node[]; readonly has: (address: number) => boolean } {
    const nodes: Node[] = [];
    const seen = new Seen(this.size);
    const open = [...roots];
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      const node = this.nodes.get(at);
      if (!node || !seen.add(at)) continue;
      nodes.push(node);
      this.after(node, open);
    }
    return { nodes, has: (address) => seen.has(address) };
  }

  /** Whether a call may come back: it does where nothing is known of what it calls. */
  mayComeBack({ targets, computed }: Node): boolean {
    return computed || targets.length === 0 || targets.some((each) => this.returns(each));
  }

  /** Whether a return can be reached from an address. */
  returns(address: number): boolean {
    return this.nodes.get(address)?.comesBack ?? true;
  }

  /** Works backwards from the returns; a call passes on what follows it once its routine is known to return. */
  private findReturns(): void {
    const before = new ByAddress(this.size);
    const callers = new ByAddress(this.size);
    const work: Node[] = [];
    const mark = (node: Node): void => {
      if (node.comesBack) return;
      node.comesBack = true;
      work.push(node);
    };
    for (const node of this.nodes.values()) {
      if (node.ends) continue;
      const { calls, returns, falls } = node.effects;
      if (calls) {
        before.add(node.next, node);
        for (const each of node.targets) callers.add(each, node);
        continue;
      }
      if (falls) before.add(node.next, node);
      for (const each of node.targets) before.add(each, node);
      // Where a jump leads outside or somewhere unknown, it may lead to a return.
      if (returns || node.computed || node.targets.some((each) => !this.nodes.has(each))) mark(node);
    }
    const passOn = (each: Node): void => {
      if (!each.effects.calls || this.mayComeBack(each)) mark(each);
    };
    const comeBack = (each: Node): void => {
      if (this.returns(each.next)) mark(each);
    };
    for (let node = work.pop(); node; node = work.pop()) {
      before.each(node.at, passOn);
      callers.each(node.at, comeBack);
    }
  }
}

const systemFlows = new WeakMap<Machine, { readonly flow: Flow; readonly entry: (number: number) => number | undefined }>();

/** To be called once the system program of a machine has been assembled. */
export function noteSystem(machine: Machine, program: Program): void {
  const cells = new Map<number, number>();
  for (const { space, address, value } of program.cells) if (space === machine.programSpace) cells.set(address, value);
  const nodes = program.rows
    .filter((each) => each.kind === 'code' && each.space === undefined)
    .flatMap((row) => (row.expanded ?? [{ address: row.address!, words: row.words }]).map(({ address, words }) => ({ address, words })))
    .flatMap(({ address, words }): Node[] => {
      const decoded = decode(machine, (offset) => words[offset], address);
      return 'refused' in decoded ? [] : [new Node(machine, { form: decoded.form, cells: words, at: address, size: words.length })];
    });
  const vector = machine.system?.vector;
  const entry = (number: number): number | undefined => (vector && number < vector.count ? cells.get(vector.at + number) : undefined);
  systemFlows.set(machine, { flow: new Flow(machine, nodes), entry });
}

function neverReturns(machine: Machine, number: number): boolean {
  const system = systemFlows.get(machine);
  const entry = system?.entry(number);
  return system !== undefined && entry !== undefined && system.flow.nodes.has(entry) && !system.flow.returns(entry);
}

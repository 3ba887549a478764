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
import { registersIn } from '../../machine/model/machine';
import { perForm } from '../../machine/model/perMachine';

interface Piece extends Instance {
  readonly form: Form;
  readonly size: number;
}

const NONE: readonly never[] = [];

/** What an instruction does to the flow and to registers, wherever it stands. */
class Conduct {
  /** Where it may jump or call, as far as that can be told. */
  readonly targets: readonly number[];
  /** It jumps where a register or a cell says. */
  readonly computed: boolean;
  /** The instruction behind it may be next. */
  readonly falls: boolean;
  /** It ends the program, or enters a trap that never comes back. */
  readonly ends: boolean;
  /** It ends the program by itself. */
  readonly halts: boolean;
  /** Built-in services that it asks for. */
  readonly services: readonly Trap[];
  /** Names of services and traps, for the facts. */
  readonly named: readonly string[];
  /** The number of a service is taken from this register. */
  readonly asks: number | undefined;
  /** Registers whose value from before it uses, and those that it writes. */
  readonly reads: readonly number[];
  readonly writes: readonly number[];

  constructor(
    machine: Machine,
    own: Instance,
    readonly effects: Effects,
  ) {
    let computed = false;
    let targets: readonly number[] = NONE;
    for (const each of effects.jumps) {
      const value = valueFor(machine, own, each);
      if (value === undefined) computed = true;
      else targets = add(targets, value % programSpaceOf(machine).cells);
    }
    this.targets = targets;
    this.computed = computed;
    this.falls = fallsFor(machine, own, effects);
    const { services, named, asks, over } = requestsOf(machine, own, effects);
    this.services = services;
    this.named = named;
    this.asks = asks;
    this.ends = (effects.halts && !this.falls && (targets.length === 0 || effects.services.length + effects.enters.length > 0)) || over;
    this.halts = effects.halts || over;
    this.reads = usedBy(machine, own, effects.reads);
    this.writes = usedBy(machine, own, effects.writes);
    if (services.length === 0) return;
    // What services use that it asks for counts as its own.
    const ofServices = (places: (trap: Trap) => readonly Trap['result'][]): number[] =>
      services.flatMap((each) => places(each).flatMap((place) => (place ? registersIn(place) : NONE)));
    this.reads = [...this.reads, ...ofServices(({ argument, length }) => [argument, length])];
    this.writes = [...this.writes, ...ofServices(({ result }) => [result])];
  }
}

/** Of uses that no operand decides, which most are: one list for every instruction of the form. */
const fixed = new WeakMap<readonly RegisterUse[], readonly number[] | 'by operands'>();

function fixedUses(uses: readonly RegisterUse[]): readonly number[] | 'by operands' {
  let known = fixed.get(uses);
  if (known === undefined) {
    known = uses.every((each) => 'register' in each) ? uses.map((each) => each.register) : 'by operands';
    fixed.set(uses, known);
  }
  return known;
}

function usedBy(machine: Machine, own: Instance, uses: readonly RegisterUse[]): readonly number[] {
  const known = fixedUses(uses);
  return known === 'by operands' ? uses.flatMap((each) => registersFor(machine, own, each)) : known;
}

/** The list with one more, exactly as long as it is. */
const add = (list: readonly number[], one: number): readonly number[] => (list.length === 0 ? [one] : [...list, one]);

interface Requests extends Pick<Conduct, 'services' | 'named' | 'asks'> {
  /** The program is over with it. */
  readonly over: boolean;
}

const NO_REQUESTS: Requests = { services: NONE, named: NONE, asks: undefined, over: false };

function requestsOf(machine: Machine, own: Instance, effects: Effects): Requests {
  if (effects.services.length === 0 && effects.enters.length === 0) return NO_REQUESTS;
  const asked = requests(machine, own, effects.services);
  const entered = requests(machine, own, effects.enters);
  const services = asked.numbers.flatMap((number) => machine.traps.find((each) => each.number === number) ?? []);
  const routines = entered.numbers.flatMap((number) => machine.routines.find((each) => each.number === number) ?? []);
  const away = routines.length > 0 && routines.every((each) => neverReturns(machine, each.number));
  return {
    services,
    asks: asked.register ?? entered.register,
    named: [...services, ...routines].map((each) => each.name),
    over: services.some((each) => each.service === 'end') || away,
  };
}

const alike = perForm<Conduct>();

/** Of forms whose digits decide nothing, which most are, one for all instructions. */
function conductOf(machine: Machine, form: Form, own: Instance): Conduct {
  const effects = effectsOf(machine, form);
  const { jumps, choices, guard, services, enters, reads, writes } = effects;
  const open = jumps.length > 0 || choices.length > 0 || guard !== undefined || services.length > 0 || enters.length > 0;
  if (open || fixedUses(reads) === 'by operands' || fixedUses(writes) === 'by operands') return new Conduct(machine, own, effects);
  return (alike(machine)[form.index] ??= new Conduct(machine, own, effects));
}

/** An instruction of a program. */
export class Node implements Instance {
  readonly cells: readonly number[];
  readonly at: number;
  /** Behind it and its inline data. */
  readonly next: number;
  /** A return can be reached from it. */
  comesBack = false;
  private readonly conduct: Conduct;

  constructor(machine: Machine, { form, cells, at, size }: Piece) {
    this.cells = cells.length > form.format.cells ? cells.slice(0, form.format.cells) : cells;
    this.at = at;
    this.next = at + size;
    this.conduct = conductOf(machine, form, this);
  }

  get effects(): Effects {
    return this.conduct.effects;
  }

  get targets(): readonly number[] {
    return this.conduct.targets;
  }

  get computed(): boolean {
    return this.conduct.computed;
  }

  get falls(): boolean {
    return this.conduct.falls;
  }

  get ends(): boolean {
    return this.conduct.ends;
  }

  get halts(): boolean {
    return this.conduct.halts;
  }

  /** It enters a trap through memory. */
  get enters(): boolean {
    return this.effects.enters.length > 0;
  }

  get services(): readonly Trap[] {
    return this.conduct.services;
  }

  get named(): readonly string[] {
    return this.conduct.named;
  }

  get asks(): number | undefined {
    return this.conduct.asks;
  }

  get reads(): readonly number[] {
    return this.conduct.reads;
  }

  get writes(): readonly number[] {
    return this.conduct.writes;
  }
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
    this.link.push(this.first[address]!);
    this.node.push(node);
    this.first[address] = this.link.length;
  }

  each(address: number, act: (node: Node) => void): void {
    for (let at = this.first[address] ?? 0; at !== 0; at = this.link[at - 1]!) act(this.node[at - 1]!);
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

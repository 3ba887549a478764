/** What can be told of a program that assembles: where it jumps, falls, ends, and what it never reaches. */
import { valueFor } from '../../machine/model/effects';
import { programSpaceOf } from '../../machine/model/machine';
import { Flow, Node } from './flow';
import type { AssemblyProblem } from '../problems';
import { idlePreparations, lostLinks, lostResults, unpreparedRequests } from './registers';
import { takenAddresses } from './addressTaken';
import type { Placement, Placed } from '../place/assembly';
import { itemAt } from '../../text/itemAt';

export interface Review {
  readonly problems: readonly AssemblyProblem[];
  readonly outside: readonly number[];
  readonly services: readonly string[];
  /** Addresses that calls go to. */
  readonly called: ReadonlySet<number>;
}

/** Warnings and remarks on where the program goes; nothing for one that does what it says. */
export function reviewFlow(placement: Placement, start: number): Review {
  return new Reviewer(placement, start).review();
}

/** Instructions in the order of the text. */
function nodesOf({ machine, placed }: Placement): Node[] {
  const nodes: Node[] = [];
  for (const { space, address: at, size, form, words } of placed)
    if (form && words && space === machine.programSpace) nodes.push(new Node(machine, { form, at, size, cells: words }));
  return nodes;
}

/** Labels of the program space by address; of several at one address the first. */
function labelsOf({ names }: Placement): Map<number, string> {
  const labels = new Map<number, string>();
  for (const { kind, value, word, space } of names.values())
    if (kind === 'label' && value !== null && space === undefined && !labels.has(value!)) labels.set(value!, word.text);
  return labels;
}

/** The name, or the name with a number behind it that makes it new. */
function free(placement: Placement, name: string): string {
  const taken = new Set([...placement.names.keys()].map((each) => each.toUpperCase()));
  let text = name;
  for (let more = 2; taken.has(text.toUpperCase()); more++) text = `${name}_${more}`;
  return text;
}

class Reviewer {
  private readonly problems: AssemblyProblem[] = [];
  private readonly outside = new Set<number>();
  private readonly flow: Flow;
  /** By address of the program space: what lies there, as a place in `placed` and 1 more. */
  private readonly owner: Int32Array;
  private readonly labels: ReadonlyMap<number, string>;
  private readonly size: number;

  constructor(
    private readonly placement: Placement,
    private readonly start: number,
  ) {
    const { machine, placed } = placement;
    this.size = programSpaceOf(machine).cells;
    let reach = 0;
    for (const { space, address, size } of placed) if (space === machine.programSpace) reach = Math.max(reach, address + size);
    this.owner = new Int32Array(reach);
    for (let index = 0; index < placed.length; index++) {
      const { space, address, size } = placed[index]!;
      if (space === machine.programSpace) this.owner.fill(index + 1, address, address + size);
    }
    this.labels = labelsOf(placement);
    this.flow = new Flow(machine, nodesOf(placement));
  }

  review(): Review {
    const { flow } = this;
    for (const node of flow.nodes.values()) {
      this.checkTargets(node);
      this.checkStores(node);
    }
    const reached = flow.reachable([this.start]).nodes;
    const before = this.problems.length;
    for (const each of reached) this.checkFall(each);
    const leaves = this.problems.length > before;
    // Not where execution leaves the program anyhow.
    if (!leaves) this.checkHalt(reached);
    this.checkReach();
    this.checkRegisters();
    const services = new Set<string>();
    for (const { named } of flow.nodes.values()) for (const each of named) services.add(each);
    return { problems: this.problems, outside: [...this.outside], services: [...services], called: this.called() };
  }

  private ownerOf(address: number): Placed | undefined {
    return this.placement.placed[(this.owner[address] ?? 0) - 1];
  }

  private inSystem(address: number): boolean {
    const { system } = this.placement.machine;
    return system !== undefined && address >= system.from && address <= system.to;
  }

  private tell(node: Node, problem: { readonly code: AssemblyProblem['code'] } & Record<string, unknown>): void {
    const placed = this.ownerOf(node.at)!;
    this.problems.push({ grade: 'warning', span: placed.statement.operation!.span, ...problem } as unknown as AssemblyProblem);
  }

  private checkTargets(node: Node): void {
    if (node.targets.length === 0) return;
    const placed = this.ownerOf(node.at)!;
    const call = node.effects.calls;
    for (const address of node.targets) {
      const written = placed.operands?.find((each) => 'expression' in each && node.effects.targetFields.has(each.field.name));
      const expression = written && 'expression' in written ? written.expression : undefined;
      const span = expression?.span ?? placed.statement.operation!.span;
      if (!this.flow.nodes.has(address)) {
        if (!this.inSystem(address)) this.tellTarget(node, address, span, call);
        continue;
      }
      if (expression?.kind !== 'number' || placed.expanded) continue;
      const label = this.labels.get(address);
      const mend = label !== undefined ? { title: `Write ${label}`, edits: [{ span, text: label }] } : this.newLabel(placed, address, span);
      this.tell(node, { code: 'bare-target', span, address, call, ...(label !== undefined && { label }), ...(mend && { mend }) });
    }
  }

  /** Gives the instruction that a bare number means a name, and writes that instead. */
  private newLabel({ statement }: Placed, address: number, span: AssemblyProblem['span']): AssemblyProblem['mend'] {
    const goal = this.ownerOf(address);
    if (!goal || goal.expanded || goal.statement.label || goal.statement.unit !== statement.unit) return undefined;
    const text = free(this.placement, `at${address}`);
    const { start } = goal.statement.span;
    const edits = [
      { span, text },
      { span: { start, end: start }, text: `${text}: ` },
    ];
    return { title: `Name line ${goal.statement.line} ${text}`, edits: edits.sort((a, b) => a.span.start - b.span.start) };
  }

  private tellTarget(node: Node, address: number, span: AssemblyProblem['span'], call: boolean): void {
    const owner = this.ownerOf(address);
    const line = owner?.statement.line;
    if (!owner) this.outside.add(address);
    if (!owner) this.tell(node, { code: 'jump-outside', span, address, call });
    else this.tell(node, { code: owner.form ? 'jump-into-middle' : 'jump-into-data', span, address, line, call });
  }

  private checkStores(node: Node): void {
    const { machine } = this.placement;
    if (node.effects.stores.length === 0) return;
    for (const { space, address } of node.effects.stores) {
      const value = space === machine.programSpace ? valueFor(machine, node, address) : undefined;
      const owner = value === undefined ? undefined : this.ownerOf(value % this.size);
      if (owner?.form) this.tell(node, { code: 'writes-code', address: value! % this.size, line: owner.statement.line });
    }
  }

  /** What lies behind an instruction that may go on there. */
  private checkFall(node: Node): void {
    const { flow } = this;
    if (!flow.goesOn(node) || this.inSystem(node.next)) return;
    const next = flow.nodes.get(node.next);
    const owner = this.ownerOf(node.next);
    if (next && owner) {
      const own = this.ownerOf(node.at)!;
      const entered = owner.routine !== own.routine && owner.routine?.from === node.next ? owner.routine : undefined;
      const name = entered ? entered.name : this.called().has(node.next) ? this.labels.get(node.next) : undefined;
      if (name !== undefined) this.tell(node, { code: 'falls-into-routine', name, line: owner.statement.line });
      return;
    }
    if (!owner) return this.tell(node, { code: 'runs-past-end' });
    if (owner.form) return;
    const name = this.labels.get(node.next);
    this.tell(node, {
      code: 'runs-into-data',
      line: owner.statement.line,
      room: owner.kind === 'room',
      ...(name !== undefined && { name }),
    });
  }

  private calls: Set<number> | undefined;
  private called(): Set<number> {
    if (this.calls) return this.calls;
    this.calls = new Set();
    for (const { effects, targets } of this.flow.nodes.values()) if (effects.calls) for (const each of targets) this.calls.add(each);
    return this.calls;
  }

  /** Not where execution goes where nobody can tell. */
  private checkHalt(reached: readonly Node[]): void {
    for (const node of reached) {
      if (node.halts || node.computed || node.targets.some((each) => !this.flow.nodes.has(each))) return;
    }
    const first = this.flow.nodes.get(this.start);
    if (first) this.tell(first, { code: 'no-halt' });
  }

  /** Labels whose address is taken as a value may be jumped to; parts have more than one program needs. */
  private checkReach(): void {
    const { placed } = this.placement;
    const reached = this.flow.reachable([this.start, ...takenAddresses(this.placement)]);
    const unused = new Set<unknown>();
    for (const { kind, uses, used, value } of this.placement.names.values())
      if (kind === 'label' && uses.length === 0 && !used) unused.add(value);
    let stretch: { node: Node; lines: number } | undefined;
    const close = (): void => {
      if (stretch) this.tell(stretch.node, { code: 'never-reached', lines: stretch.lines });
      stretch = undefined;
    };
    let silent = false;
    for (const { address, form, statement, space } of placed) {
      if (space !== this.placement.machine.programSpace || !form || statement.unit.part !== undefined || reached.has(address)) {
        close();
        silent = false;
        continue;
      }
      // That its name is never used is told already.
      if (!stretch && unused.has(address) && this.labels.has(address)) silent = true;
      if (silent) continue;
      if (stretch) stretch.lines++;
      else stretch = { node: this.flow.nodes.get(address)!, lines: 1 };
    }
    close();
  }

  private checkRegisters(): void {
    const { flow, placement } = this;
    const { machine } = placement;
    const name = (register: number): string => itemAt(machine.registers, register).name;
    const lineAt = (at: number): number => this.ownerOf(at)!.statement.line;
    for (const { node, register, routine } of lostLinks(machine, flow))
      this.tell(node, { code: 'link-lost', register: name(register), line: lineAt(routine) });
    for (const { node, register, from } of lostResults(flow))
      this.tell(node, { code: 'result-lost', register: name(register), line: lineAt(from.at), service: itemAt(from.services, 0).name });
    for (const { node, register, number } of idlePreparations(machine, flow)) {
      const service = [...machine.traps, ...machine.routines].find((each) => each.number === number)!.name;
      this.tell(node, { code: 'service-not-asked', register: name(register), service });
    }
    for (const { node, register } of unpreparedRequests(flow, this.start))
      this.tell(node, { code: 'service-not-prepared', register: name(register) });
  }
}

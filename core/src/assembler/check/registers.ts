/** Values in registers that are lost before they are used: ways back, results, numbers of services. */
import { effectsOf, registerFor, valueFor } from '../../machine/model/effects';
import type { Machine } from '../../machine/model/machine';
import { Seen, type Flow, type Node } from './flow';
import { registersIn } from '../../machine/model/machine';

export interface LostLink {
  readonly register: number;
  /** The instruction that overwrites it, and where the routine begins. */
  readonly node: Node;
  readonly routine: number;
}

/** Work is bounded by this many steps for the whole program. */
const MOST_STEPS = 400_000;

/** The register that a call puts the way back into, if it is one. */
function linkOf(machine: Machine, node: Node): number | undefined {
  if (!node.effects.calls) return undefined;
  const put = node.effects.puts.find(({ value }) => value.kind === 'latch' && value.latch === 'next');
  return put && registerFor(machine, node, put.use);
}

/** A way back is needed until it has been read, as for saving it; a load brings a saved one again. */
export function lostLinks(machine: Machine, flow: Flow): LostLink[] {
  const entries = new Map<number, number>();
  for (const node of flow.nodes.values()) {
    const register = linkOf(machine, node);
    if (register !== undefined) for (const each of node.targets) if (flow.nodes.has(each)) entries.set(each, register);
  }
  const lost = new Map<Node, LostLink>();
  let steps = 0;
  // By whether the register was saved, and whether it has been overwritten.
  const seen = new Seen(flow.size, 4);
  // What is left to do: where, whether it was saved, and beside it what has overwritten it.
  const open: number[] = [];
  const overwriters: (Node | undefined)[] = [];
  for (const [routine, register] of entries) {
    seen.begin();
    open.push(routine * 2);
    overwriters.push(undefined);
    for (; open.length > 0 && steps < MOST_STEPS; steps++) {
      const one = open.pop()!;
      let gone = overwriters.pop();
      let saved = one % 2 === 1;
      const at = (one - (one % 2)) / 2;
      const node = flow.nodes.get(at);
      if (!node || !seen.add(at, (saved ? 2 : 0) + (gone ? 1 : 0))) continue;
      const reads = node.reads.includes(register);
      if (node.effects.returns && reads && gone) lost.set(gone, { register, node: gone, routine });
      if (reads && !node.effects.returns && !gone) saved = true;
      if (linkOf(machine, node) === register) gone ??= node;
      else if (node.writes.includes(register)) gone = saved ? undefined : (gone ?? node);
      let added = open.length;
      flow.after(node, open, 'step over');
      for (; added < open.length; added++) {
        open[added] = open[added]! * 2 + (saved ? 1 : 0);
        overwriters.push(gone);
      }
    }
  }
  return [...lost.values()];
}

export interface LostResult {
  readonly register: number;
  readonly node: Node;
  readonly from: Node;
}

const FAR = 60;

/** The only instruction that can follow, where there is one. */
function only(flow: Flow, node: Node): Node | undefined {
  const { targets } = node;
  const goesOn = flow.goesOn(node);
  if (node.ends || targets.length + (goesOn ? 1 : 0) !== 1) return undefined;
  return flow.nodes.get(targets[0] ?? node.next);
}

/** What a service brought is overwritten on a straight way before anything reads it. */
export function lostResults(flow: Flow): LostResult[] {
  const lost: LostResult[] = [];
  for (const from of flow.nodes.values()) {
    for (const { result: place } of from.services) {
      const [result, more] = place ? registersIn(place) : [];
      const node = result === undefined || more !== undefined ? undefined : overwriterOf(flow, from, result);
      if (node) lost.push({ register: result!, node, from });
    }
  }
  return lost;
}

function overwriterOf(flow: Flow, from: Node, register: number): Node | undefined {
  let node = only(flow, from);
  for (let step = 0; node && step < FAR; step++) {
    if (node.reads.includes(register) || node.enters || node.effects.calls || node.effects.returns) return undefined;
    if (node.writes.includes(register)) return node;
    node = only(flow, node);
  }
  return undefined;
}

export interface Prepared {
  readonly register: number;
  readonly node: Node;
  readonly number: number;
}

/** Numbers of services put into the register that requests go by, where no way leads to a request or another use. */
export function idlePreparations(machine: Machine, flow: Flow): Prepared[] {
  const asking = askingIn(flow);
  // A program that never asks has prepared for nothing.
  for (const form of machine.forms) {
    const { services, enters } = effectsOf(machine, form);
    for (const each of [...services, ...enters]) if (each.kind === 'register') asking.add(each.register);
  }
  if (asking.size === 0) return [];
  const numbers = new Set([...machine.traps, ...machine.routines].map((each) => each.number));
  const idle: Prepared[] = [];
  for (const node of flow.nodes.values()) {
    for (const { use, value } of node.effects.puts) {
      const register = registerFor(machine, node, use);
      if (register === undefined || !asking.has(register)) continue;
      const number = valueFor(machine, node, value);
      if (number === undefined || !numbers.has(number)) continue;
      if (!isUsed(flow, node, register)) idle.push({ register, node, number });
    }
  }
  return idle;
}

/** Registers that requests of the program take their number from. */
function askingIn(flow: Flow): Set<number> {
  const asking = new Set<number>();
  for (const { asks } of flow.nodes.values()) if (asks !== undefined) asking.add(asks);
  return asking;
}

function isUsed(flow: Flow, from: Node, register: number): boolean {
  const seen = new Set<number>();
  const open: number[] = [];
  flow.after(from, open);
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    if (seen.has(at)) continue;
    seen.add(at);
    const node = flow.nodes.get(at);
    if (!node || seen.size > FAR * 4 || node.reads.includes(register) || node.asks === register) return true;
    if (node.effects.returns || node.enters) return true;
    if (!node.writes.includes(register)) flow.after(node, open);
  }
  return false;
}

/** Requests that can be reached from the start with nothing put into their register on the way. */
export function unpreparedRequests(flow: Flow, start: number): { readonly node: Node; readonly register: number }[] {
  const asking = askingIn(flow);
  return [...asking].flatMap((register) => {
    const found: { node: Node; register: number }[] = [];
    const seen = new Set<number>();
    const open = [start];
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      const node = flow.nodes.get(at);
      if (!node || seen.has(at)) continue;
      seen.add(at);
      if (node.asks === register) found.push({ node, register });
      else if (!node.writes.includes(register)) flow.after(node, open);
    }
    return found;
  });
}

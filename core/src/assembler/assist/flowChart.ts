/**
 * A program's own flow as a drawing: runs of instructions that always follow each other, and the ways between them. Laid
 * out from top to bottom in the order of addresses, ways forward at the right, ways back at the left.
 */
import { indexOf, type Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { shownNumber } from '../../text/number';
import { programSpaceOf } from '../../machine/model/machine';
import { Flow, Node } from '../check/flow';
import { instructionsOf, type ProgramInstruction } from './instructions';

export interface FlowLine {
  readonly address: string;
  readonly text: string;
  /** Of the program's own text. */
  readonly line?: number;
}

export interface FlowBlock {
  readonly label?: string;
  readonly lines: readonly FlowLine[];
  /** It ends the program, goes back to where it was called from, or decides. */
  readonly ends: 'halts' | 'returns' | 'decides' | 'goes on';
}

/** From block to block, by their places in the list. */
export interface FlowWay {
  readonly from: number;
  readonly to: number;
  /** next: to the block below; jump: where it branches; call: into a routine, which comes back. */
  readonly kind: 'next' | 'jump' | 'call';
  /** Which of the upright lines beside the blocks it runs along, from 0 next to them; those with one number never overlap. */
  readonly lane: number;
}

export interface FlowChart {
  readonly blocks: readonly FlowBlock[];
  readonly ways: readonly FlowWay[];
}

/** More blocks are no drawing any more. */
export const MOST_BLOCKS = 120;

/** The flow of a program; undefined where it has more than MOST_BLOCKS blocks. */
export function flowChartOf(machine: Machine, program: Program): FlowChart | undefined {
  const list = instructionsOf(machine, program);
  const flow = new Flow(
    machine,
    list.map(({ form, address, words }) => new Node(machine, { form, cells: words, at: address, size: words.length })),
  );
  const nodes = new Map(list.map((each) => [each.address, flow.nodes.get(each.address)!]));
  const starts = new Set([program.start]);
  for (const node of nodes.values()) {
    for (const target of node.targets) starts.add(target);
    if (node.targets.length > 0 || node.ends || node.effects.returns || node.effects.calls || node.computed) starts.add(node.next);
  }
  const groups: ProgramInstruction[][] = [];
  for (const each of list) {
    const last = groups.at(-1)?.at(-1);
    const joins = last && !starts.has(each.address) && nodes.get(last.address)!.next === each.address;
    if (joins) groups.at(-1)!.push(each);
    else groups.push([each]);
  }
  if (groups.length > MOST_BLOCKS) return undefined;
  const blockAt = new Map(groups.map((group, at) => [group[0]!.address, at]));
  const { labelAt } = indexOf(program);
  const ways = groups.flatMap((group, from) => waysOf(nodes.get(group.at(-1)!.address)!, from, blockAt));
  return {
    blocks: groups.map((group) => {
      const label = labelAt.get(group[0]!.address);
      return {
        ...(label !== undefined && { label }),
        ends: endOf(nodes.get(group.at(-1)!.address)!),
        lines: group.map((each) => lineOf(machine, each)),
      };
    }),
    ways: withLanes(ways),
  };
}

function lineOf(machine: Machine, { address, text, row }: ProgramInstruction): FlowLine {
  const own = row.part === undefined && row.line > 0;
  return { address: shownNumber(address, programSpaceOf(machine).addressWidth, machine), text, ...(own && { line: row.line }) };
}

function endOf({ ends, effects, falls, targets }: Node): FlowBlock['ends'] {
  if (ends || effects.halts) return 'halts';
  if (effects.returns) return 'returns';
  return falls && targets.length > 0 && !effects.calls ? 'decides' : 'goes on';
}

type PlainWay = Omit<FlowWay, 'lane'>;

function waysOf(node: Node, from: number, blockAt: ReadonlyMap<number, number>): PlainWay[] {
  const { calls, returns } = node.effects;
  const jumps = node.targets.flatMap((target): PlainWay[] => {
    const to = blockAt.get(target);
    return to === undefined ? [] : [{ from, to, kind: calls ? 'call' : 'jump' }];
  });
  const below = blockAt.get(node.next);
  const goesOn = !node.ends && !returns && (node.falls || calls) && below !== undefined;
  return [...(goesOn ? [{ from, to: below, kind: 'next' } as const] : []), ...jumps];
}

/** Shorter ways run nearer to the blocks; two of one side that would lie on each other get lines of their own. */
function withLanes(ways: readonly PlainWay[]): FlowWay[] {
  const taken = { forward: [] as [number, number][][], back: [] as [number, number][][] };
  const lanes = new Map<PlainWay, number>();
  for (const way of ways.toSorted((a, b) => Math.abs(a.to - a.from) - Math.abs(b.to - b.from))) {
    if (way.kind === 'next') continue;
    const side = way.to > way.from ? taken.forward : taken.back;
    const [low, high] = [Math.min(way.from, way.to), Math.max(way.from, way.to)];
    let lane = side.findIndex((each) => each.every(([from, to]) => high < from || low > to));
    if (lane === -1) lane = side.push([]) - 1;
    side[lane]!.push([low, high]);
    lanes.set(way, lane);
  }
  return ways.map((each) => ({ ...each, lane: lanes.get(each) ?? 0 }));
}

/** What a tick makes the parts of a machine do, in the words of control lines: read, write, add, PC + 1; and the table of all of them. */
import type { Form, Machine, ScheduledTick } from '../../machine/model/machine';
import { flatActions, possibleTargets, readsOf, someExpr, type Action, type Operation, type Target } from '../../notation/tree';
import { itemAt } from '../../text/itemAt';
import type { TickReport } from '../meaning/report';
import { operationOf, stepOf, workIn } from '../../notation/operation';
import { rolesOf, routeOf } from '../meaning/tickRecorder';

/** The part that a word speaks to. */
export type ControlPlace =
  | { readonly kind: 'memory'; readonly space: number }
  | { readonly kind: 'alu' }
  | { readonly kind: 'register'; readonly register: number }
  | { readonly kind: 'flag'; readonly flag: number }
  | { readonly kind: 'outside' };

export interface ControlWord {
  readonly word: string;
  readonly place: ControlPlace;
}

const OPERATIONS: Readonly<Record<Operation['operator'], string>> = {
  '+': 'add',
  '-': 'subtract',
  '*': 'multiply',
  '/': 'divide',
  '%': 'remainder',
  '&': 'and',
  '|': 'or',
  '^': 'exclusive or',
  '<<': 'shift left',
  '>>': 'shift right',
  '~': 'turn over',
  asr: 'shift right signed',
  rotl: 'rotate left',
  rotr: 'rotate right',
  negate: 'negate',
  value: 'pass',
};

/** What the ALU is told to do. */
export const operationWord = (operator: Operation['operator']): string => OPERATIONS[operator];

const onSpace = (machine: Machine, verb: string, space: number): string =>
  machine.spaces.length > 1 ? `${verb} ${itemAt(machine.spaces, space).name}` : verb;

/** All that a tick can ask for, whichever way its conditions go; each word once. */
export function controlWords(machine: Machine, { tick }: ScheduledTick): ControlWord[] {
  const words = new Map<string, ControlWord>();
  for (const action of flatActions(tick.actions))
    for (const each of wordsOf(machine, action)) if (!words.has(each.word)) words.set(each.word, each);
  return [...words.values()];
}

function wordsOf(machine: Machine, action: Action): ControlWord[] {
  const reads = machine.spaces.flatMap((_, space): ControlWord[] => {
    const asked =
      action.kind !== 'if' && readsOf(action).some((each) => someExpr(each, (part) => part.kind === 'cell' && part.space === space));
    return asked ? [{ word: onSpace(machine, 'read', space), place: { kind: 'memory', space } }] : [];
  });
  switch (action.kind) {
    case 'transfer':
      return [
        ...reads,
        ...possibleTargets(action.target).flatMap((each) => targetWords(machine, each, action)),
        ...flagWords(machine, action),
      ];
    case 'compare':
      return [
        ...reads,
        { word: `compare by ${operationWord(action.flagged.operation.operator)}`, place: { kind: 'alu' } },
        ...flagWords(machine, action),
      ];
    case 'service':
      return [...reads, { word: 'service', place: { kind: 'outside' } }];
    case 'wait':
      return [{ word: `wait for ${itemAt(machine.devices, action.device).name}`, place: { kind: 'outside' } }];
    case 'halt':
      return [{ word: 'halt', place: { kind: 'register', register: machine.programCounter } }];
    case 'if':
    case 'mark':
    case 'stack':
      return reads;
    default:
      return action satisfies never;
  }
}

function flagWords(machine: Machine, { flagged }: Action & { kind: 'transfer' | 'compare' }): ControlWord[] {
  return (flagged?.effects ?? []).map(({ flag }) => ({ word: `set ${itemAt(machine.flags, flag).name}`, place: { kind: 'flag', flag } }));
}

function targetWords(machine: Machine, target: Target, { value, flagged }: Action & { kind: 'transfer' }): ControlWord[] {
  const route = routeOf(rolesOf(machine), target, value);
  const work = workIn(value);
  const operator = work ? operationOf(work.expr).operator : flagged?.operation.operator;
  // What no operation is, and is worked out all the same, is a comparison.
  const word = operator === 'value' ? 'compare' : operator && operationWord(operator);
  const own: ControlWord[] = route === 'alu' && word ? [{ word, place: { kind: 'alu' } }] : [];
  switch (target.kind) {
    case 'cell':
      return [...own, { word: onSpace(machine, 'write', target.space), place: { kind: 'memory', space: target.space } }];
    case 'register': {
      const { name } = itemAt(machine.registers, target.register);
      const place = { kind: 'register', register: target.register } as const;
      const step = route === 'count' ? stepOf(value) : undefined;
      if (step) return [{ word: countWord(name, step.operator, step.by), place }];
      return [...own, { word: `load ${name}`, place }];
    }
    case 'element':
      return [
        ...own,
        {
          word: `load ${itemAt(machine.registers, target.first + target.offset).array ?? 'a register'}`,
          place: { kind: 'register', register: target.first + target.offset },
        },
      ];
    case 'port':
      return [...own, { word: 'put out', place: { kind: 'outside' } }];
    case 'flag':
      return [{ word: `set ${itemAt(machine.flags, target.flag).name}`, place: { kind: 'flag', flag: target.flag } }];
    case 'choose':
    case 'joined':
    case 'nowhere':
      return own;
    default:
      return target satisfies never;
  }
}

/** “PC + 1”. */
export const countWord = (name: string, operator: string, by: number | bigint): string => `${name} ${operator === '-' ? '−' : '+'} ${by}`;

/** The words of a tick that was done, for the parts that a drawing has: memories, the ALU, registers that count. */
export function controlDone(machine: Machine, report: TickReport): ControlWord[] {
  const words: ControlWord[] = [];
  const read = (space: number): void => {
    if (!words.some((each) => each.word === 'read' && each.place.kind === 'memory' && each.place.space === space))
      words.push({ word: 'read', place: { kind: 'memory', space } });
  };
  const sources = [...report.transfers.flatMap((each) => [...each.sources, ...each.addressed]), ...(report.compared?.sources ?? [])];
  for (const { place } of sources) if (place?.kind === 'cell') read(place.space);
  for (const { target, route, worked } of report.transfers) {
    if (target.kind === 'cell') words.push({ word: 'write', place: { kind: 'memory', space: target.space } });
    if (route === 'count' && worked && target.kind === 'register')
      words.push({
        word: countWord(itemAt(machine.registers, target.register).name, worked.operator, worked.b ?? 0),
        place: { kind: 'register', register: target.register },
      });
  }
  const worked = report.compared ?? report.transfers.find((each) => each.route === 'alu')?.worked;
  if (worked && worked.operator !== 'value')
    words.push({ word: report.compared ? 'compare' : operationWord(worked.operator), place: { kind: 'alu' } });
  return words;
}

/** A row a tick of every written form, a column a word: first the words, then the rows, all as text. */
export function controlTable(machine: Machine): { readonly head: readonly string[]; readonly rows: readonly (readonly string[])[] } {
  const ticks = machine.forms.flatMap((form) => form.schedule.map((tick, at) => ({ form, tick, at, words: controlWords(machine, tick) })));
  const columns = [...new Set(ticks.flatMap((each) => each.words.map(({ word }) => word)))].sort(byKind);
  const rows = ticks.map(({ form, tick, at, words }) => {
    const own = new Set(words.map(({ word }) => word));
    return [
      titleOf(form),
      String(at + 1),
      itemAt(machine.phases, tick.phase),
      tick.tick.text,
      ...columns.map((each) => (own.has(each) ? '1' : '')),
    ];
  });
  return { head: ['instruction', 'tick', 'phase', 'transfers', ...columns], rows };
}

const titleOf = ({ written }: Form): string => written.replaceAll(/[{}]/g, '');

/** Memories first, then counting, loading, the ALU and flags. */
const ORDER = [/^(read|write)/, / [+−] \d/, /^load /, /^(?!set |service|wait|put out|halt)/, /^set /, /./];
const rank = (word: string): number => ORDER.findIndex((each) => each.test(word));
const byKind = (a: string, b: string): number => rank(a) - rank(b);

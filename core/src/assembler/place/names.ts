/** Names and what they stand for: those of the machine, and those that the text defines. */
import { SYSTEM } from '../../image/program';
import type { Device, Machine } from '../../machine/model/machine';
import { power } from '../../text/number';
import type { Statement, Word } from '../read/syntax';
import { keyOf, spaceOf, type Definition, type Ground, type Placement } from './assembly';
import { itemAt } from '../../text/itemAt';
import { nameKey, type Spelling } from '../read/tokens';

const NOWHERE = { start: 0, end: 0 };
const NOWHERE_USED: readonly number[] = [];

/** Constants, traps, devices and what the system program defines: known in every program. */
export function machineNames({ machine, system, isSystem }: Ground, exact: boolean): Map<string, Definition> {
  const names = new Map<string, Definition>();
  const give = (text: string, value: number): void => {
    const word = { text, key: nameKey(text), span: NOWHERE };
    names.set(exact ? text : word.key, { word, line: 0, kind: 'machine', value, here: 0, busy: false, uses: NOWHERE_USED, used: true });
  };
  // The system program has labels of these names.
  for (const { name, number } of isSystem ? machine.traps : [...machine.traps, ...machine.routines]) give(name, number);
  for (const [name, value] of machine.assembly.constants) give(name, value);
  for (const device of machine.devices) giveDevice(machine, device, give);
  for (const { name, value } of system?.symbols ?? []) give(`${SYSTEM}.${name}`, value);
  return names;
}

/** The number of the trap that has this name, as an instruction asks for it. */
export const trapNamed = ({ machine, exact }: Pick<Ground, 'machine' | 'exact'>, { text, key }: Spelling): number | undefined =>
  [...machine.traps, ...machine.routines].find(({ name }) => (exact ? name === text : nameKey(name) === key))?.number;

/** keys.data and keys.status are cells or ports; lamps.horn is the value with that line on. */
function giveDevice(machine: Machine, { name, data, status, lines }: Device, give: (name: string, value: number) => void): void {
  for (const [part, place] of Object.entries({ data, status })) {
    if (place) give(`${name}.${part}`, 'port' in place ? place.port : place.address % itemAt(machine.spaces, place.space).cells);
  }
  for (const [line, bit] of lines) give(`${name}.${line}`, power(machine.radix, bit));
}

/** Notes a line of the program's own text that names something. */
export function addUse(definition: Definition, line: number): void {
  const { uses } = definition;
  // Until somebody names it, it has no list of its own.
  if (uses.length === 0) definition.uses = [line];
  else if (uses.at(-1) !== line) (uses as number[]).push(line);
}

/** Where a label outside the program space is, counted over all banks. */
export const elsewhere = (placement: Placement): { space?: number; at?: number } =>
  placement.space === placement.machine.programSpace
    ? {}
    : { space: placement.space, at: placement.bank * spaceOf(placement).cells + placement.address };

type Meaning = Pick<Definition, 'kind' | 'value' | 'expression' | 'space' | 'at'>;

/** Inside a routine a name is the routine's own; elsewhere it is the program's. */
export function define(placement: Placement, { line, unit }: Statement, name: Word, meaning: Meaning): void {
  const { routine } = placement;
  const own = keyOf(placement, name);
  const key = routine === undefined ? own : `${routine.key}.${own}`;
  const earlier = placement.names.get(key);
  const { span } = name;
  const problem = { grade: 'error', span, name: name.text } as const;
  if (placement.templates.registers.has(name.key)) return void placement.problems.push({ ...problem, code: 'name-is-register' });
  if (name.text.includes('.')) return void placement.problems.push({ ...problem, code: 'name-with-dot' });
  // A line that is wrong may have been meant as a label; the real one takes its place.
  if (earlier && earlier.kind !== 'machine' && !(earlier.value === null && earlier.kind === 'label' && !earlier.expression)) {
    const part = earlier.unit?.part;
    routine?.names.set(own, earlier);
    return void placement.problems.push({ ...problem, code: 'name-twice', line: earlier.line, ...(part !== undefined && { part }) });
  }
  const word = routine === undefined ? name : { text: `${routine.name}.${name.text}`, key: placement.exact ? nameKey(key) : key, span };
  const here = placement.address;
  const { kind, value, expression, space, at } = meaning;
  const definition: Definition = {
    word,
    unit,
    line,
    kind,
    expression,
    value,
    space,
    at,
    routine,
    here,
    busy: false,
    uses: NOWHERE_USED,
    used: value === null,
  };
  placement.names.set(key, definition);
  routine?.names.set(own, definition);
}

/** A run that stands somewhere as a set that does it again: all that it was given, and what came of it as what is expected. */
import { indexOf } from '../../image/program';
import { flagName, type Machine } from '../../machine/model/machine';
import { power, shownNumber } from '../../text/number';
import type { Runner } from '../../engine/control/runner';
import { BY_HAND, deviceLatch, latchOwner, type State } from '../../engine/meaning/state';
import type { DatedEdit, Edit } from '../../engine/timeline/interventions';
import { writeScript, type Script } from '../../engine/timeline/script';
import { cellText } from '../../engine/watch/places';
import type { Program } from '../../image/program';
import { itemAt } from '../../text/itemAt';
import { quotedOutput } from './output';
import { emptySet, INPUT, type Entry, type TrialSet } from './table';

/** `kept`: cells that were there before the program was loaded. */
export function setOfRun(
  runner: Runner,
  { name, kept, devices }: { readonly name: string; readonly kept: State | undefined; readonly devices: Script['devices'] },
): TrialSet {
  const { machine, program, timeline, state } = runner;
  const done = timeline.script
    .filter((each) => each.scripted || each.tick <= runner.ticks)
    .map((each): DatedEdit => ({ ...each, scripted: true }));
  const atStart = done.filter((each) => each.tick === 0 && each.kind !== 'inputs');
  const later = done.filter((each) => each.tick > 0);
  const cells = kept ? byHandIn(kept) : machine.spaces.map(() => new Map<number, number>());
  const others = new Map<string, string>();
  const rest: DatedEdit[] = [];
  for (const each of atStart) {
    const entry = each.kind === 'cell' ? undefined : entryOf(machine, each);
    if (each.kind === 'cell') itemAt(cells, each.space).set(each.address, each.value);
    else if (entry) others.set(entry.place, entry.text);
    else rest.push(each);
  }
  const rows = cells.flatMap((values, space) => rowsOf(machine, program, space, values));
  const given = new Map([...rows.map(({ place, text }) => [place, text] as const), ...others]);
  const inputs = timeline.firstInputs;
  if (inputs.length > 0) given.set(INPUT, inputs.map((each) => `0d${each}`).join(' '));
  const whole = writeScript(machine, { inputs, plans: state.plans, devices, edits: [...rest, ...later] });
  // The queue at the start stands among what is given.
  const script = whole
    .split('\n')
    .filter((line) => !line.startsWith('input '))
    .join('\n');
  return {
    ...{ ...emptySet(name), given: [...given].map(([place, text]) => ({ place, text })), script },
    expected: [...outputsOf(runner), ...(state.control.written > 0 ? [outputOf(state)] : [])],
  };
}

function entryOf(machine: Machine, edit: Exclude<Edit, { kind: 'cell' }>): Entry | undefined {
  switch (edit.kind) {
    case 'register': {
      const { name, width } = machine.registers[edit.register]!;
      return { place: name, text: shownNumber(edit.value, width, machine) };
    }
    case 'flag':
      return { place: flagName(machine, edit.flag), text: String(edit.value) };
    case 'latch': {
      const owner = latchOwner(machine, edit.latch);
      if ('port' in owner)
        return { place: `${machine.ports!.name}[${owner.port}]`, text: shownNumber(edit.value, machine.ports!.width, machine) };
      const { name, width } = machine.devices[owner.device]!;
      if (edit.latch !== deviceLatch(machine, owner.device, 'value')) return undefined;
      return { place: name, text: shownNumber(edit.value % power(machine.radix, width), width, machine) };
    }
    case 'inputs':
      return undefined;
    default:
      return edit satisfies never;
  }
}

/** By its label where the program has one there. */
const placeOf = (machine: Machine, program: Program, space: number, address: number): string =>
  labelAt(machine, program, space, address) ?? cellText(machine, space, address);

const labelAt = (machine: Machine, program: Program, space: number, address: number): string | undefined =>
  indexOf(program).labelIn(space === machine.programSpace ? undefined : space, address);

/** Cells that hands have written, of each memory. */
const byHandIn = (kept: State): Map<number, number>[] =>
  kept.spaces.map((cells, space) => new Map([...cells.entries()].filter(([address]) => kept.marks[space]![address] === BY_HAND)));

/** One entry for cells behind each other; one that has a name begins another, and so does a bank. */
function rowsOf(machine: Machine, program: Program, space: number, values: ReadonlyMap<number, number>): Entry[] {
  const { width, cells } = itemAt(machine.spaces, space);
  const rows: { readonly from: number; readonly texts: string[] }[] = [];
  for (const [address, value] of [...values].sort(([a], [b]) => a - b)) {
    const text = shownNumber(value, width, machine);
    const last = rows.at(-1);
    const follows = last && address === last.from + last.texts.length && address % cells !== 0;
    if (follows && labelAt(machine, program, space, address) === undefined) last.texts.push(text);
    else rows.push({ from: address, texts: [text] });
  }
  return rows.map(({ from, texts }) => ({ place: placeOf(machine, program, space, from), text: texts.join(' ') }));
}

const outputsOf = ({ machine, program, state }: Runner): Entry[] =>
  program.declared
    .filter((each) => each.way === 'output')
    .map(({ name, space, address }) => ({
      place: name,
      text: shownNumber(state.spaces[space]![address]!, machine.spaces[space]!.width, machine),
    }));

const outputOf = ({ control }: State): Entry => ({ place: 'output', text: quotedOutput(control.output) });

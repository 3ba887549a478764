/** Examples that are pinned to an instruction: values before it, and values that have to be there after it. */
import type { Form, Machine } from '../../machine/model/machine';
import type { Program } from '../../image/program';
import { readNumber, shownNumber } from '../../text/number';
import type { Given } from './bed';
import { placeOfKey } from './bed';
import { tryForm, type Sampled } from './sample';

/** Examples are always tried on the same values elsewhere. */
const SEED = 1;

const FLAG = 'flags.';
const keyOf = (name: string): string => (name.startsWith(FLAG) ? `flag ${name.slice(FLAG.length)}` : name);
const nameOf = (key: string): string => (key.startsWith('flag ') ? FLAG + key.slice(5) : key);

type Values = ReadonlyMap<string, number>;

/** ACC=0x5A M[48]=0xB7 address=48 flags.C=0: places and operands with values, blanks or commas between. What is wrong is told by its word. */
function valuesIn(text: string): Values | { readonly wrong: string } {
  const values = new Map<string, number>();
  for (const word of text.split(/[\s,]+/).filter((each) => each !== '')) {
    const [, name, written] = /^([A-Za-z][\w.]*(?:\[\w+\])?)=(-?\w+)$/.exec(word) ?? [];
    const value = written === undefined ? undefined : readNumber(written.replace(/^-/, ''));
    if (name === undefined || written === undefined || value === undefined) return { wrong: word };
    const cell = /^(\w+)\[(\w+)\]$/.exec(name);
    const address = cell ? readNumber(cell[2] ?? '') : undefined;
    if (cell && address === undefined) return { wrong: word };
    values.set(cell ? `${cell[1] ?? ''}[${address ?? 0}]` : keyOf(name), written.startsWith('-') ? -value : value);
  }
  return values;
}

const codeValue = (machine: Machine, value: number): string =>
  machine.radix === 10 || value < 10 ? String(value) : `0x${value.toString(16).toUpperCase()}`;

const written = (machine: Machine, values: readonly (readonly [key: string, value: number])[]): string =>
  values.map(([key, value]) => `${nameOf(key)}=${codeValue(machine, value)}`).join(' ');

/** What was tried as an example: what it found, and what has changed. */
export function exampleFrom(machine: Machine, { operands, places }: Sampled): { readonly before: string; readonly after: string } {
  const counter = machine.registers[machine.programCounter]?.name;
  const outer = places.filter((each) => !each.inner && each.key !== counter);
  const changed = places.filter((each) => !each.inner && each.before !== each.after);
  return {
    before: written(machine, [...Object.entries(operands), ...outer.map((each) => [each.key, each.before] as const)]),
    after: written(
      machine,
      changed.length > 0 ? changed.map((each) => [each.key, each.after] as const) : outer.map((each) => [each.key, each.after] as const),
    ),
  };
}

/** How an example fares; `says` is what is wrong with it, or what comes instead. */
export interface PinnedState {
  readonly holds: boolean;
  readonly says: string;
  /** What it sets; undefined where it cannot be read. */
  readonly given?: Given;
}

export function pinnedState(
  machine: Machine,
  form: Form,
  { before, after }: { readonly before: string; readonly after: string },
  system?: Program,
): PinnedState {
  const [given, wanted] = [valuesIn(before), valuesIn(after)];
  for (const each of [given, wanted])
    if ('wrong' in each) return { holds: false, says: `“${each.wrong}” is no place with a value, as in ACC=5 or flags.Z=1.` };
  const fields = new Set(form.operands.map((each) => each.name));
  const values = [...(given as Values)];
  const strange = [...values, ...(wanted as Values)].find(([key]) => !fields.has(key) && placeOfKey(machine, key) === undefined);
  if (strange) return { holds: false, says: `There is no “${nameOf(strange[0])}” any more.` };
  const sets: Given = {
    operands: Object.fromEntries(values.filter(([key]) => fields.has(key))),
    places: Object.fromEntries(values.filter(([key]) => !fields.has(key))),
    seed: SEED,
  };
  const tried = tryForm(machine, form, sets, system);
  if (!tried) return { holds: false, says: 'It cannot be encoded any more.', given: sets };
  const other = [...(wanted as Values)].flatMap(([key, value]) => {
    const place = tried.places.find((each) => each.key === key);
    // What the instruction does not touch is as it was before.
    const now = place?.after ?? (given as Values).get(key);
    return now === value
      ? []
      : [
          `${nameOf(key)} is ${now === undefined ? 'not touched' : shownNumber(now, place?.width ?? 1, machine)}, not ${shownNumber(value, place?.width ?? 1, machine)}`,
        ];
  });
  return { holds: other.length === 0, says: other.join('; '), given: sets };
}

/** The part of a document for words: notes, and sentences of its own with checked places in braces. */
import { nearest } from '../../text/nearest';
import { registersByName, type Flag, type Form, type Register, type Wording, type WordingPlace, type Words } from '../model/machine';
import { indexIn, report, type DocumentReading } from './reading';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

interface Known {
  readonly registers: readonly Register[];
  readonly flags: readonly Flag[];
  readonly forms: readonly Form[];
  readonly phases: readonly string[];
}

const LATCHES = ['here', 'next', 'cause'];

/** Notes and sentences; a place in braces that a sentence cannot have is a problem. */
export function resolveWords(reading: DocumentReading, known: Known): Words {
  const { words } = reading.document;
  // One whose forms have errors is there all the same.
  const mnemonics = Object.keys(reading.document.instructions);
  const phases = new Map<number, Wording>();
  for (const [phase, text] of Object.entries(words?.phases ?? {})) {
    const path = ['words', 'phases', phase];
    const index = indexIn(reading, path, phase, known.phases, 'phase');
    if (index !== undefined) phases.set(index, readWording(reading, path, text, { ...known, forms: [] }));
  }
  const instructions = new Map<string, Wording>();
  for (const [mnemonic, text] of Object.entries(words?.instructions ?? {})) {
    const path = ['words', 'instructions', mnemonic];
    if (indexIn(reading, path, mnemonic, mnemonics, 'instruction') === undefined) continue;
    const own = formsOf(known, mnemonic);
    if (own.forms.length > 0) instructions.set(mnemonic, readWording(reading, path, text, own));
  }
  const ticks = new Map<string, Wording>();
  for (const [key, text] of Object.entries(words?.ticks ?? {})) {
    const path = ['words', 'ticks', key];
    const [mnemonic, number] = key.split(' ') as [string, string];
    if (indexIn(reading, path, mnemonic, mnemonics, 'instruction') === undefined) continue;
    const own = formsOf(known, mnemonic);
    const most = Math.max(...own.forms.map((form) => form.schedule.filter((each) => each.part === 'execute').length));
    if (Number(number) > most) report(reading, path, { code: 'no-such-part', what: 'tick', name: key });
    ticks.set(key, readWording(reading, path, text, own));
  }
  return { notes: words?.notes ?? '', panels: words?.panels ?? {}, phases, instructions, ticks };
}

const formsOf = (known: Known, mnemonic: string): Known => ({ ...known, forms: known.forms.filter((each) => each.mnemonic === mnemonic) });

/** Places: {ACC}, {ACC.old}, {Z}, {here}, {address}, {address.name}. */
function readWording(reading: DocumentReading, path: Path, text: string, known: Known): Wording {
  return text
    .split(/(\{[^{}]*\})/)
    .filter((each) => each !== '')
    .map((each) => {
      if (!each.startsWith('{')) return each;
      return placeOf(each.slice(1, -1).trim(), known) ?? unknown(reading, path, each, known);
    });
}

function placeOf(text: string, { registers, flags, forms }: Known): WordingPlace | undefined {
  const [name, word, more] = text.split('.') as [string, string | undefined, string | undefined];
  if (more !== undefined || (word !== undefined && word !== 'old' && word !== 'name')) return undefined;
  const place = (kind: WordingPlace['kind'], index: number): WordingPlace => ({
    kind,
    name,
    index,
    old: word === 'old',
    label: word === 'name',
  });
  const register = registersByName(registers).get(name);
  if (register !== undefined) return place('register', register);
  const flag = flags.findIndex((each) => each.name === name);
  if (flag !== -1 && word !== 'name') return place('flag', flag);
  if (LATCHES.includes(name) && word !== 'old') return place('latch', LATCHES.indexOf(name));
  const field = forms.some((form) => form.operands.some((each) => each.name === name));
  return field && word !== 'old' ? place('field', 0) : undefined;
}

function unknown(reading: DocumentReading, path: Path, text: string, { registers, flags, forms }: Known): string {
  const names = [...registers, ...flags, ...forms.flatMap((each) => each.operands)].map((each) => each.name);
  const near = nearest(itemAt(text.slice(1, -1).split('.'), 0).trim(), [...new Set([...names, ...LATCHES])]);
  report(reading, path, { code: 'unknown-place', text, ...(near && { nearest: near }) });
  return text;
}

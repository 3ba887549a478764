import { readWholeMachine } from '../../assembler/machines';
import { demoMachines, fixtures } from '../../testing/demo';
import { applyChanges, inverseOf } from './edits';
import { outlineOf } from './outline';
import { renameEverywhere } from './renaming';

const errorsOf = (text: string): string[] =>
  readWholeMachine(text)
    .problems.filter((each) => each.grade === 'error')
    .map((each) => `${each.line}: ${each.sentence}`);

const renamed = (text: string, section: string, old: string, name: string) => {
  const result = renameEverywhere(text, [section, old], name);
  if ('refused' in result) throw new Error(JSON.stringify(result.refused));
  return { ...result, text: applyChanges(text, result.changes) };
};

/** Names that the language itself, or programs inside the document, go by. */
const OWN = new Set(['traps', 'faults', 'conditions', 'short forms']);

test.each([...demoMachines, ...fixtures].map(({ name, text }) => [name, text] as const))(
  '%s: every part that is named elsewhere can have another name, and the machine is the same',
  (_name, text) => {
    for (const { name: section, parts } of outlineOf(text)!) {
      if (OWN.has(section)) continue;
      for (const { name: old } of parts) {
        const { text: after, changes } = renamed(text, section, old, `${old}zz`);
        expect([section, old, errorsOf(after)]).toEqual([section, old, []]);
        expect(applyChanges(after, inverseOf(text, changes))).toBe(text);
      }
    }
  },
);

test('a register is followed into ticks, pairs, traps and words; a flag of its name is left alone', () => {
  const { text } = fixtures.find((each) => each.name === 'avocet')!;
  const sp = renamed(text, 'registers', 'SP', 'TOP');
  expect(sp.text).not.toMatch(/\bSP\b/);
  expect(sp.places).toBeGreaterThan(10);
  const flag = renamed(text, 'flags', 'C', 'K1');
  expect(flag.text).toContain('flags.K1 = 1');
  expect(flag.text).toContain('names: A B C D P Q T');
  expect(errorsOf(flag.text)).toEqual([]);
});

test.each([
  [['registers', 'NOPE'], 'X', 'no-such-part'],
  [['registers', 'SP'], 'PC', 'name-taken'],
  [['registers', 'SP'], 'two words', 'no-name'],
  [['registers', 'SP'], '', 'no-name'],
])('%j cannot be called %j', (path, name, code) => {
  const { text } = fixtures.find((each) => each.name === 'avocet')!;
  expect(renameEverywhere(text, path, name)).toEqual({ refused: expect.objectContaining({ code }) });
});

import fc from 'fast-check';
import { readWholeMachine } from '../../assembler/machines';
import { demoMachines, fixtures } from '../../testing/demo';
import { incrementalParser } from '../document/incremental';
import { Remembered } from './remembered';

const texts = [...demoMachines, ...fixtures].map((each) => each.text);
const bases = new Map(demoMachines.map((each) => [each.name.toLowerCase(), each.text]));
const base = (name: string): string | undefined => bases.get(name.toLowerCase());

/** Everything but where ticks stood when they were read. */
const plain = (value: unknown): string =>
  JSON.stringify(value, (key, each: unknown) =>
    key === 'span' ? undefined : each instanceof Map || each instanceof Set ? [...(each as Iterable<unknown>)] : each,
  );

/** Broken in ways that the schema tells. */
const broken = [
  (text: string) => text.replace(/^instructions:\n/m, '$&  1X: {forms: []}\n'),
  (text: string) => text.replace(/^instructions:\n/m, '$&  XX: {forms: yes}\n'),
  (text: string) => text.replace(/^instructions:\n(?: .*\n|\n|#.*\n)*/m, 'instructions:\n'),
  (text: string) => text.replace(/^instructions:\n/m, `$&${Array.from({ length: 260 }, (_, at) => `  X${at}: {forms: []}\n`).join('')}`),
];

/** Reads one text after the other with what is known of those before, and each as if it were the first. */
function expectSame(all: readonly string[]): void {
  const again = { parse: incrementalParser(), remembered: new Remembered(), base };
  for (const text of all) {
    const [found, wanted] = [readWholeMachine(text, again), readWholeMachine(text, { base })];
    expect(found.problems).toEqual(wanted.problems);
    expect(plain(found.machine)).toBe(plain(wanted.machine));
    expect(plain(found.clashing)).toBe(plain(wanted.clashing));
  }
}

test('every machine after every other is read as if it were the first', () => {
  expectSame([...texts, ...texts.toReversed()]);
});

test.each(broken)('what the schema finds in a document that was in order is told of the whole: %#', (broken) => {
  const text = texts.find((each) => broken(each) !== each)!;
  expectSame([text, broken(text), text]);
  const again = { parse: incrementalParser(), remembered: new Remembered(), base };
  readWholeMachine(text, again);
  expect(readWholeMachine(broken(text), again).machine).toBeUndefined();
});

test('whatever is typed, a document is read as if it were read for the first time', () => {
  const line = fc.record({
    at: fc.double({ min: 0, max: 0.999, noNaN: true }),
    act: fc.constantFrom<(text: string, inside: number) => string>(
      () => '',
      (text) => `${text}\n${text}`,
      (text) => `${/^ */.exec(text)![0]}# a remark\n${text}`,
      (text) => `${text}1`,
      (text, inside) => text.slice(0, inside) + text.slice(inside + 1),
      (text, inside) => `${text.slice(0, inside)}x${text.slice(inside)}`,
      (text) => text.replace(/\d+/, (digits) => String(Number(digits) + 1)),
      (text) => text.replace(/\b[A-Z]{2,}\b/, 'ZZ'),
      (text) => text.replace('<-', '<- 1 +'),
    ),
  });
  fc.assert(
    fc.property(fc.constantFrom(...texts), fc.array(line, { minLength: 1, maxLength: 6 }), (text, acts) => {
      const all = [text];
      for (const { at, act } of acts) {
        const lines = all.at(-1)!.split('\n');
        const number = Math.floor(at * lines.length);
        lines[number] = act(lines[number]!, Math.floor((at * lines.length - number) * lines[number]!.length));
        all.push(lines.join('\n'));
      }
      // Taken back step by step.
      expectSame([...all, ...all.toReversed()]);
    }),
    { numRuns: Number(process.env.ZETTAK_RUNS ?? 4) },
  );
});

test('what has not changed stays the very object, and a number that no service has is told where it stands now', () => {
  const text = texts.find((each) => /\n +service \w+\n/.test(each))!;
  const again = { parse: incrementalParser(), remembered: new Remembered(), base };
  const before = readWholeMachine(text, again).machine!;
  const after = readWholeMachine(text.replace(/title: .*\n(\s+)family/, 'title: something else\n$1family'), again).machine!;
  const anew = after.forms.filter((each, at) => each !== before.forms[at]);
  expect(new Set(anew.map((each) => each.title))).toEqual(new Set(['something else']));
  expect(after.registers).toBe(before.registers);
  const wrong = text.replace(/(?<=\n +)service \w+(?=\n)/, 'service 99');
  const line = wrong.slice(0, wrong.indexOf('service 99')).split('\n').length;
  for (let above = 0; above < 3; above++) {
    const { problems } = readWholeMachine(`${'# above\n'.repeat(above)}${wrong}`, again);
    const errors = problems.filter((each) => each.grade === 'error');
    expect(errors).toMatchObject([{ line: line + above, sentence: expect.stringContaining('99') as string }]);
  }
});

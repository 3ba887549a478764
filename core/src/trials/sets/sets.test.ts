import { curlew, demoMachines, demoProgram, machineNamed, programFrom } from '../../testing/demo';
import fc from 'fast-check';
import { readSetsCsv, writeSetsCsv } from './csv';
import { SetReader } from './read';
import { emptySet, freeName, NO_SETS, readTable, withEntry, writeTable, type SetTable, type TrialSet } from './table';

const tableIn = (text: string): SetTable => {
  const read = readTable(`zettak: sets\nversion: 1\n${text}`);
  if ('problem' in read) throw new Error(read.problem.sentence);
  return read.table;
};
const refusal = (text: string): string => {
  const read = readTable(text);
  return 'problem' in read ? read.problem.sentence : 'read';
};

const quayWatch = programFrom(curlew, demoProgram('quay watch'));
const problemsOf = (set: Partial<TrialSet>, base?: SetTable['base']): string[] => {
  const read = new SetReader(curlew, quayWatch, base).read({ ...emptySet('x'), ...set });
  return 'problems' in read ? read.problems.map(({ where, place, sentence }) => `${where} ${place}: ${sentence}`) : [];
};

describe('a file of sets', () => {
  const word = fc.string({ minLength: 1, maxLength: 12, unit: 'grapheme-ascii' }).filter((each) => each.trim() === each && each !== '');
  const entries = fc.uniqueArray(fc.record({ place: word, text: word }), { selector: (each) => each.place, maxLength: 4 });
  const set = fc.record({
    name: word,
    purpose: fc.string({ maxLength: 20 }),
    given: entries,
    script: fc.constantFrom('', 'set A = 1\n'),
    expected: entries,
    hidden: fc.boolean(),
  });
  const sets = fc.uniqueArray(set, { selector: (each) => each.name, maxLength: 6 });

  it('reads back what it wrote, whatever stands in it', () => {
    fc.assert(
      fc.property(sets, fc.constantFrom<SetTable['base']>(undefined, 2, 8, 10, 16), (list, base) => {
        const table = { ...NO_SETS, base, sets: list };
        expect(readTable(writeTable(table))).toEqual({ table });
      }),
      { numRuns: 300 },
    );
  });

  it('reads back the same where it takes the place of any other, and its remarks stay', () => {
    const file = (list: readonly TrialSet[]): string =>
      writeTable({ ...NO_SETS, sets: list })
        .split('\n')
        .flatMap((line, at) => (/^ {2}- name/.test(line) ? [`  # why ${at}`, line] : [line]))
        .join('\n');
    fc.assert(
      fc.property(sets, sets, fc.boolean(), (old, list, both) => {
        const table = { ...NO_SETS, sets: both ? [...list, ...old.filter((each) => list.every((one) => one.name !== each.name))] : list };
        const before = file(old);
        const text = writeTable(table, before);
        expect(readTable(text)).toEqual({ table });
        if (both) for (const [remark] of before.matchAll(/(?<=^ {2}# )why \d+$/gm)) expect(text).toContain(remark);
      }),
      { numRuns: 300 },
    );
  });

  it('keeps remarks and layout of a file when one entry of it changes, or a set gets another name', () => {
    const text = `# For the second week.
zettak: sets
version: 1
sets:
  # The usual case.
  - name: calm # nothing happens
    given: { level: 3B, rise: 2C } # in hex
    expected: { later: 67 }
  # Both at once.
  - name: storm
    given:
      level: C0
`;
    const { table } = readTable(text) as { table: SetTable };
    expect(writeTable(table, text)).toBe(text);
    const [calm, storm] = table.sets as [TrialSet, TrialSet];
    const changed = {
      ...table,
      sets: [
        { ...calm, given: [calm.given[0]!, { place: 'rise', text: '00' }] },
        { ...storm, name: 'gale' },
      ],
    };
    expect(writeTable(changed, text)).toBe(text.replace('rise: 2C', 'rise: 00').replace('name: storm', 'name: gale'));
  });

  it('keeps the digits as they were typed: 00 and 0x0A are no numbers of YAML', () => {
    const table = tableIn('sets:\n  - name: a\n    given: { level: 00, rise: 0x0A }\n    expected: { over: 007 }');
    expect(table.sets[0]!.given).toEqual([
      { place: 'level', text: '00' },
      { place: 'rise', text: '0x0A' },
    ]);
    expect(table.sets[0]!.expected[0]!.text).toBe('007');
  });

  it('says what is wrong with a text that is none', () => {
    expect(refusal('')).toBe('read');
    expect(refusal('sets: []')).toContain('begins with “zettak: sets”');
    expect(refusal('zettak: sets\nversion: 2')).toContain('later version');
    expect(refusal('zettak: sets\nversion: 1\nsets:\n  - nam: a')).toMatch(/^Set 1/);
    expect(refusal('zettak: sets\nversion: 1\nsets:\n  - name: a\n  - name: a')).toContain('Two sets are called “a”');
    expect(refusal('zettak: sets\nversion: 1\nsets: [{name: a')).toContain('not read');
    expect(refusal('zettak: sets\nversion: 1\nbase: &a hex\nsets: [*a]')).toContain('no anchors and aliases');
    expect(refusal(`zettak: sets\nversion: 1\nmost ticks: 0`)).toContain('most ticks');
  });

  it('finds a free name, and takes an empty entry out', () => {
    expect(freeName([emptySet('calm'), emptySet('calm 2')], 'calm')).toBe('calm 3');
    expect(withEntry([{ place: 'a', text: '1' }], 'a', '')).toEqual([]);
    expect(withEntry([{ place: 'a', text: '1' }], 'b', '2')).toHaveLength(2);
  });
});

describe('what is wrong with a set', () => {
  it('is said at the entry, all of it at once', () => {
    const found = problemsOf({
      given: [
        { place: 'levl', text: '3' },
        { place: 'rise', text: '300' },
        { place: 'level', text: '1 = 2' },
      ],
      script: 'set level = 3\nlevel gets 4',
      expected: [
        { place: 'later', text: '9 to 3' },
        { place: 'end', text: 'gone' },
        { place: 'ticks', text: 'few' },
        { place: 'sequence of ACC', text: '1' },
      ],
    });
    expect(found.map((each) => each.split(':')[0])).toEqual([
      ...['given levl', 'given rise', 'given level', 'script 2'],
      ...['expected later', 'expected end', 'expected ticks', 'expected sequence of ACC'],
    ]);
    expect(found[0]).toContain('Did you mean level?');
    expect(found[4]).toContain('a range begins with its lower end');
  });

  it('reads unmarked values in the base of the table, and places by the rule of the machine', () => {
    expect(problemsOf({ given: [{ place: 'level', text: '9E' }] }, 16)).toEqual([]);
    expect(problemsOf({ given: [{ place: 'level', text: '9E' }] }, 10)[0]).toContain('no number');
    const read = new SetReader(curlew, quayWatch, 16).read({
      ...emptySet('x'),
      given: [
        { place: 'level', text: '10' },
        { place: 'M[70]', text: '0d10' },
      ],
    });
    expect('trial' in read && read.trial.script.edits.map((each) => each.kind === 'cell' && [each.address, each.value])).toEqual([
      [0x40, 16],
      [70, 10],
    ]);
  });

  it('knows labels that are called as a word of the table by M[label]', () => {
    const program = programFrom(curlew, 'start LOAD output\n HALT\noutput .cells 3');
    const reader = new SetReader(curlew, program, undefined);
    expect(reader.aspect('output')).toEqual({ kind: 'output' });
    expect(reader.aspect('M[output]')).toMatchObject({ kind: 'place', place: { kind: 'cell' } });
  });
});

describe('sets as CSV', () => {
  it('come back as they went, demo sets first', () => {
    for (const { sets } of demoMachines.flatMap((each) => each.programs)) {
      const read = readTable(sets);
      if ('problem' in read) throw new Error(read.problem.sentence);
      const back = readSetsCsv(writeSetsCsv(read.table.sets));
      expect(back.problems).toEqual([]);
      expect(back.sets).toEqual(read.table.sets.map((each) => ({ ...each, script: each.script.trim() })));
    }
  });

  it('are not taken for formulas by a spreadsheet', () => {
    const set = { ...emptySet('a'), given: [{ place: 'level', text: '-5' }], expected: [{ place: 'over', text: '=A1' }] };
    const text = writeSetsCsv([set]);
    expect(text).toContain("'-5");
    expect(readSetsCsv(text).sets).toEqual([set]);
  });

  it('with other columns, twice the same name, no name, a wrong encoding are told, and the rest is taken', () => {
    const text = 'set,given level,colour\r\ncalm,3B,blue\r\n,1,\r\ncalm,2,\r\n"storm, high",4,\r\n';
    const { sets, problems } = readSetsCsv(text);
    expect(sets.map((each) => each.name)).toEqual(['calm', 'storm, high']);
    expect(problems.map((each) => each.line)).toEqual([1, 3, 4]);
    expect(problems[0]!.sentence).toContain('“colour”');
    expect(readSetsCsv('name,level\na,1').problems[0]!.sentence).toContain('“set” is missing');
    expect(readSetsCsv('set,given \uFFFD\na,1').problems[0]!.sentence).toContain('UTF-8');
    expect(readSetsCsv('').problems[0]!.sentence).toContain('empty');
    expect(readSetsCsv(`set,${Array.from({ length: 1000 }, (_, at) => `given M[${at}]`).join()}\n`).problems[0]!.sentence).toContain(
      '1001',
    );
  });
});

it('every demo machine can be given a set', () => {
  for (const { name, programs } of demoMachines)
    for (const each of programs)
      expect(new SetReader(machineNamed(name), programFrom(machineNamed(name), each.text), undefined).read(emptySet('x'))).toHaveProperty(
        'trial',
      );
});

test('a reader that has read thousands of entries reads each as a fresh one does, right or wrong', () => {
  const reader = new SetReader(curlew, quayWatch, undefined);
  const setOf = (at: number): TrialSet => ({
    ...emptySet(`set ${at}`),
    given: [
      { place: 'level', text: String(at % 300) },
      { place: at % 7 === 0 ? 'nowhere' : 'rise', text: String(at) },
    ],
    expected: [{ place: 'later', text: at % 5 === 0 ? `${at}..` : `${at % 256}` }],
  });
  const asked = [...Array.from({ length: 2500 }, (_, at) => at), 0, 1, 7, 35, 2499];
  const read = asked.map((at) => reader.read(setOf(at)));
  expect(read.some((each) => 'problems' in each) && read.some((each) => 'trial' in each)).toBe(true);
  for (const at of [0, 1, 7, 35, 255, 256, 2499, 2500, 2501, 2502, 2503, 2504])
    expect(read[at]).toEqual(new SetReader(curlew, quayWatch, undefined).read(setOf(asked[at]!)));
});

test.each([
  ['sets:\n  - {name: a}\n  - name: b\n    given:\n      level: 1\n      cells: {x: 1}', 8, 'Set 2, given, cells: a text belongs here.'],
  ['sets:\n  - {name: a}\n  - {nam: b}', 5, 'Set 2, name: this is missing.'],
  ['sets: []\n{a: b}: 3', 4, 'A name is expected before the colon. Braces and brackets cannot stand there.'],
  ['sets:\n  - {name: a}\n  - {name: a}', 5, 'Two sets are called “a”. Give one of them another name.'],
  ['sets: []\nwhat: 3', 4, '“what” means nothing here.'],
  ['sets:\n  - {name: a, expects: {ACC: 1}}', 4, 'Set 1: “expects” means nothing here.'],
  ['most ticks: 0', 3, 'most ticks is a whole number of at least 1.'],
  ['sets: 5', 3, 'sets: a list belongs here.'],
  [`sets:\n  - {name: ${'x'.repeat(201)}}`, 4, 'Set 1, name: it has at most 200 characters.'],
])('a file that is shaped otherwise is told with its line: %#', (text, line, sentence) => {
  expect(readTable(`zettak: sets\nversion: 1\n${text}\n`)).toEqual({ problem: { line, sentence } });
});

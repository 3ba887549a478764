import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import type { DocumentSummary } from '@zettak/api/documents';
import { besides, isMachineFile, plainName, readFiles, zipOf } from './files';

const file = (name: string, content: string | Uint8Array<ArrayBuffer>): File => new File([content], name);
const summary = (name: string): DocumentSummary => ({
  id: name,
  kind: 'program',
  name,
  machine: null,
  program: null,
  revision: 1,
  updatedAt: '',
  removedAt: null,
  versions: [],
});

test('texts are read as they are, and a ZIP is unpacked with the machine of each program', async () => {
  const zip = zipOf(
    [{ name: 'Knot', text: 'machine: Knot\n' }],
    [
      { name: 'ebb', text: ' HALT\n', machine: 'Knot' },
      { name: 'a/b: c', text: '; odd\n', machine: 'Knot' },
    ],
  );
  const { texts, refused } = await readFiles([file('plain.asm', ' HALT\n'), file('course.zip', zip)]);
  expect(refused).toEqual([]);
  expect(texts).toEqual([
    { name: 'plain.asm', text: ' HALT\n' },
    { name: 'machines/Knot.yaml', text: 'machine: Knot\n' },
    { name: 'programs/ebb.asm', text: ' HALT\n', machine: 'Knot' },
    { name: 'programs/a-b- c.asm', text: '; odd\n', machine: 'Knot' },
  ]);
});

test('a ZIP of ours is a ZIP for everybody: plain files and a manifest', () => {
  const entries = unzipSync(zipOf([{ name: 'Knot', text: 'machine: Knot\n' }], [{ name: 'ebb', text: ' HALT\n', machine: 'Knot' }]));
  expect(Object.keys(entries).sort()).toEqual(['machines/Knot.yaml', 'programs/ebb.asm', 'zettak.json']);
  expect(JSON.parse(strFromU8(entries['zettak.json']!))).toEqual({ programs: { 'programs/ebb.asm': 'Knot' } });
});

test.each<[string, File, RegExp]>([
  ['an empty file', file('a.yaml', ' \n'), /^It is empty\.$/],
  ['no text', file('a.yaml', new Uint8Array([65, 0, 66])), /^It is no text\.$/],
  ['one that is too long', file('a.yaml', 'x'.repeat(1_000_001)), /^It has 1\.0 MB; a machine or program has at most 1 MB\.$/],
  ['a ZIP that is none', file('a.zip', new Uint8Array([80, 75, 3, 4])), /^It is no ZIP that can be read\.$/],
  [
    'a ZIP without texts',
    file('a.zip', zipSync({ 'picture.png': new Uint8Array(3) })),
    /^There is no machine \(\.yaml\) and no program \(\.asm\) in it\.$/,
  ],
])('%s is refused in a sentence, and the others are read', async (_, wrong, says) => {
  const { texts, refused } = await readFiles([wrong, file('good.asm', ' HALT\n')]);
  expect(texts.map((each) => each.name)).toEqual(['good.asm']);
  expect(refused).toMatchObject([{ file: wrong.name, ok: false }]);
  expect(refused[0]!.says).toMatch(says);
});

test.each(['not json', '[]', '{"programs": 5}', '{"programs": {"a.asm": 7}}'])(
  'a manifest that says %s is passed over',
  async (manifest) => {
    const { texts } = await readFiles([file('a.zip', zipSync({ 'a.asm': strToU8(' HALT\n'), 'zettak.json': strToU8(manifest) }))]);
    expect(texts).toEqual([{ name: 'a.asm', text: ' HALT\n' }]);
  },
);

test('a ZIP that would fill the memory is not unpacked whole', async () => {
  const bomb = zipSync({ 'big.asm': new Uint8Array(5_000_000), 'small.asm': strToU8(' HALT\n') });
  expect(bomb.length).toBeLessThan(20_000);
  expect((await readFiles([file('bomb.zip', bomb)])).texts.map((each) => each.name)).toEqual(['small.asm']);
});

test('names are plain: without folders, endings and signs that nobody sees', () => {
  expect(['C:\\work\\ebb.asm', 'a/b/flood.s', '\u202Eevil.txt', '.asm', `${'x'.repeat(99)}.asm`].map(plainName)).toEqual([
    'ebb',
    'flood',
    'evil',
    'untitled',
    'x'.repeat(60),
  ]);
  expect(['a.yaml', 'a.YML', 'a.asm', 'yaml'].map(isMachineFile)).toEqual([true, true, false, false]);
  expect(besides('ebb', [summary('Ebb'), summary('ebb-2')])).toBe('ebb-3');
});

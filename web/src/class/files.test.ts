import { strToU8, zipSync } from 'fflate';
import { readHandIns, type Brought, type FileAt } from './files';

const at = (path: string, content: string | Uint8Array): FileAt => ({
  path,
  file: new File([content as BlobPart], path.split('/').at(-1)!),
});
const zip = (path: string, files: Readonly<Record<string, string>>): FileAt =>
  at(path, zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)]))));
const labels = ({ files }: Brought): string[] => files.map((each) => `${each.label}${each.clear ? '' : ' ?'}`);
const bundle = (label: string): string => JSON.stringify({ zettak: 'hand-in', label });

test('programs and bundles come in with the labels that they say; all else is passed over with a reason', async () => {
  const brought = await readHandIns([
    at('bench 07.asm', 'start HALT'),
    at('week 3/bench 08/quay.asm', 'start HALT'),
    at('odd name.json', bundle('bench 12')),
    at('notes.pdf', '%PDF'),
    at('empty.asm', ' \n'),
    at('picture.asm', 'P\0NG'),
    at('long.txt', 'x'.repeat(1_000_001)),
  ]);
  expect(brought.files.map((each) => each.file)).toEqual(['bench 07.asm', 'week 3/bench 08/quay.asm', 'odd name.json']);
  expect(labels(brought)[2]).toBe('bench 12');
  expect(brought.refused).toEqual([
    'notes.pdf: no program (.asm, .s, .txt) and no hand-in (.json).',
    'long.txt: it has more than 1 MB.',
    'empty.asm: it is empty.',
    'picture.asm: it is no text of a program.',
  ]);
});

test('a label that two files say is clear for neither, whatever said it', async () => {
  const brought = await readHandIns([at('a.json', bundle('bench 12')), at('b.json', bundle('bench 12')), at('c.json', bundle('bench 13'))]);
  expect(labels(brought)).toEqual(['bench 12 ?', 'bench 12 ?', 'bench 13']);
});

test('a bundle that says nothing of use is named by its file, a hostile label by what is plain of it', async () => {
  const brought = await readHandIns([
    at('bench 01.json', '{ broken'),
    at('bench 02.json', JSON.stringify({ zettak: 'something else', label: 'bench 99' })),
    at('bench 03.json', JSON.stringify({ zettak: 'hand-in', label: 12 })),
    at('bench 04.json', bundle('<b>\u202ebench\u0007 4')),
  ]);
  expect(labels(brought).slice(0, 3).join()).not.toMatch(/99|12/);
  expect(labels(brought)[3]).not.toMatch(/[\u202e\u0007]/);
});

test('a ZIP is read with its folders; what systems put beside is left out silently, all else with a reason', async () => {
  const brought = await readHandIns([
    zip('week 3.zip', {
      'bench 01/quay.asm': 'start HALT',
      'bench 02/quay.asm': 'start HALT ; ebb',
      '__MACOSX/bench 01/._quay.asm': 'x',
      'bench 02/.DS_Store': 'x',
      'bench 02/photo.jpg': 'x',
    }),
  ]);
  expect(brought.files.map((each) => each.file)).toEqual(['week 3.zip/bench 01/quay.asm', 'week 3.zip/bench 02/quay.asm']);
  expect(brought.refused).toEqual(['week 3.zip: bench 02/photo.jpg is no program and no hand-in.']);
});

test.each([
  ['no ZIP', at('week.zip', 'hello'), /^week\.zip: it is no ZIP that can be read\.$/],
  [
    'a damaged one',
    at(
      'week.zip',
      zipSync({ 'a.asm': strToU8('start HALT '.repeat(400)) }).map((each, index) => (index > 40 && index < 60 ? each ^ 255 : each)),
    ),
    /^week\.zip: /,
  ],
  [
    'one of too many files',
    zip('week.zip', Object.fromEntries(Array.from({ length: 2001 }, (_, index) => [`${index}.asm`, 'HALT']))),
    /2,001 files; at most 2,000 are read\. Nothing was taken from it\.$/,
  ],
  [
    'a file that grows a thousandfold',
    zip('week.zip', { 'a.asm': ' '.repeat(990_000) }),
    /a\.asm is too large for a program and is left out\.$/,
  ],
])('%s takes nothing in and says why', async (_, file, sentence) => {
  const brought = await readHandIns([file, at('bench 01.asm', 'HALT')]);
  expect(brought.refused.join('\n')).toMatch(sentence);
  expect(brought.files.map((each) => each.file)).toEqual(['bench 01.asm']);
});

test('more files than a class has are not all read', async () => {
  const brought = await readHandIns(Array.from({ length: 2003 }, (_, index) => at(`bench ${index}.asm`, 'HALT')));
  expect(brought.files).toHaveLength(2000);
  expect(brought.refused).toEqual(['More than 2000 files came; the rest is left out.']);
});

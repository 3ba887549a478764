import { assemble } from '../../assembler/assemble';
import { readWatched } from '../../engine/watch/conditions';
import { readEdits, readPlace } from '../../engine/watch/places';
import { readScript } from '../../engine/timeline/script';
import { readEntries } from '../../engine/meaning/services';
import { curlewText, machineFrom } from '../../testing/demo';
import { numberReader } from './numbers';
import { refusalOf } from '../../testing/refusals';

const machine = machineFrom(`${curlewText}\nassembly:\n  letters: {h: 16, b: 2}\n`.replace(/\nassembly:[\s\S]*?(?=\nassembly:)/, ''));
const read = numberReader(machine);

test('a machine’s letters behind a number are understood wherever a person types one', () => {
  expect([read('37h'), read('101b'), read('0D8h'), read('37'), numberReader(machine, 16)('37')]).toEqual([0x37, 5, 0xd8, 37, 0x37]);
  expect(readEntries('37h', machine, read)).toEqual({ values: [0x37] });
  expect(readEdits(machine, undefined, 'ACC = 37h')).toMatchObject([{ value: 0x37 }]);
  expect(readEdits(machine, undefined, 'ACC = 37', 16)).toMatchObject([{ value: 0x37 }]);
  expect(readPlace(machine, undefined, 'M[20h]')).toMatchObject({ address: 0x20 });
  expect(readWatched(machine, undefined, 'ACC = 0D8h')).toMatchObject({ expr: { right: { value: 0xd8 } } });
  expect(readScript(machine, undefined, 'input 10h 0x11\nset ACC = 12h').script).toMatchObject({
    inputs: [0x10, 0x11],
    edits: [{ value: 0x12 }],
  });
});

test('a number that begins with a letter is offered with a 0 before it', () => {
  const sentence = '“D8h” begins with a letter and is a name. The number is written 0D8h.';
  expect(refusalOf(readEdits(machine, undefined, 'ACC = D8h'))).toBe(sentence);
  expect(refusalOf(readWatched(machine, undefined, 'ACC = D8h'))).toBe(sentence);
  const [problem] = assemble(machine, 'LOAD #D8h\nHALT').problems;
  expect(problem).toMatchObject({ sentence: 'No line defines “D8h”. A number begins with a digit: 0D8h.', mend: { title: 'Write 0D8h' } });
});

test('no number at all is no number, with letters and without', () => {
  for (const text of ['', ' ', 'h', '0x', '_', '9_', '12g', '٣'])
    expect([text, read(text.trim())]).toEqual([text, text === '9_' ? 9 : undefined]);
});

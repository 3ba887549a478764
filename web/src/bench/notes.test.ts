import { lineNow, notesAt, type Note } from './notes';

const source = 'start LOAD level\n      ADD rise\n      HALT\n      ADD rise\n';
const note = (id: number, at: Note['at']): Note => ({ id, text: `note ${id}`, at });

test('a note goes where its line goes, to the nearest that reads so; without one it stays at its number', () => {
  expect(lineNow({ kind: 'line', line: 2, words: '      ADD rise' }, source)).toBe(2);
  expect(lineNow({ kind: 'line', line: 3, words: 'HALT' }, `\n\n${source}`)).toBe(5);
  expect(lineNow({ kind: 'line', line: 7, words: 'ADD rise' }, source)).toBe(4);
  expect(lineNow({ kind: 'line', line: 2, words: 'STORE x' }, source)).toBe(2);
});

test('notes come at their line, at their tick of an instruction, or all through it', () => {
  const notes = [
    note(1, { kind: 'line', line: 2, words: 'ADD rise' }),
    note(2, { kind: 'tick', mnemonic: 'ADD', step: 8 }),
    note(3, { kind: 'tick', mnemonic: 'ADD', step: 0 }),
    note(4, { kind: 'panel', panel: 'flags' }),
  ];
  const at = (line: number, mnemonic: string, step: number): number[] =>
    notesAt(notes, { line, mnemonic, step, source }).map((each) => each.id);
  expect(at(2, 'ADD', 3)).toEqual([1, 3]);
  expect(at(4, 'ADD', 8)).toEqual([2, 3]);
  expect(at(1, 'LOAD', 8)).toEqual([]);
});

/** What stands beside the lines of a program, as states without a page. */
import { EditorState, type ChangeSpec } from '@codemirror/state';
import fc from 'fast-check';
import { breakLinesOf, listingParts, showBreakpoints, toEditorDiagnostics, toggleBreakpoint } from './programParts';

const stateOf = (doc: string, stops: readonly number[] = []): EditorState =>
  EditorState.create({ doc, extensions: listingParts }).update({ effects: showBreakpoints.of(stops) }).state;
const changed = (state: EditorState, changes: ChangeSpec): EditorState => state.update({ changes }).state;
const stopped = (state: EditorState): string[] => breakLinesOf(state).map((each) => state.doc.line(each).text);

const FIVE = 'one\ntwo\nthree\nfour\nfive';

describe('breakpoints', () => {
  it('are shown on lines that there are, each once and in the order of the text', () => {
    expect(breakLinesOf(stateOf(FIVE, [4, 2, 9, 0, -1, 2]))).toEqual([2, 4]);
    expect(breakLinesOf(stateOf('', [1, 2]))).toEqual([1]);
  });

  it('come and go where a line is pressed, wherever in it', () => {
    let state = stateOf(FIVE, [2]);
    state = state.update({ effects: toggleBreakpoint.of(state.doc.line(4).from + 2) }).state;
    expect(stopped(state)).toEqual(['two', 'four']);
    state = state.update({ effects: toggleBreakpoint.of(state.doc.line(2).to) }).state;
    expect(stopped(state)).toEqual(['four']);
  });

  it('go with their lines: lines put in before, typed into, indented, taken out', () => {
    const state = stateOf(FIVE, [3, 5]);
    expect(stopped(changed(state, { from: 0, insert: 'zero\n' }))).toEqual(['three', 'five']);
    expect(stopped(changed(state, { from: state.doc.line(3).from, insert: '  ' }))).toEqual(['  three', 'five']);
    expect(stopped(changed(state, { from: state.doc.line(3).to, insert: ' more' }))).toEqual(['three more', 'five']);
    expect(stopped(changed(state, { from: state.doc.line(3).from, insert: 'new\n' }))).toEqual(['three', 'five']);
    expect(stopped(changed(state, { from: 0, to: state.doc.line(3).from }))).toEqual(['three', 'five']);
  });

  it('of two lines that become one stay one, and the end of the text is no reason to lose any', () => {
    const state = stateOf(FIVE, [4, 5]);
    const joined = changed(state, { from: state.doc.line(4).to, to: state.doc.line(5).from });
    expect(stopped(joined)).toEqual(['fourfive']);
    expect(stopped(changed(state, { from: state.doc.length, insert: '\n' }))).toEqual(['four', 'five']);
  });

  it('stay with the text of their line, whatever whole lines come and go elsewhere', () => {
    const step = fc.record({ at: fc.nat(30), put: fc.boolean() });
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 12 }), { maxLength: 5 }), fc.array(step, { maxLength: 12 }), (stops, steps) => {
        const lines = Array.from({ length: 12 }, (_, at) => `line ${at + 1}`);
        let state = stateOf(lines.join('\n'), stops);
        const marked = new Set(stopped(state));
        let fresh = 0;
        for (const { at, put } of steps) {
          const { doc } = state;
          const line = doc.line((at % doc.lines) + 1);
          if (put) state = changed(state, { from: line.from, insert: `fresh ${++fresh}\n` });
          else if (!marked.has(line.text) && line.number < doc.lines) state = changed(state, { from: line.from, to: line.to + 1 });
        }
        expect(new Set(stopped(state))).toEqual(marked);
      }),
    );
  });
});

test('a problem is underlined inside the text, one letter at least, with its mend to press', () => {
  const mend = { title: 'Write LOAD', edits: [{ span: { start: 2, end: 5 }, text: 'LOAD' }] };
  const problem = { code: 'x', line: 1, sentence: 'There is no LOD.' };
  const found = toEditorDiagnostics(
    [
      { ...problem, grade: 'error', start: 2, end: 5, mend },
      { ...problem, grade: 'warning', start: 4, end: 4 },
      { ...problem, grade: 'remark', start: 90, end: 95 },
    ] as unknown as Parameters<typeof toEditorDiagnostics>[0],
    10,
  );
  expect(found.map(({ from, to, severity }) => [from, to, severity])).toEqual([
    [2, 5, 'error'],
    [4, 5, 'warning'],
    [10, 10, 'info'],
  ]);
  expect(found.map((each) => each.actions?.map((one) => one.name))).toEqual([['Write LOAD'], undefined, undefined]);
});

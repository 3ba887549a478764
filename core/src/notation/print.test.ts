import fc from 'fast-check';
import { parseTick } from './parse';
import { printTick } from './print';
import { MARKS, RESERVED, type ActionSyntax, type BinaryOperator, type ExprSyntax, type TickSyntax } from './syntax';

const span = { start: 0, end: 0 };
const OPERATORS: readonly BinaryOperator[] = ['+', '-', '*', '/', '%', '&', '|', '^', '<<', '>>', '=', '!=', '<', '<=', '>', '>='];

const name = fc
  .constantFrom('ACC', 'PC', 'IR', 'R', 'M', 'DATA', 'x_1', 'signed', 'low', 'next', 'Level2')
  .filter((each) => !['if', 'else'].includes(each));
const plainName = fc.constantFrom('ACC', 'PC', 'R', 'MAR', 'Level2').filter((each) => !RESERVED.includes(each));
const slice = fc.tuple(fc.nat(31), fc.nat(31)).map(([a, b]) => ({ high: Math.max(a, b), low: Math.min(a, b) }));

const { expr } = fc.letrec<{ expr: ExprSyntax }>((tie) => ({
  expr: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.nat(2 ** 31).map((value): ExprSyntax => ({ kind: 'number', value, span })),
    name.map((each): ExprSyntax => ({ kind: 'name', name: each, span })),
    fc.tuple(name, name).map(([each, part]): ExprSyntax => ({ kind: 'name', name: each, part, span })),
    fc.tuple(name, tie('expr')).map(([each, index]): ExprSyntax => ({ kind: 'index', name: each, index, span })),
    fc.tuple(name, tie('expr'), tie('expr')).map(([each, bank, index]): ExprSyntax => ({ kind: 'index', name: each, bank, index, span })),
    fc.tuple(tie('expr'), slice).map(([operand, digits]): ExprSyntax => ({ kind: 'slice', operand, ...digits, span })),
    fc
      .tuple(name, fc.array(tie('expr'), { minLength: 1, maxLength: 3 }))
      .map(([each, parts]): ExprSyntax => ({ kind: 'call', name: each, parts, span })),
    fc
      .tuple(fc.constantFrom('~' as const, '-' as const), tie('expr'))
      .map(([operator, operand]): ExprSyntax => ({ kind: 'unary', operator, operand, span })),
    tie('expr').map((operand): ExprSyntax => ({ kind: 'not', operand, span })),
    name.map((each): ExprSyntax => ({ kind: 'holds', name: each, span })),
    fc
      .tuple(fc.constantFrom('and' as const, 'or' as const), tie('expr'), tie('expr'))
      .map(([operator, left, right]): ExprSyntax => ({ kind: 'logic', operator, left, right, span })),
    fc
      .tuple(fc.constantFrom(...OPERATORS), tie('expr'), tie('expr'))
      .map(([operator, left, right]): ExprSyntax => ({ kind: 'binary', operator, left, right, span })),
  ),
}));

const place: fc.Arbitrary<ExprSyntax> = fc.oneof(
  plainName.map((each): ExprSyntax => ({ kind: 'name', name: each, span })),
  fc.tuple(plainName, expr).map(([each, index]): ExprSyntax => ({ kind: 'index', name: each, index, span })),
);

const simple: fc.Arbitrary<ActionSyntax> = fc.oneof(
  fc.tuple(place, expr).map(([target, value]): ActionSyntax => ({ kind: 'transfer', target, value, span })),
  expr.map((value): ActionSyntax => ({ kind: 'compare', value, span })),
  fc.constant<ActionSyntax>({ kind: 'halt', span }),
  expr.map((number): ActionSyntax => ({ kind: 'service', number, span })),
  expr.map((cause): ActionSyntax => ({ kind: 'enter', cause, span })),
  plainName.map((each): ActionSyntax => ({ kind: 'wait', name: each, span })),
  fc
    .tuple(fc.constantFrom(...MARKS), fc.option(expr, { nil: undefined }))
    .map(([mark, at]): ActionSyntax => ({ kind: 'mark', mark, ...(at && { place: at }), span })),
  fc
    .tuple(fc.constantFrom('push' as const, 'pop' as const), plainName)
    .map(([way, each]): ActionSyntax => ({ kind: 'stack', way, name: each, span })),
);

/** A choice takes everything up to the end of its line, so it stands last. */
const actions: fc.Arbitrary<ActionSyntax[]> = fc
  .tuple(
    fc.array(simple, { maxLength: 2 }),
    fc.option(fc.tuple(expr, fc.array(simple, { minLength: 1, maxLength: 2 }), fc.array(simple, { maxLength: 2 })), { nil: undefined }),
    simple,
  )
  .map(([first, choice, last]) =>
    choice
      ? [...first, { kind: 'if', condition: choice[0], then: choice[1], otherwise: choice[2], span } as ActionSyntax]
      : [...first, last],
  );

const tick: fc.Arbitrary<Pick<TickSyntax, 'actions' | 'flags'>> = fc.record({
  actions,
  flags: fc.array(
    plainName.map((each) => ({ name: each, span })),
    { maxLength: 3 },
  ),
});

/** The tree without its places in the text. */
const bare = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (key, each: unknown) => (key === 'span' || key === 'text' ? undefined : each)));

test('printing a tick and reading it gives the same tree', () => {
  fc.assert(
    fc.property(tick, (drawn) => {
      const printed = printTick(drawn);
      const { tick: read, problems } = parseTick(printed, 0);
      // Only nesting beyond the reader's limit is refused.
      if (!read) expect([printed, problems.map((each) => each.code)]).toEqual([printed, ['too-deep']]);
      else expect(bare({ actions: read.actions, flags: read.flags })).toEqual(bare(drawn));
    }),
    { numRuns: 600 },
  );
});

test('what has been printed once is printed the same again', () => {
  fc.assert(
    fc.property(tick, (drawn) => {
      const printed = printTick(drawn);
      const { tick: read } = parseTick(printed, 0);
      if (read) expect(printTick(read)).toBe(printed);
    }),
    { numRuns: 200 },
  );
});

test.each([
  ['ACC<-ACC+MDR;flags Z N', 'ACC <- ACC + MDR ; flags Z N'],
  ['ACC ← (ACC + 1) << (2)', 'ACC <- ACC + 1 << 2'],
  ['ACC <- a - (b - c)', 'ACC <- a - (b - c)'],
  ['ACC <- (a - b) - c', 'ACC <- a - b - c'],
  ['ACC <- -(a + b)[3:0]', 'ACC <- -(a + b)[3:0]'],
  ['if (Z = 1): PC <- address else PC <- next', 'if Z = 1: PC <- address else PC <- next'],
  ['R[d] <- DATA[ bank , R[a] ]', 'R[d] <- DATA[bank, R[a]]'],
  ['PC<-MDR,trap next', 'PC <- MDR, trap next'],
])('“%s” is printed as “%s”', (text, printed) => {
  expect(printTick(parseTick(text, 0).tick!)).toBe(printed);
});

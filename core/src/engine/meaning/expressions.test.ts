import { readWholeMachine } from '../../assembler/machines';
import { compareRuns, drawnState, picker } from '../../testing/executors';
import { machineFrom } from '../../testing/demo';
import { smallMachine, type Small } from '../../testing/small';
import { narrate } from '../tell/narrate';
import { TickExecutor } from './interpret';
import { reportTick } from './reportTick';
import { withRole, type Machine } from '../../machine/model/machine';

const rounds = Number(process.env.ZETTAK_RUNS ?? 2);
/** Another one each time; a failing run is done again with that of its name. */
const seed = Number(process.env.ZETTAK_SEED ?? Date.now() % 2 ** 31);

type Pick = (size: number) => number;
const one = <T>(pick: Pick, list: readonly T[]): T => list[pick(list.length)]!;

/** Registers at the limits of what a width means, and one of a width drawn by chance. */
const SHAPES: readonly { readonly digits: boolean; readonly widths: readonly number[] }[] = [
  { digits: false, widths: [32, 31, 33, 8, 1] },
  { digits: false, widths: [16, 32, 17, 27, 7] },
  { digits: true, widths: [9, 8, 5, 4, 1] },
];

interface Drawing {
  readonly pick: Pick;
  readonly digits: boolean;
  readonly names: readonly string[];
  readonly widths: readonly number[];
}

function literal({ pick, digits, widths }: Drawing): string {
  const width = one(pick, [...widths, 1, 2, 3]);
  const greatest = digits ? 10 ** width - 1 : 2 ** Math.min(width, 32) - 1;
  return String(one(pick, [0, 1, 2, 3, greatest, Math.floor(greatest / 2), Math.floor(greatest / 2) + 1, pick(greatest + 1)]));
}

/** A value as a teacher may write it; whether it means anything is for the checker to say. */
function value(drawing: Drawing, depth: number): string {
  const { pick, names, digits } = drawing;
  const inner = (): string => value(drawing, depth - 1);
  if (depth === 0) return pick(4) === 0 ? literal(drawing) : one(pick, [...names, 'C', 'A', 'B', 'PC']);
  switch (pick(14)) {
    case 0:
    case 1:
    case 2:
      return `(${inner()} ${one(pick, ['+', '-', '*', '*'])} ${inner()})`;
    case 3:
      return `(${inner()} ${one(pick, ['/', '%'])} ${inner()})`;
    case 4:
      return digits ? `(${inner()} + ${inner()})` : `(${inner()} ${one(pick, ['&', '|', '^'])} ${inner()})`;
    case 5:
      return `(${inner()} ${one(pick, ['<<', '>>'])} ${one(pick, [inner(), '1', '3', '33'])})`;
    case 6:
      return `join(${inner()}, ${inner()})`;
    case 7:
      return `${one(pick, ['rotl', 'rotr', 'asr'])}(${one(pick, [inner(), `low(${inner()})`])}, ${one(pick, ['1', '2', inner()])}${pick(4) === 0 ? ', C' : ''})`;
    case 8:
      return `low(${inner()})`;
    case 9:
      return `extend(${inner()}, ${one(pick, ['9', '16', '18', '32', '33', '63', '64'])})`;
    case 10:
      return `${one(pick, digits ? ['-'] : ['-', '~'])}${inner()}`;
    case 11:
      return `(signed(${inner()} ${one(pick, ['<', '>=', '=', '!='])} ${inner()}))`;
    case 12:
      return `(signed(${inner()}) ${one(pick, ['*', '/', '%', '<', '='])} signed(${inner()}))`;
    default:
      return `${one(pick, ['M', 'R'])}[low(${inner()})]`;
  }
}

function tick(drawing: Drawing): string {
  const { pick, names } = drawing;
  const made = value(drawing, 1 + pick(3));
  const target = one(pick, names);
  switch (pick(8)) {
    case 0:
      return `if ${made} ${one(pick, ['=', '!=', '<', '>'])} ${value(drawing, pick(2))}: ${target} <- ${literal(drawing)}`;
    case 1:
      return `${target} <- low(${made}) ; flags Z N C V H`;
    case 2:
      return `compare ${made} ; flags Z N`;
    case 3:
      return `M[low(${made})] <- A`;
    case 4:
      return `R[low(${made})] <- A`;
    case 5:
      return `${target} <- ${made} ; flags Z N`;
    default:
      return `${target} <- ${one(pick, [made, `low(${made})`])}`;
  }
}

/** The shape with those of the drawn ticks that the checker takes. */
function machineOf(small: Small, ticks: readonly string[]): { machine: Machine; taken: readonly string[] } {
  const document = (list: readonly string[]) =>
    smallMachine({ ...small, ticks: Object.fromEntries(list.map((each, at) => [`T${at}`, each])) });
  let taken = ticks;
  for (;;) {
    const { machine, problems } = readWholeMachine(document(taken));
    if (machine) return { machine, taken };
    const lines = document(taken).split('\n');
    const wrong = new Set(problems.filter((each) => each.grade === 'error').map((each) => lines[each.line - 1]!.trim()));
    const rest = taken.filter((each) => !wrong.has(each));
    if (rest.length === taken.length) throw new Error(`${problems[0]!.line}: ${problems[0]!.sentence}`);
    taken = rest;
  }
}

const shapeOf = ({ digits, widths }: (typeof SHAPES)[number]): Small => ({
  ...(digits && { word: 'digits: 3', space: 'cells: 256' }),
  registers: [...widths.map((width, at) => `W${at}: {${digits ? 'digits' : 'bits'}: ${width}}`), 'R: {count: 4}'].join('\n'),
  parts: `flags: {Z: {rule: zero}, N: {rule: negative}, C: {rule: carry}, V: {rule: overflow}, H: {rule: half-carry, into: 1}}
faults: {division: value 3, cell outside: wrap, register outside: wrap, program counter outside: wrap}`,
});

test.each(SHAPES.map((each) => [`${each.digits ? 'digits' : 'bits'}: ${each.widths.join(', ')}`, each] as const))(
  `seed ${seed}, registers of %s: whatever the checker accepts runs in both executors, and is told`,
  (_, shape) => {
    const widths = shape.widths.filter((each) => each <= (shape.digits ? 9 : 32));
    let taken = 0;
    for (let round = 0; round < rounds; round++) {
      const pick = picker(seed + round);
      const drawing = { pick, digits: shape.digits, names: widths.map((_, at) => `W${at}`), widths };
      const made = machineOf(
        shapeOf({ ...shape, widths }),
        Array.from({ length: 60 }, () => tick(drawing)),
      );
      taken += made.taken.length;
      for (let run = 0; run < 4; run++) compareRuns(made.machine, seed + 97 * run, { size: () => 1, leaps: 150 });
      told(made.machine, seed + round);
    }
    expect(taken).toBeGreaterThan(rounds * 12);
  },
  120_000,
);

/** Every tick with its report and its sentence, as the bench asks for them. */
function told(machine: Machine, from: number): void {
  const state = drawnState(machine, from);
  const executor = new TickExecutor(machine, state);
  for (let count = 0; count < 250; count++) {
    const { report, outcome } = reportTick(executor);
    expect(narrate({ machine, state, program: undefined }, report, 'done').length).toBeGreaterThan(0);
    if (outcome !== 'done') return;
  }
}

test.each<[string, bigint]>([
  ['W <- low((W * W) & 3)', 1n],
  ['W <- low(W * W / 3)', 6148914688373205675n],
  ['W <- rotl(low(W * W), 1)', 2n],
  ['W <- asr(low(W * W), 1)', 0n],
  ['W <- low((join(X, W) & join(X, W)) >> 8)', 0x02ffffffn],
  ['W <- low((~join(X, W)) >> 8)', 0xfd000000n],
  ['W <- low((signed(W * W) / signed(-(W * W))))', 0xffffffffn],
  ['if W * W > 3: W <- 1', 1n],
  ['if join(W, W) != 0: W <- 5', 5n],
  ['if signed(X) = signed(W): W <- 7', 0xffffffffn],
  ['if signed(X - 3) = signed(W): W <- 7', 7n],
])('%s on 32-bit registers', (text, expected) => {
  const machine = machineFrom(
    smallMachine({ registers: 'W: {bits: 32, start: 4294967295}\nX: {bits: 8, start: 2}', ticks: { TRY: text } }),
  );
  const state = drawnState(machine, 1);
  const register = machine.registers.findIndex((each) => each.name === 'W');
  state.registers[register] = 0xffffffff;
  state.registers[machine.registers.findIndex((each) => each.name === 'X')] = 2;
  const form = machine.forms.find((each) => each.mnemonic === 'TRY')!;
  state.spaces[0]![0] = form.fixed[0]!.value;
  state.registers[withRole(machine, 'program counter')!] = 0;
  const executor = new TickExecutor(machine, state);
  for (let step = 0; step < form.schedule.length; step++) expect(executor.tick()).toBe('done');
  expect(BigInt(state.registers[register]!)).toBe(expected % 2n ** 32n);
  for (let seed = 1; seed <= 5; seed++) compareRuns(machine, seed, { size: () => 1, leaps: 40 });
});

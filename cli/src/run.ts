/** zettak run MACHINE SOURCE: assembles, runs on the tick executor, and prints how it ended. */
import { assemble } from '@zettak/core/assembler/assemble';
import { explainStop } from '@zettak/core/engine/narrate';
import { Runner, type Stop } from '@zettak/core/engine/runner';
import { readEntry } from '@zettak/core/engine/services';
import { BY_RUN } from '@zettak/core/engine/state';
import type { Program } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/machine';
import { readMachine } from '@zettak/core/machine/read';
import { hexDigits, readNumber } from '@zettak/core/text/number';
import { problemLines } from './check';
import { BUDGET, FAULT, PROBLEMS, WAITING, type Terminal } from './terminal';

export interface RunOptions {
  /** Numbers for reading traps, separated by blanks or commas. */
  readonly input?: string;
  /** CELL=VALUE; the cell a number or a label. */
  readonly set?: readonly string[];
  /** Most ticks. */
  readonly max?: string;
  readonly json?: boolean;
}

const MOST_TICKS = 10_000_000;

export function run(terminal: Terminal, machineFile: string, sourceFile: string, options: RunOptions): number {
  const machineText = terminal.read(machineFile);
  const source = terminal.read(sourceFile);
  if (machineText === undefined) return terminal.wrongUse(`${machineFile} cannot be read.`);
  if (source === undefined) return terminal.wrongUse(`${sourceFile} cannot be read.`);
  const { machine, problems } = readMachine(machineText, machineFile);
  problemLines(machineFile, problems).forEach(terminal.warn);
  if (!machine) return PROBLEMS;
  const assembly = assemble(machine, source, sourceFile);
  problemLines(sourceFile, assembly.problems).forEach(terminal.warn);
  if (!assembly.program) return PROBLEMS;
  const max = options.max === undefined ? MOST_TICKS : readNumber(options.max);
  if (max === undefined || max < 1) return terminal.wrongUse(`--max ${options.max} is no number of ticks.`);
  const inputs = readInputs(machine, options.input ?? '');
  if ('refused' in inputs) return terminal.wrongUse(`--input: ${inputs.refused}`);
  const runner = new Runner(machine, assembly.program, { inputs: inputs.values });
  for (const each of options.set ?? []) {
    const refused = preset(runner, assembly.program, each);
    if (refused) return terminal.wrongUse(`--set ${each}: ${refused}`);
  }
  const stop = runner.run(max, { first: true });
  print(terminal, runner, stop, options.json ?? false);
  return exitCode(stop);
}

function readInputs(machine: Machine, text: string): { values: number[] } | { refused: string } {
  const values: number[] = [];
  for (const word of text.split(/[\s,]+/).filter((each) => each !== '')) {
    const entry = readEntry(word, machine.wordWidth, readNumber);
    if ('refused' in entry) return entry;
    values.push(entry.value);
  }
  return { values };
}

/** Presets a cell; undefined where that was possible, else why not. */
function preset({ machine, state }: Runner, program: Program, text: string): string | undefined {
  const [cell = '', value = ''] = text.split('=');
  const label = program.symbols.find((each) => each.kind === 'label' && each.name.toUpperCase() === cell.trim().toUpperCase());
  const address = label?.value ?? readNumber(cell.trim());
  const { cells, width } = machine.spaces[machine.programSpace]!;
  if (address === undefined || address >= cells) return `“${cell}” is no cell. Write an address or a label, then = and a value.`;
  const entry = readEntry(value, width, readNumber);
  if ('refused' in entry) return entry.refused;
  state.spaces[machine.programSpace]![address] = entry.value;
  return undefined;
}

function exitCode(stop: Stop | undefined): number {
  switch (stop?.kind) {
    case 'halted':
      return 0;
    case 'waiting':
      return WAITING;
    case 'fault':
      return FAULT;
    case 'breakpoint':
    case undefined:
      return BUDGET;
    default:
      return stop satisfies never;
  }
}

interface Ending {
  readonly stop: string;
  readonly sentence: string;
  readonly instructions: number;
  readonly ticks: number;
  readonly registers: Readonly<Record<string, number>>;
  readonly flags: Readonly<Record<string, number>>;
  /** By space: cells that the run has written, by address. */
  readonly cells: Readonly<Record<string, Readonly<Record<string, number>>>>;
  readonly output: string;
}

function endingOf(runner: Runner, stop: Stop | undefined): Ending {
  const { machine, state } = runner;
  const { control } = state;
  const cells = machine.spaces.map(({ name }, space) => {
    const written = [...state.spaces[space]!.entries()].filter(([address]) => state.marks[space]![address] === BY_RUN);
    return [name, Object.fromEntries(written)] as const;
  });
  return {
    stop: stop?.kind ?? 'budget',
    sentence: stop ? explainStop(runner, stop) : `Stopped after ${control.ticks} ticks, the most that was allowed.`,
    instructions: control.instructions,
    ticks: control.ticks,
    registers: Object.fromEntries(machine.registers.map(({ name }, at) => [name, state.registers[at]!])),
    flags: Object.fromEntries(machine.flags.map(({ name }, at) => [name, state.flags[at]!])),
    cells: Object.fromEntries(cells),
    output: control.output,
  };
}

function print(terminal: Terminal, runner: Runner, stop: Stop | undefined, json: boolean): void {
  const ending = endingOf(runner, stop);
  if (json) return terminal.write(JSON.stringify(ending, null, 2));
  const { machine } = runner;
  if (ending.output) terminal.write(ending.output.replace(/\n$/, ''));
  terminal.write(ending.sentence);
  const registers = machine.registers.map(({ name, width }, at) => `${name} ${hexDigits(runner.state.registers[at]!, width)}`);
  terminal.write(`Registers (hex): ${registers.join('  ')}`);
  if (machine.flags.length > 0) terminal.write(`Flags: ${machine.flags.map(({ name }) => `${name} ${ending.flags[name]}`).join('  ')}`);
  for (const { name, width, addressWidth } of machine.spaces) {
    const written = Object.entries(ending.cells[name]!).map(
      ([address, value]) => `${hexDigits(Number(address), addressWidth)}=${hexDigits(value, width)}`,
    );
    if (written.length > 0) terminal.write(`Cells of ${name} written (hex): ${written.join(' ')}`);
  }
}

/** zettak run MACHINE SOURCE: assembles, runs on the tick executor, and prints how it ended. */
import { flagValues } from '@zettak/core/engine/composites';
import { explainStop } from '@zettak/core/engine/stops';
import { Runner, type Stop } from '@zettak/core/engine/runner';
import { inputKindOf, readEntries, readEntry } from '@zettak/core/engine/services';
import { BY_HAND, BY_RUN, deviceLatch, OVER_CODE, portLatch } from '@zettak/core/engine/state';
import type { Program } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/machine';
import { readNumber, shownDigits } from '@zettak/core/text/number';
import { assemblyOf, machineIn, problemLines } from './files';
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
  const machine = machineIn(terminal, machineFile);
  if (typeof machine === 'number') return machine;
  const assembly = assemblyOf(terminal, machine, sourceFile);
  if (typeof assembly === 'number') return assembly;
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
  const numbers = inputKindOf(machine) === 'numbers';
  const words = numbers ? (text.match(/"[^"]*"|'[^']*'|[^\s,]+/g) ?? []) : text === '' ? [] : [text];
  for (const word of words) {
    const entry = readEntries(word, machine, readNumber);
    if ('refused' in entry) return entry;
    values.push(...entry.values);
  }
  return { values };
}

/** Presets a cell; undefined where that was possible, else why not. */
function preset({ machine, state }: Runner, program: Program, text: string): string | undefined {
  const [cell = '', value = ''] = text.split('=');
  const wanted = cell.trim();
  const device = machine.devices.findIndex((each) => each.name === wanted);
  if (device !== -1) {
    const entry = readEntry(value, { width: machine.devices[device]!.width, radix: machine.radix }, readNumber);
    if ('refused' in entry) return entry.refused;
    state.latches[deviceLatch(machine, device, 'value')] = entry.value;
    return undefined;
  }
  const label = program.symbols.find((each) => each.kind === 'label' && each.name.toUpperCase() === wanted.toUpperCase());
  const place = /^(\w+)\[\s*(?:(\w+)\s*,\s*)?(\w+)\s*\]$/.exec(wanted);
  const named = place ? machine.spaces.findIndex((each) => each.name === place[1]) : (label?.space ?? machine.programSpace);
  const space = machine.spaces[named];
  const bank = readNumber(place?.[2] ?? '0') ?? Infinity;
  const address = place ? readNumber(place[3]!) : (label?.at ?? label?.value ?? readNumber(wanted));
  if (!space || address === undefined || address >= space.cells * (label ? space.banks : 1) || bank >= space.banks)
    return `“${cell}” is no cell. Write an address, a label, MEMORY[cell], MEMORY[bank, cell] or a device, then = and a value.`;
  const entry = readEntry(value, { width: space.width, radix: machine.radix }, readNumber);
  if ('refused' in entry) return entry.refused;
  state.spaces[named]![bank * space.cells + address] = entry.value;
  state.marks[named]![bank * space.cells + address] = BY_HAND;
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
  /** What stands in the output latches of ports and in lamps, switches and digits. */
  readonly ports: Readonly<Record<string, number>>;
  readonly devices: Readonly<Record<string, number>>;
  readonly output: string;
}

const SHOWING: ReadonlySet<string> = new Set(['lamps', 'switches', 'digits']);

function endingOf(runner: Runner, stop: Stop | undefined): Ending {
  const { machine, state } = runner;
  const { control } = state;
  const cells = machine.spaces.map(({ name }, space) => {
    const written = [...state.spaces[space]!.entries()].filter(([address]) => [BY_RUN, OVER_CODE].includes(state.marks[space]![address]!));
    return [name, Object.fromEntries(written)] as const;
  });
  return {
    stop: stop?.kind ?? 'budget',
    sentence: stop ? explainStop(runner, stop) : `Stopped after ${control.ticks} ticks, the most that was allowed.`,
    instructions: control.instructions,
    ticks: control.ticks,
    registers: Object.fromEntries(machine.registers.map(({ name }, at) => [name, state.registers[at]!])),
    flags: Object.fromEntries(flagValues(machine, state, runner.inputs).map((value, at) => [machine.flags[at]!.name, value])),
    cells: Object.fromEntries(cells),
    ports: Object.fromEntries(
      Array.from({ length: machine.ports?.count ?? 0 }, (_, port) => [String(port), state.latches[portLatch(port)]!] as const).filter(
        ([, value]) => value !== 0,
      ),
    ),
    devices: Object.fromEntries(
      machine.devices.flatMap(({ name, kind }, device) =>
        SHOWING.has(kind) ? [[name, state.latches[deviceLatch(machine, device, 'value')]!] as const] : [],
      ),
    ),
    output: control.output,
  };
}

const placeText = (
  address: number,
  { cells, banks, addressWidth }: { cells: number; banks: number; addressWidth: number },
  radix: number,
): string => `${banks > 1 ? `${Math.floor(address / cells)}:` : ''}${shownDigits(address % cells, addressWidth, radix)}`;

function print(terminal: Terminal, runner: Runner, stop: Stop | undefined, json: boolean): void {
  const ending = endingOf(runner, stop);
  if (json) return terminal.write(JSON.stringify(ending, null, 2));
  const { machine } = runner;
  if (ending.output) terminal.write(ending.output.replace(/\n$/, ''));
  terminal.write(ending.sentence);
  const { radix } = machine;
  const unit = radix === 10 ? '' : ' (hex)';
  const registers = machine.registers.map(({ name, width }, at) => `${name} ${shownDigits(runner.state.registers[at]!, width, radix)}`);
  terminal.write(`Registers${unit}: ${registers.join('  ')}`);
  if (machine.flags.length > 0) terminal.write(`Flags: ${machine.flags.map(({ name }) => `${name} ${ending.flags[name]}`).join('  ')}`);
  for (const { name, width, addressWidth, cells, banks } of machine.spaces) {
    const written = Object.entries(ending.cells[name]!).map(
      ([address, value]) => `${placeText(Number(address), { cells, banks, addressWidth }, radix)}=${shownDigits(value, width, radix)}`,
    );
    if (written.length > 0) terminal.write(`Cells of ${name} written${unit}: ${written.join(' ')}`);
  }
  const list = (entries: Readonly<Record<string, number>>): string =>
    Object.entries(entries)
      .map(([name, value]) => `${name} ${value}`)
      .join('  ');
  if (Object.keys(ending.ports).length > 0) terminal.write(`Ports: ${list(ending.ports)}`);
  if (Object.keys(ending.devices).length > 0) terminal.write(`Devices: ${list(ending.devices)}`);
}

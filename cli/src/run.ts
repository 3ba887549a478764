/** zettak run MACHINE SOURCE: assembles, runs, and tells how it ended; the run as a table or as signals on request. */
import type { WatchedPlace } from '@zettak/core/engine/watch/breakpoints';
import type { Goal } from '@zettak/core/engine/control/runner';
import { readWatched } from '@zettak/core/engine/watch/conditions';
import { flagValues } from '@zettak/core/engine/meaning/composites';
import type { CountsTaken } from '@zettak/core/engine/watch/counts';
import { explainRemark } from '@zettak/core/engine/tell/explainRemark';
import { readEdits } from '@zettak/core/engine/watch/places';
import { readScript, readValues, withDevices, withInputs, type Script } from '@zettak/core/engine/timeline/script';
import { explainStop } from '@zettak/core/engine/tell/explainStop';
import { Runner, type Stop } from '@zettak/core/engine/control/runner';
import { inputKindOf, readEntries } from '@zettak/core/engine/meaning/services';
import { BY_RUN, deviceLatch, OVER_CODE, portLatch } from '@zettak/core/engine/meaning/state';
import {
  dataPlaces,
  outsideRow,
  phaseComment,
  portsInUse,
  readPlaces,
  signalsOf,
  traceColumns,
  traceRow,
} from '@zettak/core/engine/tell/trace';
import { csvRow } from '@zettak/core/formats/csv';
import { VcdWriter } from '@zettak/core/formats/vcd';
import type { DeclaredPlace, Program } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { numberReader } from '@zettak/core/machine/model/numbers';
import { BASE_WORDS, type Numerals, digitsIn, readNumber, readingText, shownDigits, shownNumber } from '@zettak/core/text/number';
import { programIn } from './files';
import { BUDGET, FAULT, NEVER_HALTS, PROBLEMS, WAITING, type Terminal } from './terminal';
import { explainEntry, type RefusedEntry } from '@zettak/core/engine/meaning/entryProblems';

/** What the run is given, how long it may take, and what is written of it. Texts as typed. */
export interface RunOptions {
  /** What is read: numbers, texts in quotes, or plain text on machines that read characters. */
  readonly input?: string;
  /** CELL=VALUE; the cell a number or a label. */
  readonly set?: readonly string[];
  /** A file with the run's script. */
  readonly script?: string;
  /** Most ticks. */
  readonly max?: string;
  /** Most instructions. */
  readonly maxInstructions?: string;
  /** A condition that ends the run. */
  readonly until?: string;
  /** Files for the run as a table and as signals. */
  readonly trace?: string;
  readonly vcd?: string;
  /** Places that become signals, with commas between. */
  readonly cells?: string;
  /** Ends runs that can only repeat themselves. */
  readonly proof?: boolean;
  readonly json?: boolean;
}

const MOST_TICKS = 10_000_000;
/** Rows and samples that a file may have. */
const MOST_TRACED = 1_000_000;
const SLICE = 100_000;

/** Exit code: 0 as the program ends, 1 with errors in machine, text or script; else as `terminal.ts` names them. */
export function run(terminal: Terminal, machineFile: string, sourceFile: string, options: RunOptions): number {
  const loaded = programIn(terminal, machineFile, sourceFile);
  if (typeof loaded === 'number') return loaded;
  const { machine, program } = loaded;
  const max = options.max === undefined ? MOST_TICKS : readNumber(options.max);
  if (max === undefined || max < 1) return terminal.wrongUse(`--max ${options.max} is no number of ticks.`);
  const instructions = options.maxInstructions === undefined ? Infinity : readNumber(options.maxInstructions);
  if (instructions === undefined || instructions < 1)
    return terminal.wrongUse(`--max-instructions ${options.maxInstructions} is no number of instructions.`);
  const script = scriptOf(terminal, machine, program, options.script);
  if (typeof script === 'number') return script;
  const inputs = readInputs(machine, options.input ?? '');
  if ('refused' in inputs) return terminal.wrongUse(`--input: ${explainEntry(inputs.refused)}`);
  const presets = (options.set ?? []).map((text) => ({ text, read: readEdits(machine, program, text) }));
  for (const { text, read } of presets) if ('refused' in read) return terminal.wrongUse(`--set ${text}: ${explainEntry(read.refused)}`);
  const goal = goalOf(machine, program, options.until);
  if (goal && 'refused' in goal) return terminal.wrongUse(`--until: ${explainEntry(goal.refused)}`);
  const runner = new Runner(withDevices(machine, script), program, withInputs(script, [...script.inputs, ...inputs.values]));
  for (const { read } of presets) if (!('refused' in read)) for (const edit of read) runner.timeline.edit(edit);
  runner.options = { ...runner.options, endless: options.proof === false ? 'tell' : 'stop' };
  if (options.json) runner.count();
  const chosen = options.cells === undefined ? dataPlaces(machine, program) : readPlaces(machine, program, options.cells);
  if ('refused' in chosen) return terminal.wrongUse(`--cells: ${explainEntry(chosen.refused)}`);
  const files = options.trace || options.vcd ? new Files(runner, options, chosen) : undefined;
  const stop = going(terminal, runner, { max, instructions, goal, files, json: options.json ?? false });
  const unsaved = files?.save(terminal);
  if (unsaved) return terminal.wrongUse(`${unsaved} cannot be written.`);
  printEnding(terminal, runner, {
    stop: stop.kind,
    sentence: explainStop(runner, stop),
    json: options.json ?? false,
    streamed: terminal.stream !== undefined,
  });
  return exitCode(stop);
}

function scriptOf(terminal: Terminal, machine: Machine, program: Program, file: string | undefined): Script | number {
  if (file === undefined) return { inputs: [], plans: [], devices: [], edits: [] };
  const text = terminal.read(file);
  if (text === undefined) return terminal.wrongUse(`${file} cannot be read.`);
  const { script, problems } = readScript(machine, program, text);
  for (const { line, sentence } of problems) terminal.warn(`${file}:${line}:1: error: ${sentence}`);
  return script ?? PROBLEMS;
}

function readInputs(machine: Machine, text: string): { readonly values: readonly number[] } | RefusedEntry {
  if (text === '') return { values: [] };
  return inputKindOf(machine) === 'numbers' ? readValues(machine, text) : readEntries(text, machine, numberReader(machine));
}

function goalOf(machine: Machine, program: Program, text: string | undefined): Goal | RefusedEntry | undefined {
  if (text === undefined) return undefined;
  const condition = readWatched(machine, program, text);
  return 'refused' in condition ? condition : { kind: 'condition', condition };
}

/** Writes what is new; where more was written at once than is kept, it says so. */
function teller(terminal: Terminal, runner: Runner, json: boolean): () => void {
  let told = 0;
  return () => {
    const { output, written } = runner.state.control;
    const fresh = written - told;
    told = written;
    if (json || !terminal.stream || fresh === 0) return;
    if (fresh > output.length)
      terminal.warn(`${(fresh - output.length).toLocaleString('en-US')} characters of the output are left out here.`);
    terminal.stream(output.slice(output.length - Math.min(output.length, fresh)));
  };
}

interface Going {
  readonly max: number;
  readonly instructions: number;
  readonly goal: Goal | undefined;
  readonly files: Files | undefined;
  readonly json: boolean;
}

/** Until it stops or `max` ticks are done; asks for what it waits for where somebody can answer. */
function going(terminal: Terminal, runner: Runner, { max, instructions, goal, files, json }: Going): Stop {
  runner.begin(goal);
  const tell = teller(terminal, runner, json);
  while (runner.ticks < max) {
    const { instructions: done, step } = runner.state.control;
    const left = instructions - done;
    if (left <= 0) break;
    // So many instructions take at least so many ticks, one under way perhaps a single one: what is left is done one by one.
    const whole = step === 0 ? left : left - 1;
    const slice = Math.min(SLICE, max - runner.ticks, Math.max(1, whole * runner.machine.opening.length));
    const stop = files ? runner.runTick() : runner.run(slice);
    files?.look(runner);
    tell();
    if (stop?.kind === 'waiting' && !json && answered(terminal, runner)) continue;
    if (stop) return stop;
  }
  return runner.spent();
}

/** A line from whoever sits at the terminal; false at the end of it. */
function answered(terminal: Terminal, runner: Runner): boolean {
  for (;;) {
    const line = terminal.ask?.();
    if (line === undefined) return false;
    const entry = readEntries(line, runner.machine, numberReader(runner.machine));
    if ('values' in entry) {
      runner.timeline.queueInput(entry.values);
      return true;
    }
    terminal.warn(explainEntry(entry.refused));
  }
}

/** The run as a table and as signals, as far as files may grow. */
class Files {
  private readonly rows: string[] = [];
  private readonly vcd: VcdWriter | undefined;
  private readonly signals;
  private looked = 0;

  constructor(
    runner: Runner,
    private readonly options: RunOptions,
    places: readonly WatchedPlace[],
  ) {
    const { machine, program, state } = runner;
    this.signals = signalsOf(machine, program, [...places, ...machine.devices.map((_, device) => ({ kind: 'device', device }) as const)]);
    if (options.trace) this.rows.push(csvRow(traceColumns(machine)));
    this.outside(runner);
    if (!options.vcd) return;
    this.vcd = new VcdWriter(this.signals, { scope: machine.name, comment: phaseComment(machine) });
    this.vcd.sample(
      0,
      this.signals.map((each) => each.value(state, undefined)),
    );
  }

  look(runner: Runner): void {
    const { last, ticks, state } = runner.timeline;
    if (!last || last.tick !== ticks || ticks <= this.looked || ticks > MOST_TRACED) return;
    this.looked = ticks;
    if (this.options.trace) this.rows.push(csvRow(traceRow(runner, last)));
    this.outside(runner);
    this.vcd?.sample(
      ticks,
      this.signals.map((each) => each.value(state, last)),
    );
  }

  private outside(runner: Runner): void {
    const row = this.options.trace ? outsideRow(runner.timeline) : undefined;
    if (row) this.rows.push(csvRow(row));
  }

  /** The file that could not be written, if any. */
  save(terminal: Terminal): string | undefined {
    const { trace, vcd } = this.options;
    if (trace && !terminal.save(trace, this.rows.join(''))) return trace;
    if (vcd && !terminal.save(vcd, this.vcd!.end())) return vcd;
    if (this.looked === MOST_TRACED) terminal.warn(`The files hold the first ${MOST_TRACED.toLocaleString('en-US')} ticks.`);
    return undefined;
  }
}

function exitCode(stop: Stop): number {
  switch (stop.kind) {
    case 'halted':
    case 'reached':
    case 'breakpoint':
      return 0;
    case 'waiting':
      return WAITING;
    case 'fault':
      return FAULT;
    case 'never halts':
      return NEVER_HALTS;
    case 'budget':
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
  /** Places that the program declares as its output, by name. */
  readonly results: Readonly<Record<string, number>>;
  /** What was given to be read, and what of it nobody has taken. */
  readonly inputs: { readonly given: number; readonly used: number; readonly left: readonly number[] };
  readonly devices: Readonly<Record<string, number>>;
  /** The end of what was written, and how many characters that was in all. */
  readonly output: string;
  readonly written: number;
  /** What the run did that is allowed and seldom meant. */
  readonly remarks: readonly { readonly tick: number; readonly sentence: string }[];
  readonly counts?: object;
}

const SHOWING: ReadonlySet<string> = new Set(['lamps', 'switches', 'digits']);

const plainly = (counts: ReadonlyMap<number, unknown>): object => Object.fromEntries(counts);

function countsOf({ machine }: Runner, counts: CountsTaken): object {
  const named = <T>(list: readonly T[], names: readonly { readonly name: string }[]): object =>
    Object.fromEntries(list.map((each, at) => [names[at]!.name, each]));
  return {
    executions: plainly(counts.executions),
    reads: named(counts.reads.map(plainly), machine.spaces),
    writes: named(counts.writes.map(plainly), machine.spaces),
    instructions: Object.fromEntries([...counts.forms].map(([form, count]) => [machine.forms[form]!.written, count])),
    phases: Object.fromEntries(counts.phases.map((each, at) => [machine.phases[at]!, each])),
    branches: plainly(counts.branches),
    deepest: counts.deepest,
    stacks: named(counts.stacks, machine.stacks),
    polls: named(counts.polls, machine.devices),
  };
}

/** How a run ended, and whether that is told as JSON. */
interface EndingParts {
  readonly stop: string;
  readonly sentence: string;
  readonly json: boolean;
  /** The output has been written as it came. */
  readonly streamed: boolean;
}

function endingOf(runner: Runner, { stop, sentence }: EndingParts): Ending {
  const { machine, state } = runner;
  const { control } = state;
  const cells = machine.spaces.map(({ name }, space) => {
    const written = [...state.spaces[space]!.entries()].filter(([address]) => [BY_RUN, OVER_CODE].includes(state.marks[space]![address]!));
    return [name, Object.fromEntries(written)] as const;
  });
  return {
    stop,
    sentence,
    instructions: control.instructions,
    ticks: control.ticks,
    registers: Object.fromEntries(machine.registers.map(({ name }, at) => [name, state.registers[at]!])),
    flags: Object.fromEntries(flagValues(machine, state).map((value, at) => [machine.flags[at]!.name, value])),
    cells: Object.fromEntries(cells),
    ports: Object.fromEntries(portsInUse(machine).map((port) => [String(port), state.latches[portLatch(port)]!])),
    results: Object.fromEntries(
      runner.program.declared.filter((each) => each.way === 'output').map((each) => [each.name, state.spaces[each.space]![each.address]!]),
    ),
    inputs: { given: control.queue.length, used: control.inputs, left: control.queue.slice(control.inputs) },
    devices: Object.fromEntries(
      machine.devices.flatMap(({ name, kind }, device) =>
        SHOWING.has(kind) ? [[name, state.latches[deviceLatch(machine, device, 'value')]!] as const] : [],
      ),
    ),
    output: control.output,
    written: control.written,
    remarks: runner.runRemarks.map((each) => ({ tick: each.tick, sentence: explainRemark(runner, each) })),
    ...(runner.counts && { counts: countsOf(runner, runner.counts) }),
  };
}

const placeText = (
  address: number,
  { cells, banks, addressWidth }: { cells: number; banks: number; addressWidth: number },
  numerals: Numerals,
): string => `${banks > 1 ? `${Math.floor(address / cells)}:` : ''}${shownDigits(address % cells, addressWidth, numerals)}`;

const numberText = (machine: Machine, value: number): string =>
  shownNumber(value, Math.max(machine.wordWidth, digitsIn(value, machine.radix)), machine);

/** “highest: 158 cm”: a declared output in its own base and unit. */
function resultLine({ machine, state }: Runner, { name, space, address, base, unit }: DeclaredPlace): string {
  const { width } = machine.spaces[space]!;
  const shown = readingText(base, state.spaces[space]![address]!, { width, radix: machine.radix });
  return `${name}: ${shown}${unit && ` ${unit}`}`;
}

/** Registers, flags, output and the sentence of the end, as text or as one JSON object. */
export function printEnding(terminal: Terminal, runner: Runner, told: EndingParts): void {
  const ending = endingOf(runner, told);
  if (told.json) return terminal.write(JSON.stringify(ending, null, 2));
  const { machine } = runner;
  if (!told.streamed && ending.output) terminal.write(ending.output.replace(/\n$/, ''));
  else if (ending.output && !ending.output.endsWith('\n')) terminal.write('');
  terminal.write(ending.sentence);
  for (const { tick, sentence } of ending.remarks) terminal.warn(`Tick ${tick}: ${sentence}`);
  const unit = machine.radix === 10 ? '' : ` (${BASE_WORDS[machine.base]})`;
  const registers = machine.registers.map(({ name, width }, at) => `${name} ${shownDigits(runner.state.registers[at]!, width, machine)}`);
  terminal.write(`Registers${unit}: ${registers.join('  ')}`);
  if (machine.flags.length > 0) terminal.write(`Flags: ${machine.flags.map(({ name }) => `${name} ${ending.flags[name]}`).join('  ')}`);
  for (const { name, width, addressWidth, cells, banks } of machine.spaces) {
    const written = Object.entries(ending.cells[name]!).map(
      ([address, value]) => `${placeText(Number(address), { cells, banks, addressWidth }, machine)}=${shownDigits(value, width, machine)}`,
    );
    if (written.length > 0) terminal.write(`Cells of ${name} written${unit}: ${written.join(' ')}`);
  }
  const list = (entries: Readonly<Record<string, number>>, widthOf: (name: string) => number): string =>
    Object.entries(entries)
      .map(([name, value]) => `${name} ${shownDigits(value, widthOf(name), machine)}`)
      .join('  ');
  const sent = Object.fromEntries(Object.entries(ending.ports).filter(([, value]) => value !== 0));
  if (Object.keys(sent).length > 0) terminal.write(`Ports${unit}: ${list(sent, () => machine.ports!.width)}`);
  const widthOf = (device: string): number => machine.devices.find((each) => each.name === device)!.width;
  if (Object.keys(ending.devices).length > 0) terminal.write(`Devices${unit}: ${list(ending.devices, widthOf)}`);
  for (const each of runner.program.declared) if (each.way === 'output') terminal.write(resultLine(runner, each));
  const { left, given } = ending.inputs;
  if (left.length > 0)
    terminal.warn(
      `${left.length} of the ${given} inputs ${left.length === 1 ? 'was' : 'were'} left over, from the value ${numberText(machine, left[0]!)} on.`,
    );
}

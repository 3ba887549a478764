/** Runs as files: kept, put back, compared, and written in open formats. */
import { assemble } from '../assembler/assemble';
import type { WatchedPlace } from '../engine/watch/breakpoints';
import { flagValues } from '../engine/meaning/composites';
import { deviceValue, isReady } from '../engine/meaning/devices';
import { addressText, placeName } from '../engine/tell/names';
import type { Beginning } from '../engine/timeline/timeline';
import { Runner } from '../engine/control/runner';
import { readScript, withDevices, writeScript, type Script } from '../engine/timeline/script';
import { createState, portLatch, type State } from '../engine/meaning/state';
import { cellsNow, dataPlaces, outsideRow, phaseComment, readPlaces, signalsOf, traceColumns, traceRow } from '../engine/tell/trace';
import { writeCellsCsv } from '../formats/cellsCsv';
import { csvRow } from '../formats/csv';
import { VcdWriter } from '../formats/vcd';
import type { Program } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { shownDigits } from '../text/number';
import { runFileSchema, type RunFile } from './runFileSchema';
import { itemAt } from '../text/itemAt';
import type { RefusedRunFile } from './runFileProblems';

/** A place where two states differ. */
export interface Difference {
  readonly place: string;
  readonly kept: string;
  readonly now: string;
}

export type RunExport = 'trace' | 'memory' | 'registers' | 'vcd';

interface Keeping {
  readonly devices: Script['devices'];
  readonly machineText: string;
  readonly kept: State | undefined;
  readonly parts: Readonly<Record<string, string>>;
  readonly note: string;
}

/** A run up to now as a file that does the same anywhere. */
export function runFileOf(runner: Runner, { machineText, kept, parts, note, devices }: Keeping): RunFile {
  const { machine, program } = runner;
  const cells = (kept?.spaces ?? []).flatMap((each, space) =>
    [...each.entries()].flatMap(([address, value]) =>
      itemAt(kept!.marks, space)[address] === 0 ? [] : [[space, address, value] as [number, number, number]],
    ),
  );
  return {
    zettak: 'run',
    version: 1,
    machine: { name: machine.name, text: machineText, language: machine.language },
    program: { text: program.source, parts: { ...parts } },
    kept: cells,
    script: writeScript(machine, {
      inputs: runner.timeline.firstInputs,
      plans: runner.state.plans,
      devices,
      edits: runner.timeline.script
        .filter((each) => each.scripted || each.tick <= runner.ticks)
        .map((each) => ({ ...each, scripted: each.scripted ?? false })),
    }),
    tick: runner.ticks,
    note,
  };
}

export interface ReadRun {
  readonly program: Program;
  /** With the devices of the run's script. */
  readonly machine: Machine;
  readonly devices: Script['devices'];
  readonly beginning: Beginning;
  readonly tick: number;
  readonly note: string;
}

/** The parts of a file of a run, as far as they can be read without its machine. */
export function runFileIn(text: string): RunFile | RefusedRunFile {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    return { refused: { code: 'not-json' } };
  }
  const parsed = runFileSchema.safeParse(data);
  if (!parsed.success) return { refused: { code: 'no-run-file' } };
  return parsed.data;
}

/** Reads a file of a run for the machine that is here; another machine's runs are refused. */
export function readRunFile(text: string, machine: Machine, machineText: string): ReadRun | RefusedRunFile {
  const file = runFileIn(text);
  if ('refused' in file) return file;
  if (file.machine.name !== machine.name) return { refused: { code: 'other-machine', machine: file.machine.name, here: machine.name } };
  if (file.machine.text !== machineText) return { refused: { code: 'other-version', machine: machine.name } };
  const { program } = assemble(machine, file.program.text, { parts: new Map(Object.entries(file.program.parts)) });
  if (!program) return { refused: { code: 'no-program' } };
  const { script, problems } = readScript(machine, program, file.script);
  if (!script) return { refused: { code: 'no-script', sentence: problems[0]?.sentence ?? '' } };
  const keep = createState(machine);
  for (const [space, address, value] of file.kept) {
    if (!keep.spaces[space] || address >= keep.spaces[space].length) return { refused: { code: 'cell-outside' } };
    keep.spaces[space][address] = value;
    itemAt(keep.marks, space)[address] = 1;
  }
  return {
    program,
    machine: withDevices(machine, script),
    devices: script.devices,
    beginning: { ...script, ...(file.kept.length > 0 && { keep }) },
    tick: file.tick,
    note: file.note,
  };
}

const MOST_DIFFERENCES = 200;

/** Registers, flags and cells that differ. */
export function differences({ program, machine: own, beginning, tick }: ReadRun, runner: Runner): Difference[] {
  const { machine, state } = runner;
  const other = new Runner(own, program, beginning);
  other.timeline.reach(tick);
  const found: Difference[] = [];
  const compare = (place: string, kept: number, now: number, width: number): void => {
    if (kept === now || found.length >= MOST_DIFFERENCES) return;
    found.push({ place, kept: shownDigits(kept, width, machine), now: shownDigits(now, width, machine) });
  };
  machine.registers.forEach(({ name, width }, at) => compare(name, itemAt(other.state.registers, at), itemAt(state.registers, at), width));
  const [keptFlags, flags] = [flagValues(own, other.state), flagValues(machine, state)];
  machine.flags.forEach(({ name }, at) => compare(name, itemAt(keptFlags, at), itemAt(flags, at), 1));
  for (let port = 0; port < (machine.ports?.count ?? 0); port++)
    compare(
      `${machine.ports!.name}[${port}]`,
      itemAt(other.state.latches, portLatch(port)),
      itemAt(state.latches, portLatch(port)),
      machine.ports!.width,
    );
  machine.devices.forEach(({ name, width }, device) => {
    const shown = { device, part: 'data' } as const;
    compare(name, deviceValue(own, other.state, shown), deviceValue(machine, state, shown), width);
    const ready = (each: State, of: Machine): number => (isReady(of, each, device) ? 1 : 0);
    compare(`${name} is ready`, ready(other.state, own), ready(state, machine), 1);
  });
  machine.spaces.forEach(({ width }, space) =>
    itemAt(state.spaces, space).forEach((now, address) => {
      const kept = itemAt(itemAt(other.state.spaces, space), address);
      if (kept !== now) compare(placeName(machine, runner.program, { kind: 'cell', space, address }), kept, now, width);
    }),
  );
  return found;
}

export interface Exported {
  readonly name: string;
  readonly content: string;
}

/** Ticks that a table or a dump of a run may have. */
const MOST_TICKS = 100_000;

/** `cells`: places that become signals, as `readPlaces` reads them; without them those of the program's data. */
export function exported(kind: RunExport, runner: Runner, cells = ''): Exported | RefusedRunFile {
  const { machine } = runner;
  switch (kind) {
    case 'memory':
      return { name: 'memory.csv', content: writeCellsCsv(machine, cellsNow(runner)) };
    case 'registers':
      return { name: 'state.txt', content: stateText(runner) };
    case 'trace':
    case 'vcd': {
      if (runner.ticks > MOST_TICKS) return { refused: { code: 'run-too-long', most: MOST_TICKS } };
      const places = cells.trim() === '' ? dataPlaces(machine, runner.program) : readPlaces(machine, runner.program, cells);
      return 'refused' in places ? places : ticksOf(kind, runner, places);
    }
    default:
      return kind satisfies never;
  }
}

function ticksOf(kind: 'trace' | 'vcd', runner: Runner, places: readonly WatchedPlace[]): Exported {
  const { machine, program } = runner;
  const signals = signalsOf(machine, program, places);
  const rows = [csvRow(traceColumns(machine))];
  const outside = (): void => {
    const row = outsideRow(runner.timeline);
    if (row) rows.push(csvRow(row));
  };
  const writer = new VcdWriter(signals, { scope: machine.name, comment: phaseComment(machine) });
  const { ticks } = runner;
  const sample = (): void =>
    writer.sample(
      runner.ticks,
      signals.map((each) => each.value(runner.state, runner.timeline.last)),
    );
  runner.timeline.travel(0);
  outside();
  sample();
  while (runner.ticks < ticks && !runner.tick()) {
    rows.push(csvRow(traceRow(runner, runner.timeline.last!)));
    outside();
    sample();
  }
  if (runner.timeline.last?.halted) {
    rows.push(csvRow(traceRow(runner, runner.timeline.last)));
    sample();
  }
  return kind === 'vcd' ? { name: 'run.vcd', content: writer.end() } : { name: 'run.csv', content: rows.join('') };
}

/** Registers, flags and written cells as lines that a person reads. */
function stateText({ machine, program, state, ticks }: Runner): string {
  const lines = [`${machine.name}, after tick ${ticks}`, ''];
  machine.registers.forEach(({ name, width }, at) =>
    lines.push(`${name.padEnd(6)} ${shownDigits(itemAt(state.registers, at), width, machine)}`),
  );
  if (machine.flags.length > 0) lines.push('', machine.flags.map(({ name }, at) => `${name} ${flagValues(machine, state)[at]}`).join('  '));
  lines.push('');
  for (const { space, address, value } of cellsNow({ machine, state })) {
    const { width, name } = itemAt(machine.spaces, space);
    const where = machine.spaces.length > 1 ? `${name} ` : '';
    lines.push(
      `${where}${addressText(machine, address)}  ${shownDigits(value, width, machine)}  ${placeName(machine, program, { kind: 'cell', space, address })}`,
    );
  }
  return `${lines.join('\n')}\n`;
}

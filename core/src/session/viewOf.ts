/** What the page is shown of a run: everything as data and words, made from the engine's state. */
import { depthOf } from '../engine/meaning/callStack';
import { compositeValue, flagValues } from '../engine/meaning/composites';
import { isReady } from '../engine/meaning/devices';
import { addressText, instructionAt, lengthAt, lineAt, ownLine } from '../engine/tell/names';
import { narrate, type Segment, type Telling } from '../engine/tell/narrate';
import { explainRemark } from '../engine/tell/explainRemark';
import type { Goal, Runner, Stop } from '../engine/control/runner';
import { branchAhead } from '../engine/tell/branchAhead';
import { narrateInstruction } from '../engine/tell/narrateInstruction';
import type { TickReport } from '../engine/meaning/report';
import { planText } from '../engine/timeline/script';
import { deviceLatch, type Frame } from '../engine/meaning/state';
import { explainStop, polledNames, underWay } from '../engine/tell/explainStop';
import { explainFlag } from '../engine/tell/why';
import { calledAt } from '../image/program';
import { decodedLines, interesting, phaseTicks, upcoming, wakeEntries, wanted } from './viewParts';
import { inHand } from './inHand';
import { shownStacks } from './shownStacks';
import type { BreakState, OpenCall, ShownDevice, ShownWatch, StatusKind, View, Where } from './protocol';
import { itemAt } from '../text/itemAt';
import { grouped } from '../text/number';

export interface Shown {
  readonly runner: Runner;
  readonly stop: Stop | undefined;
  readonly running: boolean;
  /** Too fast to show every tick. */
  readonly fast: boolean;
  /** Too fast for what is around a tick to be read. */
  readonly brisk: boolean;
  readonly goal: Goal | undefined;
  readonly unfinished: Goal | undefined;
  readonly flag: number | undefined;
  readonly since: { readonly ticks: number; readonly instructions: number };
  readonly refused: readonly BreakState[];
  readonly watches: readonly ShownWatch[];
  /** A search is looked into: how much of it is done, from 0 to 1. */
  readonly searching: number | undefined;
  readonly moved: boolean;
  /** The last command took whole instructions: they are told whole. */
  readonly whole: boolean;
  /** What sentences tell beyond the usual. */
  readonly asked: Telling['asked'];
}

/** Calls that are named; deeper ones are counted. */
const MOST_CALLS = 40;
const MOST_REMARKS = 60;

/** A view of a run as it stands: plain data, a copy of all that can change. */
export function viewOf(shown: Shown): View {
  const { runner, stop, fast, brisk, flag: asked, since, unfinished, moved } = shown;
  const { machine, program, state } = runner;
  const { control } = state;
  const telling: Telling = { machine, program, state, asked: shown.asked };
  const preview = fast ? undefined : runner.timeline.preview();
  const last = runner.timeline.last;
  const flag = fast ? undefined : (asked ?? interesting(last?.flags ?? []));
  const reason = flag !== undefined && flag < machine.flags.length ? explainFlag(telling, flag, runner.timeline.whyFlag(flag)) : undefined;
  const { status, sentence } = describe(telling, shown);
  // An instruction that faults in its first tick has not begun, and is what the marks show all the same.
  const here = stop?.kind === 'fault' ? stop.report.here : control.here;
  const executing = here < 0 ? undefined : where(runner, here);
  const hand = fast ? undefined : inHand(telling, runner);
  const waiting = stop?.kind === 'waiting' ? wanted(machine, stop.report) : undefined;
  return {
    status,
    sentence,
    ticks: control.ticks,
    instructions: control.instructions,
    thisTime: { ticks: control.ticks - since.ticks, instructions: control.instructions - since.instructions },
    furthest: runner.timeline.furthest,
    calls: callsOf(telling),
    callsBroken: control.callStackBroken,
    stacks: fast ? [] : shownStacks(telling),
    remarks: runner.runRemarks.slice(-MOST_REMARKS).map((each) => ({ tick: each.tick, sentence: explainRemark(telling, each) })),
    breaks: [...runner.breakpoints.map(({ id }) => ({ id, hits: runner.breaks.hitsOf(id) })), ...shown.refused],
    ...((unfinished?.kind === 'over' || unfinished?.kind === 'out') && { unfinished: unfinished.kind }),
    registers: [...state.registers],
    registersBefore: fast ? [...state.registers] : registersBefore(runner),
    registersAtStart: [...runner.timeline.atStart.registers],
    flags: flagValues(machine, state),
    spaces: state.spaces.map((each, at) => ({ cells: each.slice(), marks: itemAt(state.marks, at).slice() })),
    composites: machine.composites.map((each) => compositeValue(machine, state, each)),
    devices: machine.devices.map((_, device) => deviceOf(runner, device)),
    ...(executing && { executing }),
    next: nextOf(runner),
    ...(last && { last }),
    lastSentence: lastSentence(telling, shown),
    ...(preview && { coming: preview.report }),
    comingSentence: preview && !(isEmpty(runner) && control.ticks === 0) ? comingSentence(telling, shown, preview.report) : [],
    phases: phaseTicks(machine, runner),
    ...(hand && { inHand: hand }),
    watches: shown.watches,
    decoded: decodedLines(machine, runner),
    ...(reason && { why: { flag: flag!, reason } }),
    wake: brisk ? [] : wakeEntries(telling, runner),
    upcoming: brisk ? [] : upcoming(telling, runner),
    output: control.output,
    written: control.written,
    inputs: [...runner.timeline.inputs],
    inputsUsed: control.inputs,
    handed: [...runner.timeline.handed],
    ...(waiting && { waiting }),
    moved,
    longRuns: runner.timeline.leaper.longRuns,
    loaded: program.source,
  };
}

function deviceOf({ machine, state }: Runner, device: number): ShownDevice {
  const { name, title, kind, width, lines, lineTitles } = itemAt(machine.devices, device);
  const latch = (which: Parameters<typeof deviceLatch>[2]): number => itemAt(state.latches, deviceLatch(machine, device, which));
  const plans = state.plans.filter((each) => each.device === device);
  return {
    ...{
      name,
      title,
      kind,
      width,
      lines: [...lines].map(([line, bit]) => [line, bit, lineTitles.get(line) ?? line] as const),
      value: latch('value'),
    },
    ready: isReady(machine, state, device),
    busyPolls: latch('busyPolls'),
    readyPolls: latch('readyPolls'),
    reads: latch('dataReads'),
    plans: plans.map((each) => planText(machine, each)),
    byHand: plans.some((each) => each.until.kind === 'hand' && latch(each.latch) === each.before),
  };
}

/** The open calls, outermost first. */
function callsOf({ machine, program, state }: Telling): OpenCall[] {
  const calls: OpenCall[] = [];
  for (let frame: Frame | undefined = state.control.callStack; frame && calls.length < MOST_CALLS; frame = frame.parent) {
    const line = ownLine(program, frame.from);
    const back = ownLine(program, frame.returnTo);
    calls.push({
      name: (program && calledAt(program, frame.target)) ?? addressText(machine, frame.target),
      kind: frame.kind,
      from: lineAt(program, frame.from) ?? addressText(machine, frame.from),
      ...(line !== undefined && { line }),
      ...(back !== undefined && { returnLine: back }),
      tick: frame.tick,
    });
  }
  const deeper = depthOf(state.control) - calls.length;
  if (deeper > 0) calls.push({ name: `${deeper.toLocaleString('en-US')} more`, kind: 'call', from: '', tick: 0 });
  return calls.reverse();
}

/** As they were when the instruction began that is under way or was just done. */
function registersBefore({ timeline, state }: Runner): number[] {
  const registers = [...state.registers];
  const { past } = timeline.remembered;
  const first = past.findLastIndex((each) => each.before.step === 0);
  if (first === -1) return registers;
  for (const { changes } of past.slice(first).toReversed())
    for (const each of changes.toReversed()) if (each.kind === 'register') registers[each.register] = each.before;
  return registers;
}

/** The ticks of the instruction that was just done; none where they are not all remembered. */
function lastInstruction(runner: Runner): TickReport[] {
  const { past } = runner.timeline.remembered;
  const first = past.findLastIndex((each) => each.before.step === 0);
  return first === -1 || !runner.timeline.last ? [] : past.slice(first).map((each) => each.report);
}

function lastSentence(telling: Telling, { runner, stop, whole, running }: Shown): Segment[] {
  if (stop?.kind === 'fault') return narrate(telling, stop.report, 'done');
  const told = whole && telling.state.control.step === 0 ? narrateInstruction(telling, lastInstruction(runner)) : undefined;
  if (told) return told;
  if (runner.timeline.last) return narrate(telling, runner.timeline.last, 'done');
  if (isEmpty(runner)) return [{ kind: 'text', text: 'No program is loaded. Registers and memory are as the machine begins.' }];
  if (telling.state.control.ticks > 0) return [{ kind: 'text', text: running ? TOO_FAST : NOT_RECORDED }];
  return [{ kind: 'text', text: 'The program is loaded. Nothing has moved yet.' }];
}

const TOO_FAST = 'The run is too fast to describe tick by tick.';
const NOT_RECORDED = 'The run was too fast here to record single ticks. The next tick is described again.';

/** By ticks what the next one will do; by instructions first of all which way a branch will go. */
function comingSentence(telling: Telling, { whole, running }: Shown, report: TickReport): Segment[] {
  const ahead = whole && !running ? branchAhead(telling) : undefined;
  return ahead ?? narrate({ ...telling, asked: undefined }, report, 'coming');
}

/** There is no program on the machine. */
const isEmpty = ({ program }: Runner): boolean => program.cells.length === 0;

function describe(telling: Telling, shown: Shown): { status: StatusKind; sentence: string } {
  const { control } = telling.state;
  if (shown.searching !== undefined)
    return { status: 'running', sentence: `Looking through the run, ${Math.round(shown.searching * 100)} %` };
  if (shown.running) return whileRunning(telling, shown);
  if (shown.stop) {
    const over = shown.stop.kind === 'halted' ? leftOver(shown.runner) : '';
    return { status: shown.stop.kind, sentence: `${explainStop(telling, shown.stop)}${over}` };
  }
  if (control.halted) return { status: 'halted', sentence: `${explainStop(telling, { kind: 'halted' })}${leftOver(shown.runner)}` };
  const { last } = shown.runner.timeline;
  if (!last && control.ticks > 0) return { status: 'paused', sentence: `Paused at tick ${control.ticks.toLocaleString('en-US')}` };
  if (!last)
    return isEmpty(shown.runner) ? { status: 'empty', sentence: 'No program is loaded' } : { status: 'ready', sentence: 'Ready to run' };
  const form = last.form === undefined ? undefined : telling.machine.forms[last.form];
  // Before it is decoded nobody knows what it is, nor how long.
  const of = last.total === undefined ? `, ${itemAt(telling.machine.phases, last.phase)}` : ` of ${last.total}`;
  const builtIn = last.service?.trap ? `; ${last.service.trap} is built in and has no routine` : '';
  return { status: 'paused', sentence: `Paused after tick ${last.step}${of}${form ? `, ${form.mnemonic}` : ''}${builtIn}` };
}

/** Inputs that a program has ended without. */
function leftOver({ timeline, state }: Runner): string {
  const left = timeline.inputs.length - state.control.inputs;
  return left > 0 ? ` ${grouped(left)} of the ${grouped(timeline.inputs.length)} inputs ${left === 1 ? 'was' : 'were'} left over.` : '';
}

function whileRunning(telling: Telling, { runner, goal }: Shown): { status: StatusKind; sentence: string } {
  const ticks = grouped(telling.state.control.ticks);
  const { loop } = runner;
  if (!loop) return { status: 'running', sentence: `Running${underWay(telling, goal)}, tick ${ticks}` };
  const polled = runner.changeable(loop).map((each) => itemAt(telling.machine.devices, each).name);
  if (polled.length > 0) return { status: 'idle', sentence: `Idle: polling ${polled.join(' and ')}, tick ${ticks}` };
  const asked = polledNames(telling, loop);
  if (asked) return { status: 'running', sentence: `Never halts by itself: waiting on ${asked}` };
  return {
    status: 'running',
    sentence: `Runs in circles for ever, ${loop.instructions.toLocaleString('en-US')} instructions each, tick ${ticks}`,
  };
}

/** Where PC points at. A further cell of the instruction that is being fetched is none of its own, whatever it would be decoded as. */
function nextOf(runner: Runner): Where {
  const { machine, program, state } = runner;
  const { step, here } = state.control;
  const address = itemAt(state.registers, machine.programCounter);
  const behind = step > 0 ? here + lengthAt(machine, state, here) : here;
  if (address <= here || address >= behind) return where(runner, address);
  const line = ownLine(program, address);
  return { address, length: behind - address, ...(line && { line }) };
}

function where({ machine, program, state }: Runner, address: number): Where {
  const text = instructionAt(machine, program, state, address);
  const line = ownLine(program, address);
  return { address, length: lengthAt(machine, state, address), ...(text && { text }), ...(line && { line }) };
}

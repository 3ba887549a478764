/** Why a run stands still, in sentences: faults of every kind, waits, breakpoints, the end. */
import { calledAt, indexOf, type Program } from '../../image/program';
import { programSpaceOf } from '../../machine/model/machine';
import { digitsIn, shownNumber, unitOf } from '../../text/number';
import { addressText, cellName, instructionAt, lineAt, placeName } from './names';
import type { BreakOn, Hit } from '../watch/breakpoints';
import { widthOf } from '../watch/places';
import type { Loop } from '../control/repeats';
import type { Fault, TickReport } from '../meaning/report';
import type { Goal, Stop } from '../control/runner';
import { serviceSentence } from './serviceWords';
import { count, plain, text, type Segment, type Telling } from './telling';
import { itemAt } from '../../text/itemAt';

/** Faults of a fetch: they name their own address, and no instruction was under way. */
const FETCHING: ReadonlySet<string> = new Set(['undefined opcode', 'program counter outside', 'executing data', 'executing an empty cell']);

/** “Stopped on line 9, 0x0C DIV: 0x07 cannot be divided by 0.” */
export function explainFault(telling: Telling, fault: Fault): Segment[] {
  const { machine, program, state } = telling;
  const { here } = state.control;
  const reason = faultReason(telling, fault);
  if (here < 0 || FETCHING.has(fault.kind)) return [text('Stopped: '), ...reason];
  const line = lineAt(program, here);
  const instruction = instructionAt(machine, program, state, here);
  return [
    text(line ? `Stopped on ${line}, ` : 'Stopped at '),
    { kind: 'address', text: addressText(machine, here) },
    text(`${instruction ? ` ${instruction}` : ''}: `),
    ...reason,
  ];
}

/** What went wrong, without where. */
export function faultReason(telling: Telling, fault: Fault): Segment[] {
  const { machine, program } = telling;
  const { width } = programSpaceOf(machine);
  const address = (at: number): Segment => ({ kind: 'address', text: addressText(machine, at) });
  switch (fault.kind) {
    case 'undefined opcode':
      return [
        { kind: 'data', text: shownNumber(fault.cell, width, machine) },
        text(' at '),
        address(fault.address),
        text(` is no instruction. ${walkedInto(program, fault.address)}`),
      ];
    case 'cell outside':
      return [text(outsideOf(telling, fault))];
    case 'program counter outside':
      return [
        text('PC stands at '),
        address(fault.address),
        text(`, past the end of ${programSpaceOf(machine).name}. ${walkedInto(program, fault.address)}`),
      ];
    case 'read-only':
      return [
        text(`${cellName(machine, program, fault.space, fault.address)} of ${itemAt(machine.spaces, fault.space).name} can only be read.`),
      ];
    case 'stack limit': {
      const { name, from, to } = itemAt(machine.stacks, fault.stack);
      const why = fault.way === 'push' ? 'is full: nothing more can be pushed' : 'is empty: there is nothing to pop';
      const [first, last] = [from, to].map((each) => stackPlace(telling, fault.stack, each));
      return [text(`the stack ${name} ${why}. It lies from ${first} to ${last}.`)];
    }
    case 'division':
      return [
        text(
          fault.b === 0
            ? `${number(telling, fault.a)} cannot be divided by 0.`
            : `the quotient of ${number(telling, fault.a)} and ${number(telling, fault.b)} does not fit.`,
        ),
      ];
    case 'two writers':
      return [text(`two transfers of one tick write to ${placeName(machine, program, fault.place)}.`)];
    case 'empty port':
      return [text(`nothing ${attachedText(telling, fault.port)}.`)];
    case 'text without end':
      return [text('the text at '), address(fault.address), text(' has no end mark anywhere in memory. Put a 0 behind it.')];
    case 'undefined service': {
      const known = machine.traps.map((each) => `${number(telling, each.number)} ${each.name}`).join(', ');
      return [text(`it asks for service ${number(telling, fault.number)}, which this machine does not have. It has: ${known || 'none'}.`)];
    }
    case 'register outside':
      return [text(`there is no register number ${fault.index}; they go from 0 to ${fault.count - 1}.`)];
    case 'executing data':
      return [address(fault.address), text(` holds data, not an instruction. ${walkedInto(program, fault.address)}`)];
    case 'executing an empty cell':
      return [text(`${ranOut(telling, fault.address)} Is a halt missing?`)];
    case 'result too wide':
      return [text(`the result ${number(telling, fault.exact)} does not fit into ${fault.width} ${unitOf(machine.radix)}.`)];
    default:
      return fault satisfies never;
  }
}

/** A number as registers of the machine are shown. */
const number = ({ machine }: Telling, value: number): string =>
  value < 0
    ? `−${shownNumber(-value, digitsIn(-value, machine.radix), machine)}`
    : shownNumber(value, Math.max(machine.wordWidth, digitsIn(value, machine.radix)), machine);

/** A place of a stack: an address of its memory, or which of its registers. */
function stackPlace({ machine }: Telling, stack: number, place: number): string {
  const { space } = itemAt(machine.stacks, stack);
  return space === undefined ? String(place) : shownNumber(place, itemAt(machine.spaces, space).addressWidth, machine);
}

/** “answers at port 5, where only lamps are attached”. */
function attachedText({ machine }: Telling, port: number): string {
  const shown = shownNumber(port, digitsIn((machine.ports?.count ?? 1) - 1, machine.radix), machine);
  const names = machine.devices.flatMap(({ name, data, status }) =>
    [data, status].some((each) => each && 'port' in each && each.port === port) ? [name] : [],
  );
  if (names.length === 0) return `is attached to port ${shown}`;
  return `answers there: at port ${shown} only ${names.join(' and ')} ${names.length === 1 ? 'is' : 'are'} attached, which cannot do that`;
}

/** Where the text of the program ended, when the run went on into cells that hold nothing. */
function ranOut({ machine, program }: Telling, at: number): string {
  const before = lineAt(program, at - 1);
  if (before) return `the program's text ended at ${addressText(machine, at - 1)}, ${before}, and the run went on into empty cells.`;
  return `${addressText(machine, at)} holds nothing: no program lies there, and nothing has been written there.`;
}

function outsideOf({ machine }: Telling, { space, address, bank }: Fault & { kind: 'cell outside' }): string {
  const { name, cells, banks, addressWidth } = itemAt(machine.spaces, space);
  if (bank >= banks) return `${name} has ${banks} banks; there is no bank ${bank}.`;
  return `${shownNumber(address, addressWidth, machine)} is past the end of ${name}, which has ${cells} cells.`;
}

function walkedInto(program: Program | undefined, address: number): string {
  const row = program && indexOf(program).rowAt.get(address);
  const line = lineAt(program, address);
  if (row?.kind === 'data') return `The run walked into the data of ${line}. Is a halt missing before it?`;
  if (row?.kind === 'code')
    return row.address === address ? `The program has changed ${line}.` : `It is the middle of the instruction on ${line}.`;
  return program && address > program.facts.last
    ? 'The run walked past the end of the program. Is a halt missing?'
    : 'Nothing of the program lies there.';
}

function waitingSentence(telling: Telling, report: TickReport): string {
  if (report.awaited !== undefined) return `Waits until ${itemAt(telling.machine.devices, report.awaited).name} is ready.`;
  return plain(serviceSentence(telling, report, 'coming'));
}

/** Why a run stands still, in one sentence. */
export function explainStop(telling: Telling, stop: Stop): string {
  const { state } = telling;
  switch (stop.kind) {
    case 'halted':
      if (stop.ran?.kind === 'executing an empty cell')
        return `Ended after ${count(state.control.instructions, 'instruction')}, ${count(state.control.ticks, 'tick')}: ${ranOut(telling, stop.ran.address)}`;
      return `Halted after ${count(state.control.instructions, 'instruction')}, ${count(state.control.ticks, 'tick')}.`;
    case 'waiting':
      return waitingSentence(telling, stop.report);
    case 'fault':
      return plain(explainFault(telling, stop.fault));
    case 'breakpoint':
      return stop.hits.length === 0
        ? pausedBefore(telling, stop.address)
        : stop.hits.map((each) => hitSentence(telling, each, stop.address)).join(' ');
    case 'reached':
      return reachedSentence(telling, stop.goal);
    case 'never halts':
      return neverHalts(telling, stop.loop);
    case 'budget': {
      const spent = `Stopped after ${count(state.control.ticks, 'tick')}, ${count(state.control.instructions, 'instruction')}: no more were allowed this time. It can go on from here.`;
      if (stop.loop)
        return `${spent} The whole state repeats every ${count(stop.loop.instructions, 'instruction')}, ${between(telling, stop.loop.addresses)}.`;
      return stop.recent.length > 0 ? `${spent} It was last at work ${between(telling, stop.recent)}.` : spent;
    }
    default:
      return stop satisfies never;
  }
}

const lineOf = ({ program }: Telling, address: number): string | undefined => lineAt(program, address);

/** “on line 7” or “at 0x10”, and the instruction. */
function pausedBefore(telling: Telling, address: number): string {
  const { machine, program, state } = telling;
  const line = lineOf(telling, address);
  const at = line ? `on ${line}` : `at ${addressText(machine, address)}`;
  return `Paused at the breakpoint ${at}, before ${instructionAt(machine, program, state, address) ?? 'an undefined opcode'}.`;
}

/** “by STORE level on line 4, tick 12”. */
function doneBy(telling: Telling, { here, tick }: Hit): string {
  const { machine, program, state } = telling;
  const what = instructionAt(machine, program, state, here) ?? 'an instruction';
  return `by ${what} ${lineOf(telling, here) ? `on ${lineOf(telling, here)}` : `at ${addressText(machine, here)}`}, tick ${tick.toLocaleString('en-US')}`;
}

function hitSentence(telling: Telling, hit: Hit, address: number): string {
  const { on } = hit.breakpoint;
  if (on.kind === 'address') return pausedBefore(telling, address);
  if (on.kind === 'condition') return `Paused: ${on.condition.text} holds, since ${doneBy(telling, hit).slice(3)}.`;
  if (on.kind === 'output') return `Paused: ${JSON.stringify(hit.output)} was written ${doneBy(telling, hit)}.`;
  const what = watchedName(telling, on);
  if (on.kind === 'read') return `Paused: ${what} was read ${doneBy(telling, hit)}.`;
  const shown = (value: number | undefined): string => shownNumber(value ?? 0, widthOf(telling.machine, on.place), telling.machine);
  if (hit.before === hit.after) return `Paused: ${what} was written ${doneBy(telling, hit)}; it was ${shown(hit.after)} and still is.`;
  return `Paused: ${what} went from ${shown(hit.before)} to ${shown(hit.after)} ${doneBy(telling, hit)}.`;
}

/** What a breakpoint watches, in words. */
export function watchedName({ machine, program }: Telling, on: BreakOn): string {
  switch (on.kind) {
    case 'address':
      return addressText(machine, on.address);
    case 'read':
      return placeName(machine, program, { kind: 'cell', space: on.space, address: on.address });
    case 'output':
      return 'output';
    case 'condition':
      return on.condition.text;
    case 'write':
    case 'change': {
      const { place } = on;
      if (place.kind === 'register') return itemAt(machine.registers, place.register).name;
      return place.kind === 'device' ? itemAt(machine.devices, place.device).name : placeName(machine, program, place);
    }
    default:
      return on satisfies never;
  }
}

/** “at 0x10 to 0x16, lines 4 to 7”. */
function between(telling: Telling, addresses: readonly number[]): string {
  const { machine } = telling;
  const [first, last] = [itemAt(addresses, 0), addresses.at(-1)!];
  const [from, to] = [lineOf(telling, first), lineOf(telling, last)];
  const lines = from && to ? ` (${from === to ? from : `${from} to ${to}`})` : '';
  return first === last
    ? `at ${addressText(machine, first)}${lines}`
    : `from ${addressText(machine, first)} to ${addressText(machine, last)}${lines}`;
}

/** What the run asks in vain, or undefined: “LOCK, 2,500 polls”. */
export function polledNames({ machine }: Telling, { polled }: Loop): string | undefined {
  if (polled.length === 0) return undefined;
  return polled.map(({ device, times }) => `${itemAt(machine.devices, device).name}, ${count(times, 'poll')}`).join(' and ');
}

function neverHalts(telling: Telling, loop: Loop): string {
  const round = `every ${count(loop.instructions, 'instruction')} (${count(loop.ticks, 'tick')})`;
  const where = between(telling, loop.addresses);
  const polled = polledNames(telling, loop);
  if (polled) return `Never halts: waiting on ${polled}. Nothing will change it any more; the loop goes ${where}, round ${round}.`;
  return `Never halts: the whole state repeats ${round}, ${where}. Nothing in this loop changes what it decides by.`;
}

/** The routine of an address, or the address. */
function routineName({ machine, program }: Telling, address: number): string {
  return (program && calledAt(program, address)) ?? addressText(machine, address);
}

function reachedSentence(telling: Telling, goal: Goal): string {
  const { machine, state } = telling;
  const at = itemAt(state.registers, machine.programCounter);
  const where = lineOf(telling, at) ?? addressText(machine, at);
  switch (goal.kind) {
    case 'over':
      return `Stepped over; next is ${where}.`;
    case 'out':
      return `Returned${goal.target >= 0 ? ` from ${routineName(telling, goal.target)}` : ''}; next is ${where}.`;
    case 'stack':
      return `The stack is shorter than it was; next is ${where}. The calls of this run do not match its returns, so this may be another routine than you think.`;
    case 'address':
      return `Reached ${where}.`;
    case 'output':
      return `Something was written; next is ${where}.`;
    case 'condition':
      return `${goal.condition.text} holds; next is ${where}.`;
    default:
      return goal satisfies never;
  }
}

/** What a run is under way for: “until return to line 12”. */
export function underWay(telling: Telling, goal: Goal | undefined): string {
  switch (goal?.kind) {
    case 'over':
    case 'out': {
      let frame = telling.state.control.callStack;
      while (frame && frame.depth > goal.depth + 1) frame = frame.parent;
      if (!frame) return '';
      return ` until ${routineName(telling, frame.target)} returns to ${lineOf(telling, frame.returnTo) ?? addressText(telling.machine, frame.returnTo)}`;
    }
    case 'stack':
      return ' until the stack is shorter';
    case 'address':
      return ` until ${lineOf(telling, goal.address) ?? addressText(telling.machine, goal.address)}`;
    case 'output':
      return ' until something is written';
    case 'condition':
      return ` until ${goal.condition.text}`;
    case undefined:
      return '';
    default:
      return goal satisfies never;
  }
}

/** Why a run stands still, in sentences: faults of every kind, waits, breakpoints, the end. */
import { indexOf, type Program } from '../image/program';
import { programSpaceOf } from '../machine/machine';
import { shownNumber, unitOf } from '../text/number';
import { addressText, cellName, instructionAt, placeName } from './names';
import type { Fault, TickReport } from './report';
import type { Stop } from './runner';
import { serviceSentence } from './serviceWords';
import { count, plain, text, type Segment, type Telling } from './telling';

export function explainFault(telling: Telling, fault: Fault): Segment[] {
  const { machine, program, state } = telling;
  const { width } = programSpaceOf(machine);
  const address = (at: number): Segment => ({ kind: 'address', text: addressText(machine, at) });
  switch (fault.kind) {
    case 'undefined opcode':
      return [
        text('Stopped: '),
        { kind: 'data', text: shownNumber(fault.cell, width, machine.radix) },
        text(' at '),
        address(fault.address),
        text(` is no instruction. ${walkedInto(program, fault.address)}`),
      ];
    case 'cell outside':
      return [text(`Stopped: ${outsideOf(telling, fault)}`)];
    case 'program counter outside':
      return [
        text('Stopped: PC stands at '),
        address(fault.address),
        text(`, past the end of ${programSpaceOf(machine).name}. ${walkedInto(program, fault.address)}`),
      ];
    case 'read-only':
      return [
        text(
          `Stopped: ${cellName(machine, program, fault.space, fault.address)} of ${machine.spaces[fault.space]!.name} can only be read.`,
        ),
      ];
    case 'stack limit': {
      const { name, from, to } = machine.stacks[fault.stack]!;
      const why = fault.way === 'push' ? 'is full: nothing more can be pushed' : 'is empty: there is nothing to pop';
      return [text(`Stopped: the stack ${name} ${why}. It lies from ${from} to ${to}.`)];
    }
    case 'division':
      return [
        text(
          fault.b === 0
            ? `Stopped: ${fault.a} cannot be divided by 0.`
            : `Stopped: the quotient of ${fault.a} and ${fault.b} does not fit.`,
        ),
      ];
    case 'two writers':
      return [text(`Stopped: two transfers of one tick write to ${placeName(machine, program, fault.place)}.`)];
    case 'empty port':
      return [text(`Stopped: nothing is attached to port ${fault.port}.`)];
    case 'text without end':
      return [text('Stopped: the text at '), address(fault.address), text(' has no end mark anywhere in memory. Put a 0 behind it.')];
    case 'undefined service': {
      const known = machine.traps.map((each) => `${each.number} ${each.name}`).join(', ');
      const at = instructionAt(machine, program, state, state.control.here);
      return [
        text(
          `Stopped: ${at ?? 'this instruction'} asks for service ${fault.number}, which this machine does not have. It has: ${known || 'none'}.`,
        ),
      ];
    }
    case 'register outside':
      return [text(`Stopped: there is no register number ${fault.index}; they go from 0 to ${fault.count - 1}.`)];
    case 'executing data':
      return [text('Stopped: '), address(fault.address), text(` holds data, not an instruction. ${walkedInto(program, fault.address)}`)];
    case 'result too wide':
      return [text(`Stopped: the result ${fault.exact} does not fit into ${fault.width} ${unitOf(machine.radix)}.`)];
    default:
      return fault satisfies never;
  }
}

function outsideOf({ machine }: Telling, { space, address, bank }: Fault & { kind: 'cell outside' }): string {
  const { name, cells, banks, addressWidth } = machine.spaces[space]!;
  if (bank >= banks) return `${name} has ${banks} banks; there is no bank ${bank}.`;
  return `${shownNumber(address, addressWidth, machine.radix)} is past the end of ${name}, which has ${cells} cells.`;
}

function walkedInto(program: Program | undefined, address: number): string {
  const row = program && indexOf(program).rowAt.get(address);
  const where = row?.system ? 'of the system program' : '';
  const line = row && `line ${row.line}${where ? ` ${where}` : ''}`;
  if (row?.kind === 'data') return `The run walked into the data of ${line}. Is a halt missing before it?`;
  if (row?.kind === 'code')
    return row.address === address ? `The program has changed ${line}.` : `It is the middle of the instruction on ${line}.`;
  return program && address > program.facts.last
    ? 'The run walked past the end of the program. Is a halt missing?'
    : 'Nothing of the program lies there.';
}

function waitingSentence(telling: Telling, report: TickReport): string {
  if (report.awaited !== undefined) return `Waits until ${telling.machine.devices[report.awaited]!.name} is ready.`;
  return plain(serviceSentence(telling, report, 'coming'));
}

/** Why a run stands still, in one sentence. */
export function explainStop(telling: Telling, stop: Stop): string {
  const { machine, program, state } = telling;
  switch (stop.kind) {
    case 'halted':
      return `Halted after ${count(state.control.instructions, 'instruction')}, ${count(state.control.ticks, 'tick')}.`;
    case 'waiting':
      return waitingSentence(telling, stop.report);
    case 'fault':
      return plain(explainFault(telling, stop.fault));
    case 'breakpoint': {
      const row = program && indexOf(program).rowAt.get(stop.address);
      const at = row ? `on line ${row.line}` : `at ${addressText(machine, stop.address)}`;
      return `Paused at the breakpoint ${at}, before ${instructionAt(machine, program, state, stop.address) ?? 'an undefined opcode'}.`;
    }
    default:
      return stop satisfies never;
  }
}

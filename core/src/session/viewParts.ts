/** Parts of a view of a run: its ticks, its wake, what lies ahead, what it waits for. */
import { digitsOf, fieldTold, instructionAt, wayOn } from '../engine/tell/names';
import type { Telling } from '../engine/tell/narrate';
import type { FlagChange, TickReport } from '../engine/meaning/report';
import type { Printed } from '../engine/watch/breakpoints';
import type { Runner, TickRecord } from '../engine/control/runner';
import { indexOf } from '../image/program';
import { fetchedCells, formInHand, isFetched } from './inHand';
import { placeDigits, type CellPlace } from '../machine/model/describe';
import { decode } from '../machine/model/encode';
import { programSpaceOf, type Machine } from '../machine/model/machine';
import { tableNumber } from '../machine/model/numbers';
import { power, shownLength, shownNumber } from '../text/number';
import type { PhaseTick, View, WakeEntry } from './protocol';
import { itemAt } from '../text/itemAt';

const WAKE_ENTRIES = 60;

/** Who waits for what, in words. */
export function wanted(machine: Machine, { service, awaited }: TickReport): View['waiting'] {
  if (awaited !== undefined) return { who: itemAt(machine.devices, awaited).name, what: 'is waited for' };
  const register = service?.place;
  const who = service?.trap ?? '';
  if (service?.kind === 'read line') return { who, what: 'wants a line of text' };
  if (service?.kind === 'read character') return { who, what: `wants a character for ${register?.name ?? ''}` };
  const width = register?.width ?? machine.wordWidth;
  const size = power(machine.radix, width);
  const [least, most] = [size / 2, size - 1].map((each) => tableNumber(machine, each, width));
  return { who, what: `wants a number for ${register?.name ?? ''}: −${least} to ${most}` };
}

/** Which flag to explain while nobody asks: one that changed, one that is set, or the first. */
export const interesting = (flags: readonly FlagChange[]): number =>
  (flags.find((each) => each.before !== each.after) ?? flags.find((each) => each.after === 1) ?? flags[0])?.flag ?? 0;

/** The ticks of the instruction under way; at a boundary those of the one just done. */
export function phaseTicks(machine: Machine, runner: Runner): PhaseTick[] {
  const { control } = runner.state;
  const { last } = runner.timeline;
  const atBoundary = control.step === 0 && last !== undefined;
  const form = atBoundary ? (last.form === undefined ? undefined : machine.forms[last.form]) : control.form;
  const jumped = control.jumped;
  const schedule = (form?.schedule ?? machine.opening).filter((each) => each.part !== 'finish' || !jumped);
  const done = atBoundary ? last.step : control.step;
  return schedule.map(({ phase, part, tick }, index) => {
    const state = index === done - 1 ? 'last' : index < done ? 'done' : index === done && !control.halted ? 'coming' : 'later';
    return { step: index + 1, phase, part, text: tick.text, state };
  });
}

/** “33 = ADD”, “41 = address”: shown under decode, once that has happened. */
export function decodedLines(machine: Machine, runner: Runner): string[] {
  const { state, last } = runner.timeline;
  const form = formInHand(runner);
  if (!form || last?.part === 'first') return [];
  const fetched = fetchedCells(runner, form);
  const cells = itemAt(state.spaces, machine.programSpace);
  const { here } = state.control;
  const decoded = decode(machine, (offset) => cells[here + offset], here);
  if ('refused' in decoded || decoded.form !== form) return [];
  const known = decoded.operands.filter(({ field }) => isFetched(machine, form, field.pieces, fetched));
  const operands = known.map(({ field, value }) => `${fieldTold(machine, field, value).replace(MARK, '')} = ${field.name}`);
  return [`${digitsOf(machine, itemAt(cells, here), programSpaceOf(machine).width)} = ${form.mnemonic}`, ...operands];
}

/** The mark of the machine's base is left out: all its numbers are in that. */
const MARK = /^0[xob](?=\w)/;

/** Signs of the longest line that decoding any instruction can give. */
export function longestDecoded(machine: Machine): number {
  const { width, addressWidth } = programSpaceOf(machine);
  const looked = shownLength(width, machine);
  return machine.forms.reduce((most, { mnemonic, operands }) => {
    const lines = operands.map((field) => {
      const { name, names, relative, page, width: own, dropped, kind } = field;
      const named = Math.max(0, ...[...(names?.keys() ?? [])].map((each) => fieldTold(machine, field, each).length));
      const digits =
        relative || page ? shownLength(addressWidth, machine) : shownLength(own + dropped, machine) + (kind === 'unsigned' ? 0 : 1);
      return (names ? named : digits) + 3 + name.length;
    });
    return Math.max(most, looked + 3 + mnemonic.length, ...lines);
  }, 0);
}

/** Remembered instructions around the present one, oldest first, sixty before it at most. */
export function wakeEntries({ machine, program, state }: Telling, runner: Runner): WakeEntry[] {
  const { past, future } = runner.timeline.remembered;
  const groups: TickRecord[][] = [];
  for (const record of [...past, ...future]) {
    if (record.before.step === 0 || groups.length === 0) groups.push([]);
    groups.at(-1)!.push(record);
  }
  const present = groups.findLastIndex((each) => itemAt(each, 0).before.ticks < Math.max(1, runner.ticks));
  const first = Math.max(0, present - WAKE_ENTRIES);
  return groups.slice(first, present + WAKE_ENTRIES / 2).map((group) => {
    const { here } = itemAt(group, 0).report;
    return {
      from: itemAt(group, 0).before.ticks,
      address: here,
      text: instructionAt(machine, program, state, here) ?? 'no instruction',
      ticks: group.map(({ report }) => ({ tick: report.tick, phase: report.phase, text: report.text || 'decode' })),
      outcome: outcomeOf(machine, group),
      printed: runner.breaks.printed(itemAt(group, 0).report.tick, group.at(-1)!.report.tick).map((each) => printedText(machine, each)),
    };
  });
}

/** “level = 12”. */
const printedText = (machine: Machine, { text, value, width }: Printed): string =>
  `${text} = ${value === undefined ? 'cannot be worked out' : width === 1 ? value : shownNumber(value, width, machine)}`;

/** “ACC C9 · N H”: registers that execute ticks changed, cells written, flags now 1. */
const outcomeOf = (machine: Machine, group: readonly TickRecord[]): string =>
  outcomeOfReports(
    machine,
    group.map((each) => each.report),
  );

/** The same of the reports of an instruction’s ticks. */
export function outcomeOfReports(machine: Machine, reports: readonly TickReport[]): string {
  const quiet = new Set(['memory address', 'memory data', 'instruction']);
  const written = new Map<string, string>();
  const flags = new Map<string, number>();
  for (const report of reports) {
    if (report.guard && !report.guard.holds) return 'passed over';
    if (report.part !== 'execute') continue;
    for (const { target, value, width } of report.transfers) {
      if (target.kind === 'cell') written.set(cellKey(machine, target), digitsOf(machine, value, width));
      if (target.kind !== 'register') continue;
      const register = itemAt(machine.registers, target.register);
      if (!quiet.has(register.role ?? '')) written.set(register.name, digitsOf(machine, value, width));
    }
    for (const { flag, after } of report.flags) flags.set(itemAt(machine.flags, flag).name, after);
  }
  const set = [...flags].filter(([, value]) => value === 1).map(([name]) => name);
  const values = [...written].map(([name, value]) => `${name} ${value}`).join(' ');
  return [values, flags.size > 0 ? set.join(' ') || 'no flag' : ''].filter((each) => each).join(' · ');
}

function cellKey(machine: Machine, place: CellPlace): string {
  const { name } = itemAt(machine.spaces, place.space);
  return `${machine.spaces.length > 1 ? name : ''}[${placeDigits(machine, place)}]`;
}

/** The instructions that come next, as far as they can be read and no register decides; behind a branch, those that follow in memory. */
export function upcoming({ machine, program, state }: Telling, runner: Runner): string[] {
  if (state.control.halted || runner.timeline.remembered.future.length > 0) return [];
  const { step, here } = state.control;
  const texts: string[] = [];
  let address = step > 0 ? wayOn(machine, state, here) : itemAt(state.registers, machine.programCounter);
  while (texts.length < 3 && address !== undefined) {
    const text = instructionAt(machine, program, state, address);
    if (!text || indexOf(program!).rowAt.get(address)?.kind === 'data') return texts;
    texts.push(text);
    address = wayOn(machine, state, address);
  }
  return texts;
}

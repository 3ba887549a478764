/** The sentence of a tick, made from the machine and the values that moved: what was done, or what is about to be. */
import { effectsOf } from '../../machine/model/effects';
import { spelledBy } from '../../machine/model/encode';
import { programSpaceOf, type Wording, type WordingPlace } from '../../machine/model/machine';
import { itemAt } from '../../text/itemAt';
import { shownDigits, shownNumber } from '../../text/number';
import { toldTransfers } from '../meaning/report';
import type { ConditionReport, FlagChange, MarkReport, ReadValue, TickReport } from '../meaning/report';
import { explainFault, faultReason } from './explainStop';
import { addressText, decodedAt, decodedText, placeName } from './names';
import { serviceSentence } from './serviceWords';
import { name, text, type Segment, type Telling, type Tense } from './telling';
import { fromInstruction, labelOf, operationWords, transferSentence, verdictOf } from './transferWords';

export type { Segment, Telling } from './telling';

/** What a tick did, or with 'coming' what it is about to do. */
export function narrate(telling: Telling, report: TickReport, tense: Tense): Segment[] {
  if (report.fault) return explainFault(telling, report.fault);
  const parts: Segment[][] = [];
  const { guard } = report;
  if (guard && !guard.holds) return passedSentence(telling, guard, tense);
  const reworded = rewording(telling, report);
  if (report.trapped) parts.push(trappedSentence(telling, report, tense));
  if (reworded) parts.push(reworded);
  else {
    if (report.decoded) parts.push(decodeSentence(telling, report, tense));
    if (report.service) parts.push(serviceSentence(telling, report, tense));
    if (report.awaited !== undefined) parts.push(waitSentence(telling, report.awaited, report.stalled ? 'coming' : tense));
    if (report.condition) parts.push(conditionSentence(telling, report, tense));
    for (const each of toldTransfers(report.transfers))
      if (each.route !== 'service' && each.target.kind !== 'flag') parts.push(transferSentence(telling, each, tense));
    if (report.compared) parts.push(compareSentence(telling, report.compared), verdictOf(report.compared));
    for (const each of report.marks) parts.push(markSentence(telling, each, tense));
  }
  if (report.flags.length > 0) parts.push(flagSentence(telling, report.flags, tense));
  if (telling.asked?.untouched) parts.push(untouchedSentence(telling, report.flags));
  if (report.halted && !report.service) parts.push([text(tense === 'done' ? 'The machine has halted.' : 'The machine halts.')]);
  if (parts.length === 0) parts.push([text('Nothing moves in this tick.')]);
  return parts.filter((each) => each.length > 0).flatMap((each, index) => (index === 0 ? each : [text(' '), ...each]));
}

/** The machine's own words for this tick: for it alone, for the last tick of its instruction, or for its phase. */
function rewording(telling: Telling, report: TickReport): Segment[] | undefined {
  const { words, forms } = telling.machine;
  const form = report.form === undefined ? undefined : forms[report.form];
  const own =
    report.part === 'execute' && form ? (words.ticks.get(`${form.mnemonic} ${report.at + 1}`) ?? lastOf(telling, report)) : undefined;
  const wording = own ?? words.phases.get(report.phase);
  return wording && worded(telling, report, wording);
}

function lastOf({ machine: { words, forms } }: Telling, { form: index, at }: TickReport): Wording | undefined {
  const form = itemAt(forms, index!);
  const own = form.schedule.filter((each) => each.part === 'execute' || each.part === 'enter');
  return at === own.length - 1 ? words.instructions.get(form.mnemonic) : undefined;
}

/** Fills the places; undefined where one of them has no value now, so that the plain sentence is told instead. */
function worded(telling: Telling, report: TickReport, wording: Wording): Segment[] | undefined {
  const segments = wording.map((each) => (typeof each === 'string' ? text(each) : placeSegment(telling, report, each)));
  return segments.every((each) => each !== undefined) ? segments : undefined;
}

function placeSegment({ machine, program, state }: Telling, report: TickReport, place: WordingPlace): Segment | undefined {
  const digits = (value: number | bigint, width: number): Segment => {
    const label = place.label ? labelOf(program, value) : undefined;
    return label ? name(label) : { kind: place.label ? 'address' : 'data', text: shownDigits(value, width, machine) };
  };
  switch (place.kind) {
    case 'register': {
      const change = report.transfers.find((each) => each.target.kind === 'register' && each.target.register === place.index);
      const { width } = itemAt(machine.registers, place.index);
      const whole = change?.width === width;
      const now = itemAt(state.registers, place.index);
      return digits(whole ? (place.old ? change.before : change.value) : now, width);
    }
    case 'flag': {
      const change = report.flags.find((each) => each.flag === place.index);
      return text(String(change ? (place.old ? change.before : change.after) : itemAt(state.flags, place.index)));
    }
    case 'latch': {
      const { control } = state;
      return digits(itemAt([report.here, control.next, control.cause], place.index), programSpaceOf(machine).addressWidth);
    }
    case 'field': {
      const form = report.form === undefined ? undefined : machine.forms[report.form];
      const field = form?.operands.find((each) => each.name === place.name);
      const read = report.transfers.flatMap((each) => [...each.sources, ...each.addressed]).find((each) => each.name === place.name);
      return field && read ? digits(read.value, read.width) : undefined;
    }
    default:
      return place.kind satisfies never;
  }
}

function decodeSentence({ machine, program, state }: Telling, { decoded, form: index, here }: TickReport, tense: Tense): Segment[] {
  const { width } = programSpaceOf(machine);
  const cell: Segment = { kind: 'data', text: shownDigits(decoded!.cell, width, machine) };
  const form = index === undefined ? undefined : machine.forms[index];
  if (!form) return [cell, text(' means nothing; this machine passes over it.')];
  const late = form.operands
    .filter((field) => field.pieces.some((each) => each.low < (form.format.cells - 1) * width))
    .map((each) => each.name);
  const more = form.format.cells - 1;
  const what = late.length > 0 ? `Its ${late.join(' and ')}` : 'The rest of it';
  const cells = more === 1 ? 'one more cell' : `${more} more cells`;
  const fetched = form.schedule[machine.opening.length]?.part !== 'more';
  const rest = more === 0 || fetched ? 'It is complete.' : `${what} ${late.length > 1 ? 'follow' : 'follows'} in ${cells}.`;
  const verb = tense === 'done' ? 'means' : 'will be decoded:';
  const title = form.title ? `: ${form.title}` : '';
  // What has come whole is told as a program would write it.
  const whole = more === 0 || fetched ? decodedAt(machine, state, here) : undefined;
  const spelled = whole?.form === form ? decodedText(machine, program, whole) : spelledBy(machine, form, decoded!.cell);
  return [cell, text(` ${verb} `), name(spelled), text(`${title}. ${rest}`)];
}

function compareSentence(telling: Telling, compared: NonNullable<TickReport['compared']>): Segment[] {
  const { sources, ...work } = compared;
  return [text('The ALU only compares: it '), ...operationWords(telling, work, sources), text(' and keeps nothing but flags.')];
}

function becauseOf({ machine, program }: Telling, readings: readonly ReadValue[]): Segment[] {
  const shown = readings.filter((each) => each.place);
  return shown.flatMap((each, index): Segment[] => [
    text(index === 0 ? ', because ' : ' and '),
    name(fromInstruction(machine, each) ? each.name! : placeName(machine, program, each.place!)),
    text(` is ${each.width === 1 ? each.value : shownNumber(each.value, each.width, machine)}`),
  ]);
}

/** An instruction whose guard does not hold. */
function passedSentence(telling: Telling, { text: written, readings }: ConditionReport, tense: Tense): Segment[] {
  const passed = tense === 'done' ? 'The instruction was passed over' : 'The instruction will be passed over';
  return [text(`${passed}: ${written} does not hold`), ...becauseOf(telling, readings), text('.')];
}

function conditionSentence(telling: Telling, { condition, transfers, part, form: index }: TickReport, tense: Tense): Segment[] {
  const { holds, readings, text: written } = condition!;
  const { machine } = telling;
  const because = becauseOf(telling, readings);
  const jumps = transfers.some((each) => each.target.kind === 'register' && each.target.register === machine.programCounter);
  if (holds)
    return [
      text(tense === 'done' ? (jumps ? 'The jump was taken' : `${written} held`) : jumps ? 'The jump will be taken' : `${written} holds`),
      ...because,
      text('.'),
    ];
  const form = index === undefined ? undefined : machine.forms[index];
  const mayJump = form !== undefined && effectsOf(machine, form).jumps.length > 0;
  if (part !== 'execute' || transfers.length > 0 || !mayJump)
    return [text(`${written} ${tense === 'done' ? 'did' : 'does'} not hold`), ...because, text('.')];
  return [text(tense === 'done' ? 'Fell through to the next instruction' : 'Falls through'), ...because, text('.')];
}

function waitSentence({ machine }: Telling, device: number, tense: Tense): Segment[] {
  const { name: called } = itemAt(machine.devices, device);
  return tense === 'done' ? [name(called), text(' is ready.')] : [text('Waits until '), name(called), text(' is ready.')];
}

function markSentence({ machine, program }: Telling, mark: MarkReport, tense: Tense): Segment[] {
  const at = (address: number): Segment => {
    const label = labelOf(program, address);
    return label ? name(label) : { kind: 'address', text: addressText(machine, address) };
  };
  const done = tense === 'done';
  switch (mark.kind) {
    case 'call':
      return [text(done ? 'This called ' : 'This calls '), at(mark.target), text('; it will come back to '), at(mark.returnTo!), text('.')];
    case 'trap':
      return [
        text(done ? 'The trap went to ' : 'The trap goes to '),
        at(mark.target),
        text('; it will come back to '),
        at(mark.returnTo!),
        text('.'),
      ];
    case 'return':
      return [text(done ? 'It came back to ' : 'It comes back to '), at(mark.target), text('.')];
    case 'push':
    case 'pop':
      return [
        text(`One value ${mark.kind === 'push' ? 'more on' : 'less on'} the stack `),
        name(itemAt(machine.stacks, mark.stack).name),
        text('.'),
      ];
    default:
      return mark satisfies never;
  }
}

function trappedSentence(telling: Telling, { trapped }: TickReport, tense: Tense): Segment[] {
  const why = faultReason(telling, trapped!);
  return [text(tense === 'done' ? 'A fault was caught: ' : 'A fault will be caught: '), ...why, text(' The machine enters its trap.')];
}

/** Flags that a tick or an instruction leaves alone; empty where there are none. */
export function untouchedSentence({ machine, state }: Telling, flags: readonly FlagChange[]): Segment[] {
  const alone = machine.flags.flatMap(({ name: called, line }, flag) =>
    line || flags.some((each) => each.flag === flag) ? [] : [`${called} ${itemAt(state.flags, flag)}`],
  );
  return alone.length > 0 ? [text(`Left alone: ${alone.join(', ')}.`)] : [];
}

function flagSentence({ machine }: Telling, flags: readonly FlagChange[], tense: Tense): Segment[] {
  const named = (each: FlagChange): string => itemAt(machine.flags, each.flag).name;
  const changed = flags
    .filter((each) => each.before !== each.after)
    .map((each) => `${named(each)} ${tense === 'done' ? 'became' : 'becomes'} ${each.after}`);
  const same = flags.filter((each) => each.before === each.after).map((each) => `${named(each)} ${each.after}`);
  const parts = [
    changed.join(', '),
    same.length > 0 ? `${changed.length > 0 ? 'unchanged: ' : 'No flag changed: '}${same.join(', ')}` : '',
  ];
  return [text(`${parts.filter((each) => each).join('; ')}.`)];
}

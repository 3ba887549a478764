/** The sentence of a tick, made from the machine and the values that moved: what was done, or what is about to be. */
import { indexOf, type Program } from '../../image/program';
import type { Machine, Wording, WordingPlace } from '../../machine/model/machine';
import { programSpaceOf } from '../../machine/model/machine';
import { digitsIn, power, shownDigits, shownNumber, signedReading, unitOf } from '../../text/number';
import { addressText, decodedAt, decodedText, placeName } from './names';
import { toldTransfers } from '../meaning/report';
import type { ConditionReport, FlagChange, MarkReport, ReadValue, TickReport, ToldTransfer, Worked } from '../meaning/report';
import { serviceSentence } from './serviceWords';
import { explainFault, faultReason } from './explainStop';
import { capital, name, text, type Segment, type Telling, type Tense } from './telling';
import { itemAt } from '../../text/itemAt';
import { effectsOf } from '../../machine/model/effects';
import { spelledBy } from '../../machine/model/encode';

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

function valueSegment({ machine }: Telling, { value, width, path }: Pick<ToldTransfer, 'value' | 'width' | 'path'>): Segment {
  return { kind: path, text: shownDigits(value, width, machine) };
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

function transferSentence(telling: Telling, transfer: ToldTransfer, tense: Tense): Segment[] {
  const target = placeName(telling.machine, telling.program, transfer.target);
  const value = valueSegment(telling, transfer);
  if (transfer.lost) return [value, text(` ${tense === 'done' ? 'was' : 'will be'} thrown away: `), name(target), text(' is fixed at 0.')];
  if (transfer.route === 'straight' || !transfer.worked) return straightSentence(telling, transfer, target, value, tense);
  const work = transfer.worked;
  if (transfer.route === 'count') {
    const step = `${work.operator === '+' ? 'on' : 'back'} by ${work.b}`;
    return [
      name(capital(target)),
      text(` ${tense === 'done' ? 'has moved' : 'moves'} ${step}, to `),
      value,
      text('.'),
      ...wrapWords(telling, work),
    ];
  }
  const old = { kind: 'data' as const, text: shownDigits(transfer.before, transfer.width, telling.machine) };
  const becomes = transfer.before === transfer.value ? [text(' stays ')] : [text(' becomes ')];
  return [
    text('The ALU '),
    ...operationWords(telling, work, transfer.sources),
    text('. '),
    name(capital(target)),
    ...becomes,
    value,
    ...(transfer.before === transfer.value ? [] : [text(', it was '), old]),
    text('.'),
    ...wrapWords(telling, work),
    ...keptWords(telling, work, transfer),
  ];
}

function straightSentence(telling: Telling, transfer: ToldTransfer, target: string, value: Segment, tense: Tense): Segment[] {
  const [source] = transfer.sources;
  const stays = transfer.before === transfer.value;
  const from = originWords(telling, transfer, source);
  const verb = tense === 'done' ? (transfer.target.kind === 'cell' ? 'was written to' : 'went to') : 'goes to';
  const change = stays
    ? [text(', which held it already')]
    : [text(', replacing '), { kind: transfer.path, text: shownDigits(transfer.before, transfer.width, telling.machine) } as Segment];
  return [value, text(' '), ...from, text(` ${verb} `), name(target), ...change, text('.')];
}

const fromInstruction = (machine: Machine, { place, name: named }: ReadValue): boolean =>
  place?.kind === 'register' && itemAt(machine.registers, place.register).role === 'instruction' && named !== undefined;

/** “from level”, “from PC”, “from the address field”. */
function readingWords({ machine, program }: Telling, reading: ReadValue, transfer: ToldTransfer): Segment[] {
  const { place, name: named } = reading;
  if (!place) return [text('as written in the tick')];
  if (fromInstruction(machine, reading)) {
    const label = transfer.path === 'address' ? labelOf(program, reading.value) : undefined;
    return [text(`from the ${named} field of the instruction`), ...(label ? [text(', where '), name(label), text(' lies,')] : [])];
  }
  const latch = LATCH_WORDS[named ?? ''];
  if (latch !== undefined) return [text(`(${latch})`)];
  if (named === 'cause') return [text('(the cause of the trap)')];
  return [text('from '), name(placeName(machine, program, place))];
}

/** Where a value that was moved comes from; of one that was worked out and cannot be told as an operation, what it was worked out from. */
function originWords(telling: Telling, transfer: ToldTransfer, source: ReadValue | undefined): Segment[] {
  const { route, parts, sources, width } = transfer;
  if (route === 'alu' || (!parts && sources.length > 1)) {
    const told = sources.map((each) => operandWords(telling, each, { value: each.value, width: each.width, extended: false }));
    return [text('(worked out from '), ...told.flatMap((each, at) => (at === 0 ? each : [text(' and '), ...each])), text(')')];
  }
  const [part, more] = parts ?? [];
  if (part && !more && part.width >= width) return fromWords(telling, part);
  const row = parts && rowWords(telling, parts);
  if (row) return row;
  if (parts) {
    const told = parts.map((each): Segment[] => [
      { kind: 'data', text: shownDigits(each.value, each.width, telling.machine) },
      ...(each.place ? [text(' '), ...fromWords(telling, each)] : []),
    ]);
    const joined = told.flatMap((each, at) => (at === 0 ? each : [text(', then '), ...each]));
    return [text('('), ...joined, text(`${more ? '' : ', its sign repeated'})`)];
  }
  return source ? readingWords(telling, source, transfer) : [text('the instruction')];
}

/** “from cell 0x0008 to cell 0x000B”, where cells behind each other are read as one, either way round. */
function rowWords({ machine, program }: Telling, parts: readonly ReadValue[]): Segment[] | undefined {
  const cells = parts.flatMap(({ place, name: named }) => (place?.kind === 'cell' && named === undefined ? [place] : []));
  const [first, second] = cells;
  if (!first || !second || cells.length < parts.length) return undefined;
  const step = second.address - first.address;
  if (Math.abs(step) !== 1) return undefined;
  if (cells.some((each, at) => each.space !== first.space || each.address !== first.address + step * at)) return undefined;
  const [from, to] = [first, itemAt(cells, cells.length - 1)].map((each) => name(placeName(machine, program, each))) as [Segment, Segment];
  return [text('from '), from, text(step > 0 ? ' to ' : ' down to '), to];
}

/** “from next[15:12]”, “from the target field”. */
function fromWords({ machine, program }: Telling, part: ReadValue): Segment[] {
  const { place, name: named = '' } = part;
  if (!place) return [text('as written in the tick')];
  if (fromInstruction(machine, part)) return [text(`from the ${named} field`)];
  // What stands in no register of the document is called as it is written.
  const [called] = named.split('[');
  return [text('from '), name(LATCHES.has(called ?? '') ? named : `${placeName(machine, program, place)}${called === '' ? named : ''}`)];
}

const LATCHES: ReadonlySet<string> = new Set(['here', 'next', 'cause']);

const labelOf = (program: Program | undefined, address: number | bigint): string | undefined =>
  program && indexOf(program).labelAt.get(Number(address));

const VERBS: Readonly<Record<Worked['operator'], string>> = {
  '+': 'adds',
  '-': 'takes',
  '*': 'multiplies',
  '/': 'divides',
  '%': 'keeps the remainder of',
  asr: 'shifts right, keeping the sign,',
  rotl: 'rotates left',
  rotr: 'rotates right',
  '&': 'joins by AND',
  '|': 'joins by OR',
  '^': 'joins by exclusive OR',
  '<<': 'shifts left',
  '>>': 'shifts right',
  '~': 'turns over every bit of',
  negate: 'negates',
  value: 'passes on',
};

function operationWords(telling: Telling, work: Worked, sources: readonly ReadValue[]): Segment[] {
  const [extendsA, extendsB] = work.extended ?? [false, false];
  const a = operandWords(telling, sources[0], { value: work.a, width: work.widths[0], extended: extendsA });
  const b = work.b === undefined ? [] : operandWords(telling, sources[1], { value: work.b, width: work.widths[1], extended: extendsB });
  const { carry } = work;
  switch (work.operator) {
    case '*':
    case '/':
    case '%':
      return [
        text(`${VERBS[work.operator]} `),
        ...a,
        text(work.operator === '%' ? ' divided by ' : ' by '),
        ...b,
        ...(work.signed ? [text(', both read as signed')] : []),
      ];
    case '+':
      return [text('adds '), ...b, text(' to '), ...a, ...carryWords(work)];
    case '-':
      return [text('takes '), ...b, text(' from '), ...a, ...carryWords(work)];
    case 'asr':
    case 'rotl':
    case 'rotr':
    case '<<':
    case '>>':
      return [
        text(`${VERBS[work.operator]} `),
        ...a,
        text(` by ${work.b} ${work.b === 1 ? 'place' : 'places'}${carry === undefined ? '' : ', through the flag'}`),
      ];
    case '&':
    case '|':
    case '^':
      return [text(`${VERBS[work.operator]} `), ...a, text(' and '), ...b];
    case '~':
    case 'negate':
    case 'value':
      return [text(`${VERBS[work.operator]} `), ...a];
    default:
      return work.operator satisfies never;
  }
}

const carryWords = ({ carry }: Worked): Segment[] => (carry === undefined ? [] : [text(` with the carry ${carry}`)]);

/** What the exact result was, where it does not fit; whether or not a flag tells. */
function wrapWords({ machine }: Telling, work: Worked): Segment[] {
  const { operator, result, width, signed, radix, wide } = work;
  if (wide !== undefined || (operator !== '+' && operator !== '-' && operator !== '*')) return [];
  const size = power(radix, width);
  const exact = exactOf(work);
  const fits = signed ? exact >= -size / 2 && exact < size / 2 : exact >= 0 && exact < size;
  if (fits || !Number.isSafeInteger(exact)) return [];
  const shown = exact < 0 ? `−${String(-exact)}` : shownNumber(exact, digitsIn(exact, radix), machine);
  const room = `${width} ${width === 1 ? unitOf(radix).slice(0, -1) : unitOf(radix)} ${signed ? 'with' : 'without'} a sign`;
  const told = ` Exactly it is ${shown}, too ${exact < 0 ? 'little' : 'much'} for ${room}: it wrapped to `;
  return [text(told), { kind: 'data', text: shownDigits(result, width, machine) }, text('.')];
}

/** Which digits of a result were kept, where others are lost by that. */
function keptWords({ machine }: Telling, { wide, result, width: of }: Worked, { value, width, lowest = 0 }: ToldTransfer): Segment[] {
  const whole = wide ?? result;
  if (width > of && whole !== value) return [text(' Its sign was repeated.')];
  if (width >= of || BigInt(whole) === BigInt(value)) return [];
  const unit = unitOf(machine.radix);
  const high = lowest + width - 1;
  const kept = lowest === 0 ? `the low ${width} ${unit}` : `${unit} ${high} to ${lowest}`;
  return [text(' Of '), { kind: 'data', text: shownDigits(whole, of, machine) }, text(` it keeps ${kept}.`)];
}

/** The exact result; what has had its sign repeated counts with it, as the distance of a branch does. */
function exactOf({ operator, a, b = 0, carry = 0, exact, widths, radix, extended }: Worked): number {
  if (!extended || operator === '*') return exact;
  const [x, y] = [a, b].map((each, at) => (extended[at] ? signedReading(each, itemAt(widths, at), radix) : each)) as [number, number];
  return operator === '+' ? x + y + carry : x - y - carry;
}

/** Which of two compared values is less, read without a sign and with one. */
function verdictOf({ operator, a, b, widths, radix, carry }: Worked): Segment[] {
  if (operator !== '-' || b === undefined || carry !== undefined) return [];
  if (a === b && widths[0] === widths[1]) return [text('They are equal.')];
  const sign = (x: number, y: number): string =>
    `${spelled(x)} ${x < y ? 'is less than' : x > y ? 'is greater than' : 'equals'} ${spelled(y)}`;
  const [x, y] = [signedReading(a, widths[0], radix), signedReading(b, widths[1], radix)];
  if (x === a && y === b) return [text(`With a sign and without, ${sign(a, b)}.`)];
  return [text(`Without a sign, ${sign(a, b)}; with a sign, ${sign(x, y)}.`)];
}

const spelled = (value: number): string => String(value).replace('-', '−');

interface ToldOperand {
  readonly value: number | bigint;
  readonly width: number;
  /** It counts with its sign. */
  readonly extended: boolean;
}

function operandWords(telling: Telling, reading: ReadValue | undefined, { value, width, extended }: ToldOperand): Segment[] {
  const { machine, program } = telling;
  const digits: Segment = { kind: 'data', text: shownDigits(value, width, machine) };
  const signed = extended ? signedReading(Number(value), width, machine.radix) : value;
  if (signed !== value) return [text(`${spelled(Number(signed))} (`), digits, text(')')];
  if (!reading?.place || reading.value !== value) return [digits];
  if (fromInstruction(machine, reading)) return [digits, text(` in the ${reading.name} field`)];
  const named = placeName(machine, program, reading.place);
  // Of a counter that is wider than an address nobody needs to know which of its digits are meant.
  const latch = named.includes('[') ? LATCH_WORDS[reading.name ?? ''] : undefined;
  return latch === undefined ? [digits, text(' in '), name(named)] : [digits, text(`, ${latch}`)];
}

const LATCH_WORDS: Readonly<Record<string, string>> = {
  next: 'the address after this instruction',
  here: 'the address of this instruction',
};

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

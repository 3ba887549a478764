/** The sentence of a tick, made from the machine and the values that moved: what was done, or what is about to be. */
import { indexOf, type Program } from '../image/program';
import type { Machine } from '../machine/machine';
import { binaryDigits, hexDigits, signedReading, withHexPrefix } from '../text/number';
import { instructionAt, placeName } from './names';
import type { Fault, FlagChange, Reading, TickReport, Transfer, Worked } from './report';
import type { Stop } from './runner';
import type { State } from './state';

/** A piece of a sentence. Values carry their tone, so that a screen can mark them. */
export interface Segment {
  readonly kind: 'text' | 'name' | 'data' | 'address';
  readonly text: string;
}

export interface Telling {
  readonly machine: Machine;
  readonly program?: Program | undefined;
  readonly state: State;
}

type Tense = 'done' | 'coming';

const text = (words: string): Segment => ({ kind: 'text', text: words });
const name = (words: string): Segment => ({ kind: 'name', text: words });

/** What a tick did, or with 'coming' what it is about to do. */
export function narrate(telling: Telling, report: TickReport, tense: Tense): Segment[] {
  if (report.fault) return explainFault(telling, report.fault);
  const parts: Segment[][] = [];
  if (report.decoded) parts.push(decodeSentence(telling, report, tense));
  if (report.service) parts.push(serviceSentence(telling, report, tense));
  if (report.condition) parts.push(conditionSentence(telling, report, tense));
  for (const each of report.transfers)
    if (each.route !== 'service' && each.target.kind !== 'flag') parts.push(transferSentence(telling, each, tense));
  if (report.compared) parts.push(compareSentence(telling, report.compared));
  if (report.flags.length > 0) parts.push(flagSentence(telling, report.flags, tense));
  if (report.halted && !report.service) parts.push([text(tense === 'done' ? 'The machine has halted.' : 'The machine halts.')]);
  if (parts.length === 0) parts.push([text('Nothing moves in this tick.')]);
  return parts.flatMap((each, index) => (index === 0 ? each : [text(' '), ...each]));
}

function valueSegment({ value, width, path }: { value: number; width: number; path: 'address' | 'data' }): Segment {
  return { kind: path, text: hexDigits(value, width) };
}

function decodeSentence({ machine }: Telling, { decoded, form: index }: TickReport, tense: Tense): Segment[] {
  const { width } = machine.spaces[machine.programSpace]!;
  const form = machine.forms[index!]!;
  const operands = form.operands.map((each) => each.name).join(' and ');
  const more = form.format.cells - 1;
  const rest = more === 0 ? 'It is complete.' : `Its ${operands} follows in ${more === 1 ? 'one more cell' : `${more} more cells`}.`;
  const verb = tense === 'done' ? 'means' : 'will be decoded:';
  const title = form.title ? `: ${form.title}` : '';
  return [
    { kind: 'data', text: hexDigits(decoded!.cell, width) },
    text(` ${verb} `),
    name(form.written.replace(/[{}]/g, '')),
    text(`${title}. ${rest}`),
  ];
}

function transferSentence(telling: Telling, transfer: Transfer, tense: Tense): Segment[] {
  const target = targetName(telling, transfer);
  const value = valueSegment(transfer);
  if (transfer.route === 'straight') return straightSentence(telling, transfer, target, value, tense);
  const work = transfer.worked!;
  if (transfer.route === 'count') {
    const step = `${work.operator === '+' ? 'on' : 'back'} by ${work.b}`;
    return [name(capital(target)), text(` ${tense === 'done' ? 'has moved' : 'moves'} ${step}, to `), value, text('.')];
  }
  const old = { kind: 'data' as const, text: hexDigits(transfer.before, transfer.width) };
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
  ];
}

const capital = (words: string): string => words[0]!.toUpperCase() + words.slice(1);

const targetName = ({ machine, program }: Telling, { target }: Transfer): string => placeName(machine, program, target);

function straightSentence(telling: Telling, transfer: Transfer, target: string, value: Segment, tense: Tense): Segment[] {
  const [source] = transfer.sources;
  const stays = transfer.before === transfer.value;
  const from = source ? readingWords(telling, source, transfer) : [text('the instruction')];
  const verb = tense === 'done' ? (transfer.target.kind === 'cell' ? 'was written to' : 'went to') : 'goes to';
  const change = stays
    ? [text(', which held it already')]
    : [text(', replacing '), { kind: transfer.path, text: hexDigits(transfer.before, transfer.width) } as Segment];
  return [value, text(' '), ...from, text(` ${verb} `), name(target), ...change, text('.')];
}

/** “from level”, “from PC”, “from the address field”. */
function readingWords({ machine, program }: Telling, reading: Reading, transfer: Transfer): Segment[] {
  const { place, name: named } = reading;
  if (!place) return [text('as written in the tick')];
  if (place.kind === 'register' && place.register === machine.instructionRegister && named) {
    const label = transfer.path === 'address' ? labelOf(program, reading.value) : undefined;
    return [text(`from the ${named} field of the instruction`), ...(label ? [text(', where '), name(label), text(' lies,')] : [])];
  }
  if (named === 'next') return [text('(the address after this instruction)')];
  if (named === 'here') return [text('(the address of this instruction)')];
  return [text('from '), name(placeName(machine, program, place))];
}

const labelOf = (program: Program | undefined, address: number): string | undefined => program && indexOf(program).labelAt.get(address);

const VERBS: Readonly<Record<Worked['operator'], string>> = {
  '+': 'adds',
  '-': 'takes',
  '*': 'multiplies',
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

function operationWords(telling: Telling, work: Worked, sources: readonly Reading[]): Segment[] {
  const a = operandWords(telling, sources[0], work.a, work.width);
  const b = work.b === undefined ? [] : operandWords(telling, sources[1], work.b, work.width);
  const { carry } = work;
  switch (work.operator) {
    case '*':
      return [text('multiplies '), ...a, text(' by '), ...b];
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

function operandWords({ machine, program }: Telling, reading: Reading | undefined, value: number, width: number): Segment[] {
  const digits: Segment = { kind: 'data', text: hexDigits(value, width) };
  const { place, name: named } = reading ?? {};
  if (!place) return [digits];
  if (named && place.kind === 'register' && place.register === machine.instructionRegister) return [digits, text(` in the ${named} field`)];
  return [digits, text(' in '), name(placeName(machine, program, place))];
}

function compareSentence(telling: Telling, compared: NonNullable<TickReport['compared']>): Segment[] {
  const { sources, ...work } = compared;
  return [text('The ALU only compares: it '), ...operationWords(telling, work, sources), text(' and keeps nothing but flags.')];
}

function conditionSentence(telling: Telling, { condition, transfers, part }: TickReport, tense: Tense): Segment[] {
  const { holds, readings, text: written } = condition!;
  const { machine, program } = telling;
  const shown = readings.filter((each) => each.place);
  const because = shown.flatMap((each, index): Segment[] => [
    text(index === 0 ? ', because ' : ' and '),
    name(placeName(machine, program, each.place!)),
    text(` is ${each.width === 1 ? each.value : withHexPrefix(each.value, each.width)}`),
  ]);
  const jumps = transfers.some((each) => each.target.kind === 'register' && each.target.register === machine.programCounter);
  if (holds)
    return [
      text(tense === 'done' ? (jumps ? 'The jump was taken' : `${written} held`) : jumps ? 'The jump will be taken' : `${written} holds`),
      ...because,
      text('.'),
    ];
  const through = part === 'execute' ? 'Falls through' : `${written} does not hold`;
  return [text(tense === 'done' && part === 'execute' ? 'Fell through to the next instruction' : through), ...because, text('.')];
}

function serviceSentence({ machine }: Telling, { service }: TickReport, tense: Tense): Segment[] {
  const { kind, trap, value, register, output } = service!;
  const into = register === undefined ? '' : machine.registers[register]!.name;
  const width = register === undefined ? 8 : machine.registers[register]!.width;
  const shown = (path: 'address' | 'data'): Segment =>
    value === undefined ? text('nothing') : { kind: path, text: hexDigits(value, width) };
  const start = [text('The trap '), name(trap ?? '')];
  switch (kind) {
    case 'read number':
      if (value === undefined) return [...start, text(` waits for a number, which will go to ${into}.`)];
      return [
        ...start,
        text(tense === 'done' ? ' took ' : ' takes '),
        shown('data'),
        text(' from the input queue and '),
        text(tense === 'done' ? 'put it into ' : 'puts it into '),
        name(into),
        text('.'),
      ];
    case 'write number':
    case 'write character':
      return [
        ...start,
        text(tense === 'done' ? ' wrote ' : ' writes '),
        name(JSON.stringify(output?.replace(/\n$/, '') ?? '')),
        text(' to the console, from '),
        name(into),
        text(', '),
        shown('data'),
        text('.'),
      ];
    case 'write text':
      return [
        ...start,
        text(tense === 'done' ? ' wrote the text at ' : ' writes the text at '),
        shown('address'),
        text(' to the console: '),
        name(JSON.stringify(output ?? '')),
        text('.'),
      ];
    case 'end':
      return [...start, text(tense === 'done' ? ' ended the program.' : ' ends the program.')];
    case undefined:
      return [text('No such service.')];
    default:
      return kind satisfies never;
  }
}

function flagSentence({ machine }: Telling, flags: readonly FlagChange[], tense: Tense): Segment[] {
  const named = (each: FlagChange): string => machine.flags[each.flag]!.name;
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

export function explainFault({ machine, program, state }: Telling, fault: Fault): Segment[] {
  const { addressWidth, width } = machine.spaces[machine.programSpace]!;
  switch (fault.kind) {
    case 'undefined opcode':
      return [
        text('Stopped: '),
        { kind: 'data', text: withHexPrefix(fault.cell, width) },
        text(' at '),
        { kind: 'address', text: withHexPrefix(fault.address, addressWidth) },
        text(` is no instruction. ${walkedInto(program, fault.address)}`),
      ];
    case 'cell outside':
      return [
        text(
          `Stopped: ${withHexPrefix(fault.address, addressWidth)} is past the end of ${machine.spaces[fault.space]!.name}, which has ${machine.spaces[fault.space]!.cells} cells.`,
        ),
      ];
    case 'two writers':
      return [
        text(
          `Stopped: two transfers of one tick write to ${placeName(machine, program, { kind: 'cell', space: fault.space, address: fault.address })}.`,
        ),
      ];
    case 'text without end':
      return [
        text('Stopped: the text at '),
        { kind: 'address', text: withHexPrefix(fault.address, addressWidth) },
        text(' has no end mark anywhere in memory. Put a 0 behind it.'),
      ];
    case 'undefined service': {
      const known = machine.traps.map((each) => `${each.number} ${each.name}`).join(', ');
      const at = instructionAt(machine, program, state, state.control.here);
      return [
        text(
          `Stopped: ${at ?? 'this instruction'} asks for service ${fault.number}, which this machine does not have. It has: ${known || 'none'}.`,
        ),
      ];
    }
    default:
      return fault satisfies never;
  }
}

function walkedInto(program: Program | undefined, address: number): string {
  const row = program && indexOf(program).rowAt.get(address);
  if (row?.kind === 'data') return `The run walked into the data of line ${row.line}. Is a halt missing before it?`;
  if (row?.kind === 'code')
    return row.address === address
      ? `The program has changed line ${row.line}.`
      : `It is the middle of the instruction on line ${row.line}.`;
  return program && address > program.facts.last
    ? 'The run walked past the end of the program. Is a halt missing?'
    : 'Nothing of the program lies there.';
}

/** Why a run stands still, in one sentence. */
export function explainStop(telling: Telling, stop: Stop): string {
  const { machine, program, state } = telling;
  const plain = (segments: readonly Segment[]): string => segments.map((each) => each.text).join('');
  switch (stop.kind) {
    case 'halted':
      return `Halted after ${count(state.control.instructions, 'instruction')}, ${count(state.control.ticks, 'tick')}.`;
    case 'waiting':
      return plain(serviceSentence(telling, stop.report, 'coming'));
    case 'fault':
      return plain(explainFault(telling, stop.fault));
    case 'breakpoint': {
      const row = program && indexOf(program).rowAt.get(stop.address);
      const at = row ? `on line ${row.line}` : `at ${withHexPrefix(stop.address, machine.spaces[machine.programSpace]!.addressWidth)}`;
      return `Paused at the breakpoint ${at}, before ${instructionAt(machine, program, state, stop.address) ?? 'an undefined opcode'}.`;
    }
    default:
      return stop satisfies never;
  }
}

export const count = (number: number, noun: string): string => `${number.toLocaleString('en-US')} ${noun}${number === 1 ? '' : 's'}`;

/** Why a flag is as it is: one sentence, and the operation as worked columns where there was one. */
export interface FlagReason {
  readonly sentence: string;
  readonly columns: readonly {
    readonly sign: string;
    readonly binary: string;
    readonly hex: string;
    readonly decimal: string;
    readonly role: 'carry' | 'operand' | 'result';
  }[];
}

export function explainFlag(
  telling: Telling,
  flag: number,
  why: { readonly report: TickReport; readonly change: FlagChange } | undefined,
): FlagReason {
  const { machine, program, state } = telling;
  const { name: flagName } = machine.flags[flag]!;
  if (!why) return { sentence: `${flagName} is ${state.flags[flag]} since the start: nothing has set it yet.`, columns: [] };
  const { report, change } = why;
  const { addressWidth } = machine.spaces[machine.programSpace]!;
  const by = `${flagName} = ${change.after}: set by ${instructionAt(machine, program, state, report.here) ?? 'an instruction'} at ${withHexPrefix(report.here, addressWidth)}, tick ${report.tick}`;
  if (!change.worked || !change.rule) return { sentence: `${by}, which gave it this value.`, columns: [] };
  return { sentence: `${by}. ${capital(reasonFor(change.rule, change.worked, change))}.`, columns: columnsOf(change.worked) };
}

const isShift = (operator: Worked['operator']): boolean => ['<<', '>>', 'asr', 'rotl', 'rotr'].includes(operator);

function reasonFor(rule: NonNullable<FlagChange['rule']>, work: Worked, { noBorrow, after }: FlagChange): string {
  const { result, width, exact, operator } = work;
  const signed = signedReading(result, width);
  switch (rule) {
    case 'zero':
      return result === 0 ? `all ${width} bits of the result are 0` : 'the result is not 0';
    case 'negative':
      return signed < 0
        ? `the top bit is 1: read as signed, ${String(signed).replace('-', '−')}`
        : `the top bit is 0: read as signed, ${signed}`;
    case 'carry':
      if (operator === '-' || operator === 'negate')
        return `${exact < 0 ? 'a borrow was needed' : 'no borrow was needed'}${noBorrow ? ', and this machine sets the flag when none was' : ''}`;
      if (isShift(operator)) return operator.startsWith('rot') ? 'it is the last bit that went round' : 'it is the last bit shifted out';
      return exact >= 2 ** width ? 'a one was carried out of the top' : 'nothing was carried out of the top';
    case 'overflow':
      return overflowReason(work);
    case 'half-carry':
      return `${operator === '+' ? 'a carry' : 'a borrow'} ${after === 1 ? 'crossed' : 'did not cross'} from the lower half`;
    case 'parity':
      return `the result has ${count(result.toString(2).replaceAll('0', '').length, 'one bit')}`;
    default:
      return rule satisfies never;
  }
}

function overflowReason({ operator, a, b = 0, carry = 0, width }: Worked): string {
  if (isShift(operator) && operator !== '<<') return 'a right shift or a rotate cannot overflow';
  if (operator === '<<') return 'it tells whether the sign changed while shifting';
  const [x, y] = [signedReading(a, width), signedReading(b, width)];
  const exact = operator === '+' ? x + y + carry : operator === 'negate' ? -x : x - y - carry;
  const written = operator === 'negate' ? `−(${x})` : `${x} ${operator} ${y}${carry ? ` ${operator} 1` : ''}`;
  const fits = exact >= -(2 ** (width - 1)) && exact < 2 ** (width - 1);
  return `read as signed, ${written} = ${exact}, which ${fits ? 'fits' : 'does not fit'} ${width} bits`.replaceAll('-', '−');
}

function columnsOf({ operator, a, b, carry, result, width }: Worked): FlagReason['columns'] {
  const row = (sign: string, value: number, role: 'operand' | 'result') => ({
    sign,
    binary: binaryDigits(value, width),
    hex: hexDigits(value, width),
    decimal: String(value),
    role,
  });
  const shift = isShift(operator);
  const sign = operator === 'negate' ? '−' : operator === '~' ? '~' : '';
  const second =
    b === undefined
      ? []
      : shift
        ? [{ ...row(operator, b, 'operand'), binary: `by ${b}`, hex: '', decimal: '' }]
        : [row(operator === '-' ? '−' : operator, b, 'operand')];
  const carried = carry === undefined || shift ? [] : [row(operator === '-' ? '−' : operator, carry, 'operand')];
  return [...carries(operator, a, b ?? 0, carry ?? 0, width), row(sign, a, 'operand'), ...second, ...carried, row('', result, 'result')];
}

/** The carries (or borrows) into each column, and out of the top at the left. */
function carries(operator: Worked['operator'], a: number, b: number, first: number, width: number): FlagReason['columns'] {
  if (operator !== '+' && operator !== '-') return [];
  let carry = first;
  let digits = carry ? '1' : ' ';
  for (let bit = 0; bit < width; bit++) {
    const [x, y] = [Math.floor(a / 2 ** bit) % 2, Math.floor(b / 2 ** bit) % 2];
    carry = operator === '+' ? (x + y + carry > 1 ? 1 : 0) : x - y - carry < 0 ? 1 : 0;
    digits = (carry ? '1' : ' ') + digits;
  }
  const grouped = digits.slice(1).replace(/(?!^)(?=(?:.{4})+$)/g, ' ');
  const word = operator === '+' ? 'carries' : 'borrows';
  return [{ sign: digits[0]!, binary: grouped, hex: word, decimal: '', role: 'carry' }];
}

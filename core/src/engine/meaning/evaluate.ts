/** Reads the values of a tick's expressions, with their effects, and notes where they came from when asked to. */
import type { Machine, ScheduledTick } from '../../machine/model/machine';
import type { ElementPlace, Expr, Radix } from '../../notation/tree';
import { partsOf, readsOf, someExpr } from '../../notation/tree';
import { pairOf, pairsOf, type RegisterPair } from '../../machine/model/pairs';
import { digitsAt, joinedValue, power, POWER, signedReading } from '../../text/number';
import { cut, dividesBadly, exactResult, work, wrapped, type Worked } from './arithmetic';
import { attachmentsOf, deviceValue, lineParts, lineValue, queuedAt, type Attached, type Attachments } from './devices';
import { partTold } from './sideBySide';
import type { Fault, ReadValue } from './report';
import { portLatch, type State } from './state';
import { perMachine } from '../../machine/model/perMachine';

const NONE: readonly ReadValue[] = [];
const NO_POLLS: readonly number[] = [];

/** Adds to a list that the present tick owns; the shared empty one is replaced first. Most lists stay empty. */
export function withMore<T>(list: readonly T[], item: T): readonly T[] {
  if (list.length === 0) return [item];
  (list as T[]).push(item);
  return list;
}

/** An asking of a device as one number. */
const asking = (device: number, part: Attached['part']): number => 2 * device + (part === 'status' ? 1 : 0);
/** The device, and the part of it, that an asked number stands for. */
export const askedOf = (asked: number): Attached => ({ device: asked >> 1, part: asked % 2 === 1 ? 'status' : 'data' });

export class Evaluator {
  /** The first fault of this tick; what is read after it does not matter. */
  fault: Fault | undefined;
  /** Queued inputs that reads of this tick take away. */
  takes = 0;
  /** Devices that this tick has asked: a number for each asking, as `asking` makes it. */
  polled: readonly number[] = NO_POLLS;
  /** Told of each cell that is read, where somebody wants to know. */
  onRead: ((space: number, address: number) => void) | undefined;
  /** Whether readings are noted; then where. */
  noting = false;
  readings: readonly ReadValue[] = NONE;
  /** Of the last join that was read: what stood side by side in it. */
  parts: readonly ReadValue[] = NONE;
  addressed: readonly ReadValue[] = NONE;
  private addressing = 0;
  private bound: Worked | undefined;
  readonly attachments: Attachments;
  private readonly radix: 2 | 10;
  /** Values that a number may not hold exactly: wider than 53 bits, or made from such. */
  private readonly wide = new WeakMap<Expr, boolean>();
  private pairs: readonly RegisterPair[] | undefined;
  private readonly canBeWide: boolean;
  private readonly foreign: boolean;

  /** With `foreign`, expressions come from elsewhere than the machine's own ticks. */
  constructor(
    readonly machine: Machine,
    readonly state: State,
    { foreign = false }: { foreign?: boolean } = {},
  ) {
    this.foreign = foreign;
    this.radix = machine.radix;
    this.attachments = attachmentsOf(machine);
    this.canBeWide = foreign || mayBeWide(machine);
  }

  /** A new tick: nothing is read, taken or wrong yet. */
  begin(): void {
    this.fault = undefined;
    this.takes = 0;
    this.polled = NO_POLLS;
  }

  /** What was noted so far is not of the transfer that comes. */
  forget(): void {
    this.readings = NONE;
    this.addressed = NONE;
    this.parts = NONE;
  }

  /** The first fault of a tick counts. */
  raise(fault: Fault): void {
    this.fault ??= fault;
  }

  /** The value of an expression of up to 53 bits, or of any whose result is that narrow. */
  value(expr: Expr): number {
    if (this.canBeWide && this.isWide(expr)) return Number(this.exact(expr));
    return this.evaluate(expr);
  }

  /** The value at any width. */
  exactValue(expr: Expr): number | bigint {
    return this.canBeWide && this.isWide(expr) ? this.exact(expr) : this.evaluate(expr);
  }

  /** With a, b and result of an operation at hand, as a flag's formula names them. */
  formula(expr: Expr, worked: Worked): number {
    const { noting } = this;
    this.bound = worked;
    this.noting = false;
    const value = this.value(expr);
    this.noting = noting;
    this.bound = undefined;
    return value === 0 ? 0 : 1;
  }

  /** Notes everything that is read from now on as part of an address. */
  inAddress<T>(read: () => T): T {
    this.addressing++;
    const value = read();
    this.addressing--;
    return value;
  }

  private isWide(expr: Expr): boolean {
    let known = this.wide.get(expr);
    if (known === undefined) {
      known = isTooWide(expr, this.radix) || partsOf(expr).some((each) => this.isWide(each));
      this.wide.set(expr, known);
    }
    return known;
  }

  private evaluate(expr: Expr): number {
    switch (expr.kind) {
      case 'literal':
        if (this.noting) this.note({ place: undefined, value: expr.value, width: expr.width, name: undefined });
        return expr.value;
      case 'register': {
        const value = this.state.registers[expr.register]!;
        if (this.noting) this.noteRegister(expr.register, expr.width - 1, 0, value, undefined);
        return value;
      }
      case 'slice': {
        const value = digitsAt(this.state.registers[expr.register]!, expr.low, expr.width, this.radix);
        if (this.noting) this.noteRegister(expr.register, expr.high, expr.low, value, expr.name);
        return value;
      }
      case 'digits':
        return digitsAt(this.evaluate(expr.operand), expr.low, expr.width, this.radix);
      case 'field':
        return this.field(expr);
      case 'flag': {
        const value = this.state.flags[expr.flag]!;
        if (this.noting) this.note({ place: { kind: 'flag', flag: expr.flag }, value, width: 1, name: undefined });
        return value;
      }
      case 'line': {
        const value = lineValue(this.machine, this.state, expr.device, expr.bit);
        this.polled = withMore(this.polled, asking(expr.device, lineParts[this.machine.devices[expr.device]!.kind]));
        if (this.noting) this.note({ place: { kind: 'line', device: expr.device, bit: expr.bit }, value, width: 1, name: undefined });
        return value;
      }
      case 'latch':
        return this.latch(expr);
      case 'shown':
        return deviceValue(this.machine, this.state, { device: expr.device, part: 'data' });
      case 'bound':
        return expr.name === 'b' ? (this.bound!.b ?? 0) : this.bound![expr.name];
      case 'element': {
        const register = this.elementOf(expr);
        const value = this.state.registers[register]!;
        if (this.noting) this.noteRegister(register, expr.width - 1, 0, value, undefined);
        return value;
      }
      case 'choose': {
        const option = this.chosen(expr);
        return option ? this.evaluate(option) : 0;
      }
      case 'holds': {
        const when = this.conditionOf(expr);
        return when && this.evaluate(when) !== 0 ? 1 : 0;
      }
      case 'cell':
        return this.cell(expr);
      case 'port':
        return this.port(expr);
      case 'unary': {
        const operand = this.evaluate(expr.operand);
        return cut(expr.operator === '~' ? ~operand : -operand, expr.width, this.radix);
      }
      case 'binary':
        return this.binary(expr);
      case 'shift': {
        const a = this.evaluate(expr.operand);
        const b = this.evaluate(expr.places);
        const carry = expr.through && this.evaluate(expr.through);
        return work(expr.operator, { a, b, carry, width: expr.width, radix: this.radix }).result;
      }
      case 'join': {
        let sum = 0;
        if (this.noting) {
          const values = this.noteParts(expr, (each) => this.evaluate(each));
          expr.parts.forEach((each, at) => (sum = sum * power(this.radix, each.width) + values[at]!));
        } else for (const each of expr.parts) sum = sum * power(this.radix, each.width) + this.evaluate(each);
        return sum;
      }
      case 'resize': {
        const operand = this.evaluate(expr.operand);
        return cut(expr.signed ? signedReading(operand, expr.operand.width, this.radix) : operand, expr.width, this.radix);
      }
      default:
        return expr satisfies never;
    }
  }

  private binary({ operator, left, right, width, signed }: Expr & { kind: 'binary' }): number {
    const a = this.evaluate(left);
    const b = this.evaluate(right);
    switch (operator) {
      case '=':
      case '!=':
      case '<':
      case '<=':
      case '>':
      case '>=':
        return signed
          ? compared(operator, signedReading(a, left.width, this.radix), signedReading(b, right.width, this.radix))
          : compared(operator, a, b);
      // The commonest operations need no operands object; the rest is worked out in one place.
      case '+':
        return cut(a + b, width, this.radix);
      case '-':
        return cut(a - b, width, this.radix);
      case '&':
        return (a & b) >>> 0;
      case '|':
        return (a | b) >>> 0;
      case '^':
        return (a ^ b) >>> 0;
      case '/':
      case '%':
      case '*': {
        const operands = { a, b, width, radix: this.radix, signed, widths: [left.width, right.width] as const };
        const instead = operator === '*' ? undefined : this.division(operands);
        return instead ?? cut(exactResult(operator, operands), width, this.radix);
      }
      default:
        return cut(exactResult(operator, { a, b, width, radix: this.radix }), width, this.radix);
    }
  }

  /** The value instead of a quotient that there is not; undefined where there is one. */
  division(operands: Parameters<typeof dividesBadly>[0]): number | undefined {
    if (!dividesBadly(operands)) return undefined;
    const told = this.machine.faults.division;
    if (told?.kind === 'value') return cut(told.value, operands.width, this.radix);
    this.raise({ kind: 'division', a: operands.a, b: operands.b ?? 0 });
    return 0;
  }

  /** The register that an index means now. */
  elementOf({ first, count, scale, offset, index }: ElementPlace): number {
    const { noting } = this;
    this.noting = false;
    let at = this.value(index);
    this.noting = noting;
    if (at >= count) {
      if (this.machine.faults['register outside']?.kind === 'wrap') at %= count;
      else {
        this.raise({ kind: 'register outside', index: at, count });
        at = 0;
      }
    }
    return first + scale * at + offset;
  }

  /** What stands at the index of a list now; undefined, with a fault raised, where nothing does. */
  chosen<T>({ index, options }: { readonly index: Expr; readonly options: readonly (T | undefined)[] }): T | undefined {
    const { noting } = this;
    this.noting = false;
    const at = this.value(index);
    this.noting = noting;
    const wrapped = this.machine.faults['register outside']?.kind === 'wrap' ? at % options.length : at;
    const option = options[wrapped];
    if (option === undefined) this.raise({ kind: 'register outside', index: at, count: options.length });
    return option;
  }

  /** The condition that a code names now; undefined where it names none. */
  private conditionOf({ operand, cases }: Expr & { kind: 'holds' }): Expr | undefined {
    const { noting } = this;
    this.noting = false;
    const code = this.evaluate(operand);
    this.noting = noting;
    for (const each of cases) if (each.code === code) return each.when;
    return undefined;
  }

  private field(expr: Expr & { kind: 'field' }): number {
    const { noting } = this;
    this.noting = false;
    const value = this.value(expr.operand);
    this.noting = noting;
    if (noting) this.noteRegister(expr.register, this.machine.registers[expr.register]!.width - 1, 0, value, expr.name, expr.width);
    return value;
  }

  private latch({ latch, width }: Expr & { kind: 'latch' }): number {
    const { here, next, cause, form } = this.state.control;
    const value = { here, next, cause, length: form?.format.cells ?? 0 }[latch];
    // `here` and `next` stand in no register of the document; they are drawn as coming from the program counter.
    if (this.noting) this.noteRegister(this.machine.programCounter, width - 1, 0, value, latch);
    return value;
  }

  /** The place of a cell counted over all banks, or −1 where there is none: then a fault is raised, or nothing happens. */
  place(space: number, bankExpr: Expr | undefined, addressExpr: Expr): number {
    const { cells, banks } = this.machine.spaces[space]!;
    this.addressing++;
    let bank = bankExpr ? this.value(bankExpr) : 0;
    let address = this.value(addressExpr);
    this.addressing--;
    if (address < cells && bank < banks) return bank * cells + address;
    const told = this.machine.faults['cell outside']?.kind;
    if (told === 'wrap') {
      bank %= banks;
      address %= cells;
      return bank * cells + address;
    }
    if (told !== 'ignore' && told !== 'value') this.raise({ kind: 'cell outside', space, address, bank });
    return -1;
  }

  private cell(expr: Expr & { kind: 'cell' }): number {
    const address = this.place(expr.space, expr.bank, expr.address);
    if (address < 0) {
      const told = this.machine.faults['cell outside'];
      return told?.kind === 'value' ? cut(told.value, expr.width, this.radix) : 0;
    }
    const attached = this.attachments.cells[expr.space]?.get(address);
    const value = attached ? this.readDevice(attached) : this.state.spaces[expr.space]![address]!;
    if (this.onRead) this.onRead(expr.space, address);
    if (this.noting) this.note({ place: { kind: 'cell', space: expr.space, address }, value, width: expr.width, name: undefined });
    return value;
  }

  private port(expr: Expr & { kind: 'port' }): number {
    const port = this.inAddress(() => this.value(expr.port));
    const attached = this.attachments.ports.get(port);
    // Who looks on is shown what was sent there; a tick reads what stands there, if anything does.
    const unread = (): number =>
      this.foreign && port < this.machine.ports!.count ? this.state.latches[portLatch(port)]! : this.idle(port);
    const value = attached ? this.readDevice(attached) : unread();
    if (this.noting) this.note({ place: { kind: 'port', port }, value, width: expr.width, name: undefined });
    return value;
  }

  /** What a port gives that nothing answers at. */
  idle(port: number): number {
    const { ports, faults } = this.machine;
    const told = faults['empty port'];
    if (port < ports!.count && ports!.idle !== undefined) return ports!.idle;
    if (told?.kind === 'value') return told.value;
    if (told?.kind !== 'ignore') this.raise({ kind: 'empty port', port });
    return 0;
  }

  /** A read that has effects happens once for each reference. */
  private readDevice(attached: Attached): number {
    const { kind, clears } = this.machine.devices[attached.device]!;
    const value = deviceValue(this.machine, this.state, attached, this.takes);
    const taken = kind === 'keyboard' && attached.part === 'data' && clears;
    this.polled = withMore(this.polled, asking(attached.device, attached.part));
    if (taken && queuedAt(this.state, this.takes) !== undefined) this.takes++;
    return value;
  }

  private noteRegister(register: number, high: number, low: number, value: number, name: string | undefined, width = high - low + 1): void {
    this.note({ place: { kind: 'register', register, high, low }, value, width, name });
  }

  private note(reading: ReadValue): void {
    if (this.addressing > 0) this.addressed = withMore(this.addressed, reading);
    else this.readings = withMore(this.readings, reading);
  }

  private get noted(): readonly ReadValue[] {
    return this.addressing > 0 ? this.addressed : this.readings;
  }

  /** Reads what stands side by side, and notes what each part gave. */
  private noteParts<T extends number | bigint>({ parts }: Expr & { kind: 'join' }, read: (part: Expr) => T): T[] {
    const from = this.noted.length;
    const told: ReadValue[] = [];
    const values = parts.map((each) => {
      const before = this.noted.length;
      const value = read(each);
      told.push(partTold(each, value, this.noted.slice(before)));
      return value;
    });
    this.joinNoted(from, parts.length);
    if (this.addressing === 0) this.parts = told;
    return values;
  }

  /** Whole registers that were read behind each other as one are told as one: so many readings from the given one on. */
  private joinNoted(from: number, count: number): void {
    const list = this.noted;
    const parts = list.slice(from);
    const registers = parts.flatMap(({ place, name, width }) =>
      place?.kind === 'register' && name === undefined && width === this.machine.registers[place.register]!.width ? [place.register] : [],
    );
    if (parts.length !== count || registers.length !== count) return;
    this.pairs ??= pairsOf(this.machine);
    const joined: ReadValue = {
      place: pairOf(this.machine, this.pairs, registers),
      value: joinedValue(parts, this.radix),
      width: parts.reduce((sum, each) => sum + each.width, 0),
      name: undefined,
    };
    const told = [...list.slice(0, from), joined];
    if (this.addressing > 0) this.addressed = told;
    else this.readings = told;
  }

  /** Whole numbers of any size, for what a number cannot hold. */
  private exact(expr: Expr): bigint {
    if (!this.isWide(expr)) return BigInt(this.evaluate(expr));
    const cutTo = (value: bigint): bigint => wrapped(value, expr.width, this.radix);
    const signed = (each: Expr): bigint => {
      const value = this.exact(each);
      const size = BigInt(this.radix) ** BigInt(each.width);
      return value * 2n >= size ? value - size : value;
    };
    const base = BigInt(this.radix);
    switch (expr.kind) {
      case 'literal':
        return BigInt(this.evaluate(expr));
      // What says where these are may be wide; they themselves are not.
      case 'register':
      case 'slice':
      case 'field':
      case 'flag':
      case 'line':
      case 'latch':
      case 'shown':
      case 'element':
      case 'cell':
      case 'port':
      case 'holds':
        return BigInt(this.evaluate(expr));
      case 'choose': {
        const option = this.chosen(expr);
        return option ? this.exact(option) : 0n;
      }
      case 'bound':
        return expr.name === 'result' && this.bound!.wide !== undefined ? this.bound!.wide : BigInt(this.evaluate(expr));
      case 'shift': {
        const carry = expr.through && this.evaluate(expr.through);
        const a = this.exact(expr.operand);
        const b = placesOf(this.exact(expr.places));
        return BigInt(work(expr.operator, { a: Number(a), b, carry, width: expr.width, radix: this.radix }).result);
      }
      case 'digits':
        return (this.exact(expr.operand) / base ** BigInt(expr.low)) % base ** BigInt(expr.width);
      case 'join': {
        const exact = (each: Expr): bigint => this.exact(each);
        const values = this.noting ? this.noteParts(expr, exact) : expr.parts.map(exact);
        return values.reduce((sum, each, at) => sum * base ** BigInt(expr.parts[at]!.width) + each, 0n);
      }
      case 'resize':
        return cutTo(expr.signed ? signed(expr.operand) : this.exact(expr.operand));
      case 'unary':
        return cutTo(expr.operator === '~' ? -this.exact(expr.operand) - 1n : -this.exact(expr.operand));
      case 'binary': {
        const [a, b] = expr.signed ? [signed(expr.left), signed(expr.right)] : [this.exact(expr.left), this.exact(expr.right)];
        return cutTo(this.exactBinary(expr, a, b));
      }
      default:
        return expr satisfies never;
    }
  }

  private exactBinary(expr: Expr & { kind: 'binary' }, a: bigint, b: bigint): bigint {
    const { operator, left } = expr;
    const base = BigInt(this.radix);
    switch (operator) {
      case '+':
        return a + b;
      case '-':
        return a - b;
      case '*':
        return a * b;
      case '/':
      case '%':
        if (b !== 0n && !(expr.signed && (a / b) * 2n >= base ** BigInt(expr.left.width))) return expr.operator === '/' ? a / b : a % b;
        if (this.machine.faults.division?.kind === 'value') return BigInt(this.machine.faults.division.value);
        this.raise({ kind: 'division', a: Number(this.exact(expr.left)), b: Number(this.exact(expr.right)) });
        return 0n;
      case '&':
        return a & b;
      case '|':
        return a | b;
      case '^':
        return a ^ b;
      case '<<':
        return b > BigInt(left.width) ? 0n : a * base ** b;
      case '>>':
        return b > 64n ? 0n : a / base ** b;
      case '=':
      case '!=':
      case '<':
      case '<=':
      case '>':
      case '>=':
        return BigInt(compared(operator, a, b));
      default:
        return operator satisfies never;
    }
  }
}

function compared(operator: '=' | '!=' | '<' | '<=' | '>' | '>=', a: number | bigint, b: number | bigint): number {
  switch (operator) {
    case '=':
      return a === b ? 1 : 0;
    case '!=':
      return a !== b ? 1 : 0;
    case '<':
      return a < b ? 1 : 0;
    case '<=':
      return a <= b ? 1 : 0;
    case '>':
      return a > b ? 1 : 0;
    case '>=':
      return a >= b ? 1 : 0;
    default:
      return operator satisfies never;
  }
}

/** Places of a shift or rotate as a number: so many times round that nothing is lost, and no more. */
const placesOf = (places: bigint): number => Number(places <= ROUND ? places : ROUND + (places % ROUND));
/** A multiple of every ring that there is: of 1 to 33 digits. */
const ROUND = 144_403_552_893_600n;

export const BITWISE: ReadonlySet<string> = new Set(['&', '|', '^', '~']);

/** Whether a number cannot hold a value exactly, or the processor's own bit operators cannot work it out. */
const isTooWide = (expr: Expr, radix: Radix): boolean =>
  power(radix, expr.width) > POWER[53]! ||
  (expr.width > 32 && (expr.kind === 'unary' || expr.kind === 'binary') && BITWISE.has(expr.operator));

/** Whether any value of the machine's ticks is wider than a number can hold. */
const mayBeWide = perMachine(({ forms, entry, radix }) =>
  [...forms.map((each) => each.schedule), entry].some((schedule) => schedule.some((each) => tickMayBeWide(each, radix))),
);

/** Ticks of instructions that have not changed are the very ones of the machine before. */
const wideTicks = new WeakMap<ScheduledTick, boolean>();

function tickMayBeWide(scheduled: ScheduledTick, radix: Radix): boolean {
  let known = wideTicks.get(scheduled);
  if (known === undefined) {
    const tooWide = (expr: Expr): boolean => isTooWide(expr, radix);
    known = scheduled.tick.actions.some((action) => readsOf(action).some((each) => someExpr(each, tooWide)));
    wideTicks.set(scheduled, known);
  }
  return known;
}

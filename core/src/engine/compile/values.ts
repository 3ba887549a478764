/** Writes the code that works a checked value out: i32 where it fits, else i64. What needs a look is left to the tick executor. */
import { programSpaceOf, type Field, type Form, type Machine } from '../../machine/model/machine';
import type { ElementPlace, Expr } from '../../notation/tree';
import { power } from '../../text/number';
import type { Code, Label, PlainOp } from './wasm/code';
import type { Layout } from './layout';

/** The tick cannot be compiled: the tick executor always does it. */
export class Unsupported extends Error {}

export type ValueType = 'i32' | 'i64';

export interface Places {
  /** By register: the local it lives in, or undefined where it lives in memory. */
  readonly registers: readonly (number | undefined)[];
  readonly flags: readonly number[];
  readonly here: number;
  readonly next: number;
}

/** A local and what it holds. */
export interface Local {
  readonly local: number;
  readonly type: ValueType;
}

/** a, b and result of a flagged operation, as a formula names them. */
export interface Bound {
  readonly a: Local;
  readonly b: Local | undefined;
  readonly result: Local;
}

export interface Context {
  readonly code: Code;
  readonly machine: Machine;
  readonly layout: Layout;
  readonly places: Places;
  /** Where a tick goes that needs a look, before it has written anything. */
  readonly look: Label;
  readonly counts: boolean;
  readonly form: Form | undefined;
  /** The condition that the code at hand is made for. */
  readonly settled?: { readonly field: Field; readonly value: number } | undefined;
  bound?: Bound;
  /** Cells that the tick reads, to be counted when it is done: locals with one more than the address, by space. */
  readonly counted: { readonly space: number; readonly address: number }[];
  /** Where somebody only looks: cells whose guards do not matter. */
  readonly peeks?: (space: number, address: number) => boolean;
}

const LIMIT = 2 ** 32;
/** Values of more digits than this do not fit into 64 bits. */
const WIDEST: Readonly<Record<number, number>> = { 2: 64, 10: 18 };

export const typeOf = (radix: number, width: number): ValueType => (power(radix, Math.min(width, 39)) > LIMIT ? 'i64' : 'i32');

/** The greatest value of a width plus one, as a constant. */
const sizeOf = (radix: number, width: number): bigint => BigInt(radix) ** BigInt(width);

export class Values {
  readonly radix: 2 | 10;

  constructor(readonly context: Context) {
    this.radix = context.machine.radix;
  }

  typeOf(expr: Expr): ValueType {
    return typeOf(this.radix, expr.width);
  }

  constant(type: ValueType, value: bigint): void {
    if (type === 'i32') this.context.code.i32(Number(BigInt.asIntN(32, value)));
    else this.context.code.i64(value);
  }

  op(type: ValueType, name: string): void {
    this.context.code.op(`${type}.${name}` as PlainOp);
  }

  convert(from: ValueType, to: ValueType): void {
    if (from === to) return;
    this.context.code.op(to === 'i64' ? 'i64.extend_i32_u' : 'i32.wrap_i64');
  }

  /** Leaves to the tick executor what the condition on the stack holds for. */
  lookIf(): void {
    this.context.code.branchIf(this.context.look);
  }

  /** The value on the stack, of `as` or of its own type. */
  emit(expr: Expr, as: ValueType = this.typeOf(expr)): void {
    if (expr.width > WIDEST[this.radix]!) throw new Unsupported();
    this.own(expr);
    this.convert(this.typeOf(expr), as);
  }

  /** A value in a borrowed local of `as`. */
  held(expr: Expr, as: ValueType = this.typeOf(expr)): number {
    const local = this.context.code.borrow(as);
    this.emit(expr, as);
    this.context.code.set(local);
    return local;
  }

  /** Cuts what stands on the stack, in two's complement, to a width. */
  cut(type: ValueType, width: number): void {
    if (this.radix === 10) throw new Unsupported();
    if ((type === 'i32' && width >= 32) || width >= 64) return;
    this.constant(type, sizeOf(2, width) - 1n);
    this.op(type, 'and');
  }

  register(register: number): void {
    const { code, places, layout } = this.context;
    const local = places.registers[register];
    if (local === undefined) code.i32(0).memory('i32.load', layout.registers + 4 * register);
    else code.get(local);
  }

  /** Digits `low` to `low + width − 1` of what stands on the stack; its `whole` width may save the cut. */
  digits(type: ValueType, { low, width, whole }: { low: number; width: number; whole: number }): void {
    if (this.radix === 2) {
      if (low > 0) {
        this.constant(type, BigInt(low));
        this.op(type, 'shr_u');
      }
      if (low + width < whole) this.cut(type, width);
      return;
    }
    if (low > 0) {
      this.constant(type, sizeOf(10, low));
      this.op(type, 'div_u');
    }
    if (low + width < whole) {
      this.constant(type, sizeOf(10, width));
      this.op(type, 'rem_u');
    }
  }

  private own(expr: Expr): void {
    const { code, places } = this.context;
    const { radix } = this;
    switch (expr.kind) {
      case 'literal':
        return this.constant(this.typeOf(expr), BigInt(expr.value));
      case 'register':
        return this.register(expr.register);
      case 'slice': {
        const whole = this.context.machine.registers[expr.register]!.width;
        this.register(expr.register);
        return this.digits('i32', { low: expr.low, width: expr.width, whole });
      }
      case 'digits': {
        const from = this.typeOf(expr.operand);
        this.emit(expr.operand);
        this.digits(from, { low: expr.low, width: expr.width, whole: expr.operand.width });
        return this.convert(from, this.typeOf(expr));
      }
      case 'field':
        return this.emit(expr.operand, this.typeOf(expr));
      case 'flag':
        return void code.get(places.flags[expr.flag]!);
      case 'latch':
        if (expr.latch === 'cause' || !this.context.form) throw new Unsupported();
        if (expr.latch === 'length') return this.constant('i32', BigInt(this.context.form.format.cells));
        return void code.get(expr.latch === 'here' ? places.here : places.next);
      case 'bound': {
        const { bound } = this.context;
        const found = bound?.[expr.name];
        if (!found) return this.constant(this.typeOf(expr), 0n);
        code.get(found.local);
        return this.convert(found.type, this.typeOf(expr));
      }
      case 'element':
        this.elementOffset(expr);
        return void code.memory('i32.load', this.context.layout.registers + 4 * (expr.first + expr.offset));
      case 'cell': {
        const address = this.cellAddress(expr);
        this.load(expr, address);
        code.release('i32', address);
        return;
      }
      case 'choose':
        return this.choose(expr);
      case 'holds':
        return this.holds(expr);
      case 'unary':
        return this.unary(expr);
      case 'binary':
        return this.binary(expr);
      case 'shift':
        return this.shift(expr);
      case 'join': {
        const type = this.typeOf(expr);
        this.constant(type, 0n);
        for (const each of expr.parts) {
          if (radix === 2) this.constant(type, BigInt(each.width));
          else this.constant(type, sizeOf(10, each.width));
          this.op(type, radix === 2 ? 'shl' : 'mul');
          this.emit(each, type);
          this.op(type, 'add');
        }
        return;
      }
      case 'resize':
        return this.resize(expr);
      case 'line':
      case 'port':
      case 'shown':
        throw new Unsupported();
      default:
        expr satisfies never;
    }
  }

  /** Bytes from the first element to the one that the index means; an index outside needs a look. */
  elementOffset({ count, scale, index }: ElementPlace): void {
    const { code } = this.context;
    this.emit(index, 'i32');
    if (power(this.radix, index.width) > count) {
      const local = code.borrow('i32');
      code.tee(local).i32(count).op('i32.ge_u');
      this.lookIf();
      code.get(local);
      code.release('i32', local);
    }
    code.i32(4 * scale).op('i32.mul');
  }

  /** One of a list by number; a number without one needs a look. */
  private choose({ index, options, width }: Expr & { kind: 'choose' }): void {
    const { code } = this.context;
    const type = typeOf(this.radix, width);
    const [at, value] = [this.held(index, 'i32'), code.borrow(type)];
    const found = code.block();
    options.forEach((option, number) => {
      if (!option) return;
      code.get(at).i32(number).op('i32.eq');
      code.if();
      this.emit(option, type);
      code.set(value).branch(found).end();
    });
    code.branch(this.context.look);
    code.end();
    code.get(value);
    code.release('i32', at);
    code.release(type, value);
  }

  /** 1 where the condition that a code names holds. */
  private holds({ operand, cases }: Expr & { kind: 'holds' }): void {
    const { code, settled } = this.context;
    if (settled && (operand.kind === 'slice' || operand.kind === 'field') && operand.name === settled.field.name) {
      const found = cases.find((each) => each.code === settled.value);
      return found ? this.emit(found.when, 'i32') : this.constant('i32', 0n);
    }
    const value = code.borrow('i32');
    const done = code.block();
    const none = code.block();
    const labels = cases.map(() => code.block()).reverse();
    const byCode = Array.from({ length: Math.max(-1, ...cases.map((each) => each.code)) + 1 }, (_, number) => {
      const at = cases.findIndex((each) => each.code === number);
      return at === -1 ? none : labels[at]!;
    });
    this.emit(operand, 'i32');
    code.branchTable([...byCode, none]);
    for (const { when } of cases) {
      code.end();
      this.emit(when, 'i32');
      code.set(value).branch(done);
    }
    code.end();
    code.i32(0).set(value).end();
    code.get(value);
    code.release('i32', value);
  }

  /** A borrowed local with the address of a cell over all banks; one outside needs a look. */
  cellAddress({ space, bank, address }: { space: number; bank?: Expr; address: Expr }): number {
    const { code, machine } = this.context;
    const { cells, banks } = machine.spaces[space]!;
    const local = code.borrow('i32');
    this.inside(address, cells);
    if (bank) {
      code.set(local);
      this.inside(bank, banks);
      code.i32(cells).op('i32.mul').get(local).op('i32.add');
    }
    code.set(local);
    return local;
  }

  private inside(expr: Expr, count: number): void {
    const { code } = this.context;
    const type = this.typeOf(expr);
    this.emit(expr);
    if (power(this.radix, Math.min(expr.width, 39)) > count) {
      const local = code.borrow(type);
      code.tee(local);
      this.constant(type, BigInt(count));
      this.op(type, 'ge_u');
      this.lookIf();
      code.get(local);
      code.release(type, local);
    }
    this.convert(type, 'i32');
  }

  private load({ space, bank, address: place }: Expr & { kind: 'cell' }, address: number): void {
    const { code, layout, counts, counted, peeks } = this.context;
    if (bank || place.kind !== 'literal' || !peeks?.(space, place.value)) {
      code.get(address).memory('i32.load8_u', layout.readGuards[space]!);
      this.lookIf();
    }
    if (counts) {
      const kept = code.local('i32');
      code.get(address).i32(1).op('i32.add').set(kept);
      counted.push({ space, address: kept });
    }
    code.get(address).i32(2).op('i32.shl').memory('i32.load', layout.cells[space]!);
  }

  private unary({ operator, operand, width }: Expr & { kind: 'unary' }): void {
    const type = typeOf(this.radix, width);
    if (this.radix === 10) {
      if (operator === '~') throw new Unsupported();
      this.constant(type, sizeOf(10, width));
      this.emit(operand, type);
      this.op(type, 'sub');
      this.constant(type, sizeOf(10, width));
      this.op(type, 'rem_u');
      return;
    }
    this.constant(type, operator === '~' ? -1n : 0n);
    this.emit(operand, type);
    this.op(type, operator === '~' ? 'xor' : 'sub');
    this.cut(type, width);
  }

  /** The signed reading of what stands on the stack, in two's complement of `type`. */
  signed(type: ValueType, width: number): void {
    const { code } = this.context;
    const bits = type === 'i32' ? 32 : 64;
    if (this.radix === 2) {
      if (width >= bits) return;
      this.constant(type, BigInt(bits - width));
      this.op(type, 'shl');
      this.constant(type, BigInt(bits - width));
      this.op(type, 'shr_s');
      return;
    }
    const value = code.borrow(type);
    code.set(value).get(value);
    this.constant(type, sizeOf(10, width));
    this.op(type, 'sub');
    code.get(value).get(value);
    this.constant(type, sizeOf(10, width) / 2n);
    this.op(type, 'ge_u');
    code.op('select');
    code.release(type, value);
  }

  private binary({ operator, left, right, width, signed }: Expr & { kind: 'binary' }): void {
    switch (operator) {
      case '=':
      case '!=':
      case '<':
      case '<=':
      case '>':
      case '>=': {
        const type = this.typeOf(left) === 'i64' || this.typeOf(right) === 'i64' ? 'i64' : 'i32';
        for (const each of [left, right]) {
          this.emit(each, type);
          if (signed) this.signed(type, each.width);
        }
        const name = { '=': 'eq', '!=': 'ne', '<': 'lt', '<=': 'le', '>': 'gt', '>=': 'ge' }[operator];
        this.op(type, operator === '=' || operator === '!=' ? name : `${name}_${signed ? 's' : 'u'}`);
        return;
      }
      case '&':
      case '|':
      case '^': {
        const type = typeOf(2, width);
        this.emit(left, type);
        this.emit(right, type);
        this.op(type, { '&': 'and', '|': 'or', '^': 'xor' }[operator]);
        return;
      }
      case '<<':
      case '>>':
        return this.plainShift(operator, { left, right, width });
      case '/':
      case '%':
        return this.divide(operator, { left, right, width, signed });
      case '+':
      case '-':
      case '*':
        return this.arithmetic(operator, { left, right, width, signed });
      default:
        operator satisfies never;
    }
  }

  private arithmetic(
    operator: '+' | '-' | '*',
    { left, right, width, signed }: { left: Expr; right: Expr; width: number; signed: boolean },
  ): void {
    const { radix } = this;
    const wide = [left, right].some((each) => this.typeOf(each) === 'i64') || typeOf(radix, width) === 'i64';
    const own = typeOf(radix, width);
    if (radix === 2) {
      const type = wide ? 'i64' : 'i32';
      for (const each of [left, right]) {
        this.emit(each, type);
        if (signed && operator === '*') this.signed(type, each.width);
      }
      this.op(type, { '+': 'add', '-': 'sub', '*': 'mul' }[operator]);
      this.cut(type, width);
      return this.convert(type, own);
    }
    if (signed || left.width + right.width > 18) throw new Unsupported();
    this.emit(left, 'i64');
    if (operator === '-') {
      this.constant('i64', sizeOf(10, Math.max(left.width, right.width, width)));
      this.op('i64', 'add');
    }
    this.emit(right, 'i64');
    this.op('i64', { '+': 'add', '-': 'sub', '*': 'mul' }[operator]);
    this.constant('i64', sizeOf(10, width));
    this.op('i64', 'rem_u');
    this.convert('i64', own);
  }

  private divide(operator: '/' | '%', { left, right, width, signed }: { left: Expr; right: Expr; width: number; signed: boolean }): void {
    const { code } = this.context;
    if (signed) throw new Unsupported();
    const type = this.typeOf(left) === 'i64' || this.typeOf(right) === 'i64' ? 'i64' : 'i32';
    this.emit(left, type);
    const divisor = this.held(right, type);
    code.get(divisor);
    this.op(type, 'eqz');
    this.lookIf();
    code.get(divisor);
    this.op(type, operator === '/' ? 'div_u' : 'rem_u');
    code.release(type, divisor);
    this.digits(type, { low: 0, width, whole: left.width });
    this.convert(type, typeOf(this.radix, width));
  }

  private plainShift(operator: '<<' | '>>', { left, right, width }: { left: Expr; right: Expr; width: number }): void {
    const { code } = this.context;
    if (this.radix === 10) throw new Unsupported();
    const type = typeOf(2, Math.max(left.width, width));
    const places = this.held(right, type);
    this.emit(left, type);
    code.get(places);
    this.op(type, operator === '<<' ? 'shl' : 'shr_u');
    this.constant(type, 0n);
    code.get(places);
    this.constant(type, type === 'i32' ? 32n : 64n);
    this.op(type, 'lt_u');
    code.op('select');
    code.release(type, places);
    this.cut(type, width);
    this.convert(type, typeOf(2, width));
  }

  /** Shifts and rotates with names of their own, of up to 32 bits. */
  private shift({ operator, operand, places, through, width }: Expr & { kind: 'shift' }): void {
    const { code } = this.context;
    if (this.radix === 10 || width > 32 || places.width > 32) throw new Unsupported();
    const [value, count] = [this.held(operand, 'i64'), this.held(places, 'i64')];
    const carry = through && this.held(through, 'i64');
    this.turned(operator, { value, count, carry, width });
    if (carry !== undefined) this.cut('i64', width);
    code.op('i32.wrap_i64');
    for (const each of [value, count, ...(carry === undefined ? [] : [carry])]) code.release('i64', each);
  }

  /**
   * A value shifted arithmetically or rotated, on the stack as an i64; with a carry the ring has one bit more, which is
   * left above the width. All operands are i64 locals.
   */
  turned(
    operator: 'asr' | 'rotl' | 'rotr',
    { value, count, carry, width }: { value: number; count: number; carry: number | undefined; width: number },
  ): void {
    const { code } = this.context;
    if (operator === 'asr') {
      code.get(value);
      this.signed('i64', width);
      code.get(count).i64(32n).get(count).i64(32n).op('i64.lt_u', 'select').op('i64.shr_s');
      return this.cut('i64', width);
    }
    const ring = carry === undefined ? width : width + 1;
    const [whole, by] = [code.borrow('i64'), code.borrow('i64')];
    code.get(value);
    if (carry !== undefined) code.get(carry).i64(BigInt(width)).op('i64.shl', 'i64.or');
    code.set(whole);
    code.get(count).i64(BigInt(ring)).op('i64.rem_u').set(by);
    const [there, back] = operator === 'rotl' ? (['i64.shl', 'i64.shr_u'] as const) : (['i64.shr_u', 'i64.shl'] as const);
    code.get(whole).get(by).op(there);
    code.get(whole).i64(BigInt(ring)).get(by).op('i64.sub').op(back, 'i64.or');
    this.cut('i64', ring);
    code.release('i64', whole);
    code.release('i64', by);
  }

  private resize({ operand, signed, width }: Expr & { kind: 'resize' }): void {
    const [from, to] = [this.typeOf(operand), typeOf(this.radix, width)];
    const type = from === 'i64' || to === 'i64' ? 'i64' : 'i32';
    this.emit(operand, type);
    if (signed && this.radix === 10) throw new Unsupported();
    if (signed) this.signed(type, operand.width);
    if (this.radix === 2) this.cut(type, width);
    else this.digits(type, { low: 0, width, whole: operand.width });
    this.convert(type, to);
  }

  /** Cells of the program space. */
  get cells(): number {
    return programSpaceOf(this.context.machine).cells;
  }
}

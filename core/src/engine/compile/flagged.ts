/** Writes the code of flagged operations: the result and every flag that follows a rule, as the arithmetic of the tick executor has them. */
import type { Flagged, FlagEffect, Operation } from '../../notation/tree';
import { power } from '../../text/number';
import { Unsupported, type Local, type Values, type ValueType } from './values';

/** Flags that a tick will have set, in locals, until it is known that it may write. */
export interface FlagResult {
  readonly flag: number;
  readonly local: number;
  /** An i64 local: while it is 0 the flag is left alone. */
  readonly unless?: number;
}

export interface Operated {
  readonly result: Local;
  readonly flags: readonly FlagResult[];
  readonly locals: readonly Local[];
}

interface Parts {
  readonly result: Local;
  /** Puts what a flag becomes on the stack; false where the rule leaves it alone. */
  readonly flag: (effect: FlagEffect) => boolean;
  readonly unless?: number;
}

const ROTATES: ReadonlySet<string> = new Set(['asr', 'rotl', 'rotr']);

export class FlaggedOperation {
  private readonly locals: Local[] = [];

  constructor(
    private readonly values: Values,
    private readonly operation: Operation,
  ) {}

  /** Works everything out into locals; nothing is written yet. */
  emit({ effects }: Flagged): Operated {
    const { operator } = this.operation;
    const parts = operator === '<<' || operator === '>>' || ROTATES.has(operator) ? this.shifted() : this.plain();
    const flags = effects.flatMap((each): FlagResult[] => {
      const local = this.values.context.code.borrow('i32');
      if (!parts.flag(each)) {
        this.values.context.code.release('i32', local);
        return [];
      }
      this.values.context.code.set(local);
      this.locals.push({ local, type: 'i32' });
      const left = parts.unless !== undefined && (each.rule === 'carry' || each.rule === 'overflow');
      return [{ flag: each.flag, local, ...(left && { unless: parts.unless! }) }];
    });
    return { result: parts.result, flags, locals: this.locals };
  }

  private take(type: ValueType): Local {
    const taken = { local: this.values.context.code.borrow(type), type };
    this.locals.push(taken);
    return taken;
  }

  private holding(type: ValueType, write: () => void): Local {
    const taken = this.take(type);
    write();
    this.values.context.code.set(taken.local);
    return taken;
  }

  /** Rules that look at the result alone. False where the rule is another one. */
  private byResult({ rule, odd, formula }: FlagEffect, result: Local, bound: { a: Local; b: Local | undefined }): boolean {
    const { values } = this;
    const { code } = values.context;
    const { width } = this.operation;
    const { radix } = values;
    switch (rule) {
      case 'zero':
        code.get(result.local);
        values.op(result.type, 'eqz');
        return true;
      case 'negative':
        code.get(result.local);
        if (radix === 2) {
          values.constant(result.type, BigInt(width - 1));
          values.op(result.type, 'shr_u');
          values.convert(result.type, 'i32');
          return true;
        }
        values.constant(result.type, 10n ** BigInt(width) / 2n);
        values.op(result.type, 'ge_u');
        return true;
      case 'parity':
        code.get(result.local);
        values.op(result.type, 'popcnt');
        values.convert(result.type, 'i32');
        code.i32(1).op('i32.and');
        if (!odd) code.op('i32.eqz');
        return true;
      case 'formula':
        values.context.bound = { ...bound, result };
        values.emit(formula!, values.typeOf(formula!));
        delete values.context.bound;
        values.constant(values.typeOf(formula!), 0n);
        values.op(values.typeOf(formula!), 'ne');
        return true;
      default:
        return false;
    }
  }

  private plain(): Parts {
    const { values, operation } = this;
    const { code } = values.context;
    const { radix } = values;
    const { operator, width, signed, widths } = operation;
    const wide = operator === '*' ? widths[0] + widths[1] > (radix === 2 ? 31 : 9) : power(radix, Math.min(width, 39)) * 2 > 2 ** 31;
    const type: ValueType = wide ? 'i64' : 'i32';
    if (width > (radix === 2 ? 64 : 18) || (width > 32 && operator !== '*')) throw new Unsupported();
    if (operator !== '*' && (widths[0] > 32 || widths[1] > 32)) throw new Unsupported();
    if ((operator === '/' || operator === '%') && signed) throw new Unsupported();
    if (operator === '*' && (widths[0] + widths[1] > (radix === 2 ? 64 : 18) || (signed && radix === 10))) throw new Unsupported();
    const a = this.holding(type, () => values.emit(operation.a, type));
    const b = operation.b && this.holding(type, () => values.emit(operation.b!, type));
    const carry = operation.carry && this.holding(type, () => values.emit(operation.carry!, type));
    const get = (each: Local | undefined): void => (each ? void code.get(each.local) : values.constant(type, 0n));
    const exact = this.take(type);
    this.exact(type, { a, b, carry });
    code.set(exact.local);
    const result = this.holding(type, () => this.cutExact(type, exact));
    const size = BigInt(radix) ** BigInt(width);
    const flag = (effect: FlagEffect): boolean => {
      if (this.byResult(effect, result, { a, b })) return true;
      const { rule, noBorrow, into } = effect;
      if (operator !== '+' && operator !== '-' && operator !== 'negate') {
        if (rule === 'half-carry' && into >= width) return (code.i32(0), true);
        return false;
      }
      switch (rule) {
        case 'carry':
          get(exact);
          values.constant(type, operator === '+' ? size : 0n);
          values.op(type, operator === '+' ? 'ge_u' : noBorrow ? 'ge_s' : 'lt_s');
          return true;
        case 'overflow':
          this.overflow(type, { a, b, carry, result });
          return true;
        case 'half-carry':
          if (into >= width) return (code.i32(0), true);
          this.halfCarry(type, { a, b, carry, into });
          return true;
        default:
          return false;
      }
    };
    return { result, flag };
  }

  /** The result before it is cut, on the stack. */
  private exact(type: ValueType, { a, b, carry }: { a: Local; b: Local | undefined; carry: Local | undefined }): void {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, signed, widths } = operation;
    const get = (each: Local | undefined): void => (each ? void code.get(each.local) : values.constant(type, 0n));
    switch (operator) {
      case '+':
      case '-':
        get(a);
        get(b);
        values.op(type, operator === '+' ? 'add' : 'sub');
        if (!carry) return;
        get(carry);
        values.op(type, operator === '+' ? 'add' : 'sub');
        return;
      case 'negate':
        values.constant(type, 0n);
        get(a);
        values.op(type, 'sub');
        return;
      case '*':
        get(a);
        if (signed) values.signed(type, widths[0]);
        get(b);
        if (signed) values.signed(type, widths[1]);
        values.op(type, 'mul');
        return;
      case '/':
      case '%':
        get(b);
        values.op(type, 'eqz');
        values.lookIf();
        get(a);
        get(b);
        values.op(type, operator === '/' ? 'div_u' : 'rem_u');
        return;
      case '&':
      case '|':
      case '^':
        get(a);
        get(b);
        values.op(type, { '&': 'and', '|': 'or', '^': 'xor' }[operator]);
        return;
      case '~':
        get(a);
        values.constant(type, -1n);
        values.op(type, 'xor');
        return;
      case 'value':
        get(a);
        return;
      default:
        throw new Unsupported();
    }
  }

  private cutExact(type: ValueType, exact: Local): void {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, width } = operation;
    code.get(exact.local);
    if (values.radix === 2) return values.cut(type, width);
    const size = 10n ** BigInt(width);
    if (operator === '-' || operator === 'negate') {
      // At least −10^w: at most one size has to be added.
      values.constant(type, size);
      values.op(type, 'add');
    }
    values.constant(type, size);
    values.op(type, 'rem_u');
  }

  private overflow(
    type: ValueType,
    { a, b, carry, result }: { a: Local; b: Local | undefined; carry: Local | undefined; result: Local },
  ): void {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, width } = operation;
    const op = (...names: string[]): void => names.forEach((each) => values.op(type, each));
    if (values.radix === 2) {
      // Two operands of one sign and a result of the other; of a difference, operands of two signs.
      code.get(a.local);
      code.get(result.local);
      op(operator === 'negate' ? 'and' : 'xor');
      if (operator !== 'negate') {
        code.get(b!.local).get((operator === '+' ? result : a).local);
        op('xor', 'and');
      }
      values.constant(type, BigInt(width - 1));
      op('shr_u');
      values.convert(type, 'i32');
      code.i32(1).op('i32.and');
      return;
    }
    const half = 10n ** BigInt(width) / 2n;
    if (operator === 'negate') values.constant(type, 0n);
    code.get(a.local);
    values.signed(type, width);
    if (operator === 'negate') op('sub');
    if (b) {
      code.get(b.local);
      values.signed(type, width);
      op(operator === '+' ? 'add' : 'sub');
    }
    if (carry) {
      code.get(carry.local);
      op(operator === '+' ? 'add' : 'sub');
    }
    // −half to half − 1 do, so half above that is 0 to 10^w − 1.
    values.constant(type, half);
    op('add');
    values.constant(type, half * 2n);
    op('ge_u');
  }

  private halfCarry(
    type: ValueType,
    { a, b, carry, into }: { a: Local; b: Local | undefined; carry: Local | undefined; into: number },
  ): void {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator } = operation;
    const part = BigInt(values.radix) ** BigInt(into);
    const lower = (each: Local): void => {
      code.get(each.local);
      values.constant(type, values.radix === 2 ? part - 1n : part);
      values.op(type, values.radix === 2 ? 'and' : 'rem_u');
    };
    lower(a);
    if (operator === 'negate') {
      values.constant(type, 0n);
      values.op(type, 'ne');
      return;
    }
    const name = operator === '+' ? 'add' : 'sub';
    lower(b!);
    values.op(type, name);
    if (carry) {
      code.get(carry.local);
      values.op(type, name);
    }
    values.constant(type, operator === '+' ? part : 0n);
    values.op(type, operator === '+' ? 'ge_u' : 'lt_s');
  }

  /** Shifts and rotates of up to 32 bits, worked out in 64. */
  private shifted(): Parts {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, width } = operation;
    if (values.radix === 10 || width > 32 || !operation.b || operation.b.width > 32) throw new Unsupported();
    const a = this.holding('i64', () => values.emit(operation.a, 'i64'));
    const count = this.holding('i64', () => values.emit(operation.b!, 'i64'));
    const carry = operation.carry && this.holding('i64', () => values.emit(operation.carry!, 'i64'));
    /** Shifts by more than 63 are no different from one by 63. */
    const few = this.holding('i64', () => void code.get(count.local).i64(63n).get(count.local).i64(63n).op('i64.lt_u', 'select'));
    const whole = this.holding('i64', () => this.shiftedWhole({ a, count, few, carry }));
    const result = this.holding('i64', () => {
      code.get(whole.local);
      values.cut('i64', width);
    });
    const flag = (effect: FlagEffect): boolean => {
      if (this.byResult(effect, result, { a, b: count })) return true;
      const { rule } = effect;
      if (rule === 'half-carry') return effect.into >= width && (code.i32(0), true);
      if (rule === 'carry') this.carryOut({ a, count, few, carry, whole, result });
      else if (operator === '<<') {
        // The sign stays the same at every step if the top bits that go by are all equal.
        const top = (): void =>
          void code
            .get(a.local)
            .i64(BigInt(64 - width))
            .op('i64.shl');
        top();
        code.get(few.local).op('i64.shl').get(few.local).op('i64.shr_s');
        top();
        code.op('i64.ne');
      } else code.i32(0);
      // A shift by 0 leaves carry and overflow alone.
      code.get(values.context.places.flags[effect.flag]!).get(count.local).op('i64.eqz', 'i32.eqz', 'select');
      return true;
    };
    return { result, flag, unless: count.local };
  }

  private shiftedWhole({ a, count, few, carry }: { a: Local; count: Local; few: Local; carry: Local | undefined }): void {
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, width } = operation;
    if (operator === '<<') return void code.get(a.local).get(few.local).op('i64.shl');
    if (operator === '>>') return void code.get(a.local).get(few.local).op('i64.shr_u');
    values.turned(operator as 'asr' | 'rotl' | 'rotr', { value: a.local, count: count.local, carry: carry?.local, width });
  }

  /** The last bit out, on the stack as an i32. */
  private carryOut(parts: { a: Local; count: Local; few: Local; carry: Local | undefined; whole: Local; result: Local }): void {
    const { a, count, few, carry, whole, result } = parts;
    const { values, operation } = this;
    const { code } = values.context;
    const { operator, width } = operation;
    const bit = (place: number): void => void code.i64(BigInt(place)).op('i64.shr_u', 'i32.wrap_i64').i32(1).op('i32.and');
    switch (operator) {
      case '<<':
        // Further than the width nothing is left of it.
        code.get(whole.local);
        bit(width);
        code.get(count.local).i64(BigInt(width)).op('i64.le_u', 'i32.and');
        return;
      case '>>':
        code.get(a.local).get(few.local).i64(1n).op('i64.sub', 'i64.shr_u');
        bit(0);
        return;
      case 'asr':
        code.get(a.local);
        values.signed('i64', width);
        code.get(few.local).i64(1n).op('i64.sub', 'i64.shr_s');
        bit(0);
        return;
      default:
        if (carry) {
          code.get(whole.local);
          return bit(width);
        }
        code.get(result.local);
        return bit(operator === 'rotl' ? 0 : width - 1);
    }
  }

  free(): void {
    for (const { local, type } of this.locals) this.values.context.code.release(type, local);
  }
}

/** Operations on unsigned values of 1 to 32 bits, and the stock flag rules of the machine model, section 4. */
import type { FlagRule, Operation } from '../notation/tree';
import { POWER, signedReading } from '../text/number';
import type { Worked } from './report';

/** Cuts to `width` bits; exact for |value| < 2^53. */
export const cut = (value: number, width: number): number => (width === 32 ? value >>> 0 : (value & ((1 << width) - 1)) >>> 0);

/** The result before it is cut. Shifts by more than the width give 0; operands are unsigned. */
export function exactResult(operator: Operation['operator'], a: number, b: number, carry: number, width: number): number {
  switch (operator) {
    case '+':
      return a + b + carry;
    case '-':
      return a - b - carry;
    case '&':
      return (a & b) >>> 0;
    case '|':
      return (a | b) >>> 0;
    case '^':
      return (a ^ b) >>> 0;
    case '~':
      return cut(~a, width);
    case 'negate':
      return -a;
    case '<<':
      return b > width ? 0 : shiftLeft(a, b, width);
    case '>>':
      return Math.floor(a / POWER[Math.min(b, 64)]!);
    case 'value':
      return a;
    default:
      return operator satisfies never;
  }
}

/** Keeps one digit above the width, the last one that went out. */
function shiftLeft(a: number, b: number, width: number): number {
  let value = a;
  for (let step = 0; step < b; step++) value = (value * 2) % POWER[width + 1]!;
  return value;
}

export function work(operator: Operation['operator'], a: number, b: number | undefined, carry: number | undefined, width: number): Worked {
  const exact = exactResult(operator, a, b ?? 0, carry ?? 0, width);
  return { operator, a, b, carry, exact, result: cut(exact, width), width };
}

/** The flag after the operation; undefined where the rule leaves it alone (a shift by 0 and carry). */
export function flagAfter(rule: FlagRule, noBorrow: boolean, worked: Worked): number | undefined {
  switch (rule) {
    case 'zero':
      return worked.result === 0 ? 1 : 0;
    case 'negative':
      return worked.result >= POWER[worked.width - 1]! ? 1 : 0;
    case 'carry':
      return carryAfter(noBorrow, worked);
    case 'overflow':
      return overflowAfter(worked);
    default:
      return rule satisfies never;
  }
}

function carryAfter(noBorrow: boolean, { operator, a, b = 0, exact, width }: Worked): number | undefined {
  switch (operator) {
    case '+':
      return exact >= POWER[width]! ? 1 : 0;
    case '-':
    case 'negate':
      return exact < 0 !== noBorrow ? 1 : 0;
    case '<<':
      return b === 0 ? undefined : b > width ? 0 : exact >= POWER[width]! ? 1 : 0;
    case '>>':
      return b === 0 ? undefined : Math.floor(a / POWER[Math.min(b - 1, 64)]!) % 2;
    default:
      return undefined;
  }
}

function overflowAfter({ operator, a, b = 0, carry = 0, width }: Worked): number | undefined {
  const outside = (value: number): number => (value < -POWER[width - 1]! || value >= POWER[width - 1]! ? 1 : 0);
  const [signedA, signedB] = [signedReading(a, width), signedReading(b, width)];
  switch (operator) {
    case '+':
      return outside(signedA + signedB + carry);
    case '-':
      return outside(signedA - signedB - carry);
    case 'negate':
      return outside(-signedA);
    case '<<':
      return b === 0 ? undefined : signChanges(a, b, width);
    case '>>':
      return b === 0 ? undefined : 0;
    default:
      return undefined;
  }
}

/** 1 where the sign changed at any step of a left shift. */
function signChanges(a: number, b: number, width: number): number {
  let value = a;
  for (let step = 0; step < Math.min(b, width + 1); step++) {
    const shifted = (value * 2) % POWER[width]!;
    if (shifted >= POWER[width - 1]! !== value >= POWER[width - 1]!) return 1;
    value = shifted;
  }
  return 0;
}

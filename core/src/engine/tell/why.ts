/** Why a flag is as it is: one sentence, and the operation as worked columns where there was one. */
import { binaryDigits, power, shownDigits, signedReading, unitOf, type Numerals } from '../../text/number';
import { addressText, instructionAt } from './names';
import { flagAfter, work } from '../meaning/arithmetic';
import type { FlagChange, TickReport, Worked } from '../meaning/report';
import type { Flag, Machine } from '../../machine/model/machine';
import { TICK_BY_HAND } from '../meaning/state';
import { capital, count, type Telling } from './telling';
import { itemAt } from '../../text/itemAt';

/** The digits of the rows are bits, beside them in the machine's base; or decimal digits, with nothing beside them. */
export interface FlagReason {
  readonly sentence: string;
  readonly columns: readonly {
    readonly sign: string;
    readonly binary: string;
    readonly shown: string;
    readonly decimal: string;
    readonly role: 'carry' | 'operand' | 'result';
  }[];
}

/** Why a flag has its value, with worked columns where an operation set it; `found` is the tick that did. */
export function explainFlag(
  telling: Telling,
  flag: number,
  why: { readonly report: TickReport; readonly change: FlagChange } | undefined,
): FlagReason {
  const { machine, program, state } = telling;
  const { name: flagName } = itemAt(machine.flags, flag);
  const { line } = itemAt(machine.flags, flag);
  if (line)
    return {
      sentence: `${flagName} is a line of ${itemAt(machine.devices, line.device).name}: it is read whenever it is asked for.`,
      columns: [],
    };
  if (state.flagTicks[flag] === TICK_BY_HAND) return { sentence: `${flagName} = ${state.flags[flag]}: set by hand.`, columns: [] };
  if (!why) return { sentence: `${flagName} is ${state.flags[flag]} since the start: nothing has set it yet.`, columns: [] };
  const { report, change } = why;
  const by = `${flagName} = ${change.after}: set by ${instructionAt(machine, program, state, report.here) ?? 'an instruction'} at ${addressText(machine, report.here)}, tick ${report.tick}`;
  if (!change.worked || !change.rule) return { sentence: `${by}, which gave it this value.`, columns: [] };
  return { sentence: `${by}. ${capital(reasonFor(change.rule, change.worked, change))}.`, columns: columnsOf(machine, change.worked) };
}

/** An addition or subtraction after which a flag is 1 by its rule, as worked columns; undefined where none of a few does so. */
export function exampleOfRule({ radix, base, wordWidth: width }: Machine, { rule, noBorrow, into, odd }: Flag): FlagReason | undefined {
  if (rule === undefined || rule === 'formula') return undefined;
  const size = power(radix, width);
  const half = Math.floor(size / 2);
  const values = [half + 1, size - 3, 7, half - 2, 5, 1, 0].filter((each) => each >= 0 && each < size);
  for (const operator of ['+', '-'] as const)
    for (const a of values)
      for (const b of values) {
        const worked = work(operator, { a, b, width, radix });
        if (flagAfter({ rule, noBorrow, into, odd }, worked) !== 1) continue;
        const change = { flag: 0, before: 0, after: 1, rule, noBorrow, worked };
        return { sentence: `1, for ${reasonFor(rule, worked, change)}.`, columns: columnsOf({ radix, base }, worked) };
      }
  return undefined;
}

const isShift = (operator: Worked['operator']): boolean => ['<<', '>>', 'asr', 'rotl', 'rotr'].includes(operator);

function reasonFor(rule: NonNullable<FlagChange['rule']>, work: Worked, { noBorrow, after }: FlagChange): string {
  const { result, width, exact, operator, radix } = work;
  const signed = signedReading(result, width, radix);
  const unit = unitOf(radix);
  switch (rule) {
    case 'zero':
      return result === 0 ? `all ${width} ${unit} of the result are 0` : 'the result is not 0';
    case 'negative': {
      const shown = String(signed).replace('-', '−');
      const reads =
        radix === 10 ? `read as signed, the result is ${shown}` : `the top bit is ${signed < 0 ? 1 : 0}: read as signed, ${shown}`;
      return `${reads}${wrongSign(work)}`;
    }
    case 'carry':
      if (operator === '-' || operator === 'negate')
        return `${exact < 0 ? 'a borrow was needed' : 'no borrow was needed'}${noBorrow ? ', and this machine sets the flag when none was' : ''}`;
      if (isShift(operator)) {
        const digit = radix === 10 ? (after === 1 ? 'the last digit out was not 0:' : 'the last digit out was 0:') : 'it is the last bit';
        return `${digit} ${operator.startsWith('rot') ? 'that went round' : 'shifted out'}`.replace(/: .*/, '');
      }
      return exact >= power(radix, width) ? 'a one was carried out of the top' : 'nothing was carried out of the top';
    case 'overflow':
      return overflowReason(work);
    case 'half-carry':
      return `${operator === '+' ? 'a carry' : 'a borrow'} ${after === 1 ? 'crossed' : 'did not cross'} ${radix === 10 ? 'out of the lowest digit' : 'from the lower half'}`;
    case 'parity':
      return `the result has ${count(result.toString(2).replaceAll('0', '').length, 'one bit')}`;
    case 'formula':
      return `its own rule over the operands and the result ${after === 1 ? 'holds' : 'does not hold'}`;
    default:
      return rule satisfies never;
  }
}

/** Where a signed overflow has made the sign another one than the exact result has. */
function wrongSign(worked: Worked): string {
  if (!['+', '-', 'negate'].includes(worked.operator)) return '';
  const { exact, fits } = signedExact(worked);
  return fits ? '' : `; a signed overflow made this sign wrong, for exactly it is ${String(exact).replace('-', '−')}`;
}

/** The exact result of the operands read as signed, and whether it fits. */
function signedExact({ operator, a, b = 0, carry = 0, width, radix }: Worked): { x: number; y: number; exact: number; fits: boolean } {
  const [x, y] = [signedReading(a, width, radix), signedReading(b, width, radix)];
  const exact = operator === '+' ? x + y + carry : operator === 'negate' ? -x : x - y - carry;
  return { x, y, exact, fits: exact * 2 >= -power(radix, width) && exact * 2 < power(radix, width) };
}

function overflowReason(worked: Worked): string {
  const { operator, carry, width, radix } = worked;
  if (isShift(operator) && operator !== '<<') return 'a right shift or a rotate cannot overflow';
  if (operator === '<<') return 'it tells whether the sign changed while shifting';
  const { x, y, exact, fits } = signedExact(worked);
  const written = operator === 'negate' ? `−(${x})` : `${x} ${operator} ${y}${carry ? ` ${operator} 1` : ''}`;
  return `read as signed, ${written} = ${exact}, which ${fits ? 'fits' : 'does not fit'} ${width} ${unitOf(radix)}`.replaceAll('-', '−');
}

function columnsOf(numerals: Numerals, { operator, a, b, carry, result, width, radix, widths }: Worked): FlagReason['columns'] {
  const row = (sign: string, value: number, role: 'operand' | 'result', own = width) => ({
    sign,
    binary: radix === 10 ? shownDigits(value, own, { radix, base: 10 }) : binaryDigits(value, own),
    shown: radix === 10 || numerals.base === 10 || numerals.base === 2 ? '' : shownDigits(value, own, numerals),
    decimal: radix === 10 ? '' : String(value),
    role,
  });
  const shift = isShift(operator);
  const sign = operator === 'negate' ? '−' : operator === '~' ? '~' : '';
  const second =
    b === undefined
      ? []
      : shift
        ? [{ ...row(operator, b, 'operand'), binary: `by ${b}`, shown: '', decimal: '' }]
        : [row(operator === '-' ? '−' : operator, b, 'operand', widths[1])];
  const carried = carry === undefined || shift ? [] : [row(operator === '-' ? '−' : operator, carry, 'operand')];
  return [
    ...carries({ operator, a, b, carry, width, radix }),
    row(sign, a, 'operand', widths[0]),
    ...second,
    ...carried,
    row('', result, 'result'),
  ];
}

/** The carries (or borrows) into each column, and out of the top at the left. */
function carries({
  operator,
  a,
  b = 0,
  carry: first = 0,
  width,
  radix,
}: Pick<Worked, 'operator' | 'a' | 'b' | 'carry' | 'width' | 'radix'>): FlagReason['columns'] {
  if (operator !== '+' && operator !== '-') return [];
  let carry = first;
  let digits = carry ? '1' : ' ';
  for (let at = 0; at < width; at++) {
    const [x, y] = [a, b].map((each) => Math.floor(each / power(radix, at)) % radix) as [number, number];
    carry = operator === '+' ? (x + y + carry >= radix ? 1 : 0) : x - y - carry < 0 ? 1 : 0;
    digits = (carry ? '1' : ' ') + digits;
  }
  const grouped = radix === 10 ? digits.slice(1) : digits.slice(1).replace(/(?!^)(?=(?:.{4})+$)/g, ' ');
  const word = operator === '+' ? 'carries' : 'borrows';
  return [{ sign: itemAt(digits, 0), binary: grouped, shown: word, decimal: '', role: 'carry' }];
}

/** Numbers as a teacher says them to a room: digit by digit, with the base before them. */
import { BASE_WORDS, type Numerals } from './number';

const DIGITS = ['zero', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine'];

/** “hex three B” for 3B, “binary one zero one” for 101; decimal numbers are said as people say them and stay digits. */
export function spokenDigits(digits: string, { radix, base }: Numerals): string {
  if (radix === 10 || base === 10) return digits;
  return [BASE_WORDS[base], ...[...digits].map((each) => DIGITS[Number(each)] ?? each)].join(' ');
}

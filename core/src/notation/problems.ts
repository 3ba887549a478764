/** What can be wrong with a tick, as data, and the sentence for each. */
import type { Diagnostic } from '../text/diagnostic';
import { numberRemedy } from '../text/number';

export type NotationProblem = Diagnostic &
  (
    | { readonly code: 'tick-expected'; readonly expected: string; readonly found: string }
    | { readonly code: 'habit'; readonly written: string; readonly here: string }
    | { readonly code: 'unknown-service'; readonly name: string; readonly services: readonly string[]; readonly nearest?: string }
    | { readonly code: 'bad-number'; readonly text: string; readonly base?: number }
    | { readonly code: 'too-deep' }
    | { readonly code: 'one-value'; readonly name: string }
    | { readonly code: 'formula-needs-b'; readonly flag: string }
    | { readonly code: 'unknown-name'; readonly name: string; readonly nearest?: string }
    | { readonly code: 'unknown-part'; readonly register: string; readonly part: string; readonly parts: readonly string[] }
    | { readonly code: 'not-a-value'; readonly name: string; readonly is: string }
    | { readonly code: 'not-indexed'; readonly name: string; readonly banks: boolean }
    | { readonly code: 'not-a-target'; readonly text: string }
    | { readonly code: 'wrong-function'; readonly name: string; readonly written: readonly string[] }
    | { readonly code: 'too-wide'; readonly width: number; readonly most: number; readonly unit: string }
    | { readonly code: 'unknown-flag'; readonly name: string; readonly flags: readonly string[]; readonly nearest?: string }
    | { readonly code: 'port-outside'; readonly name: string; readonly port: number; readonly count: number }
    | { readonly code: 'too-wide-for-flags'; readonly width: number; readonly most: number; readonly unit: string }
    | { readonly code: 'too-wide-to-turn'; readonly name: string; readonly width: number; readonly most: number; readonly unit: string }
    | { readonly code: 'slice-outside'; readonly name: string; readonly width: number; readonly unit: string }
    | {
        readonly code: 'literal-too-wide';
        readonly value: number;
        readonly width: number;
        readonly unit: string;
        readonly greatest: number;
      }
    | { readonly code: 'value-cut'; readonly width: number; readonly into: number; readonly unit: string }
    | { readonly code: 'flags-need-one-operation'; readonly count: number }
    | { readonly code: 'flag-without-rule'; readonly flag: string }
    | { readonly code: 'rule-without-meaning'; readonly flag: string; readonly rule: string; readonly operator: string }
    | { readonly code: 'two-writers'; readonly place: string }
    | { readonly code: 'must-stand-alone'; readonly word: string }
    | { readonly code: 'bits-on-decimal'; readonly operator: string }
    | { readonly code: 'banks-differ'; readonly space: string; readonly banks: number }
    | { readonly code: 'element-outside'; readonly index: number; readonly count: number }
    | { readonly code: 'cause-outside-enter' }
    | { readonly code: 'comparison-beside-bits'; readonly operator: string }
    | { readonly code: 'no-condition'; readonly operator: string; readonly text: string }
    | { readonly code: 'literal-width'; readonly text: string; readonly width: number; readonly before: number }
    | { readonly code: 'literal-without-width'; readonly text: string }
    | { readonly code: 'not-a-condition-field'; readonly name: string }
    | { readonly code: 'not-of-kind'; readonly name: string; readonly needed: string }
  );

/** The sentence of a problem: what is wrong, and what to do. */
export function explainNotation(problem: NotationProblem): string {
  switch (problem.code) {
    case 'tick-expected':
      return `Here ${problem.expected} is expected, but ${problem.found} stands there.`;
    case 'habit':
      return `“${problem.written}” is written “${problem.here}” here.`;
    case 'unknown-service':
      return `There is no service “${problem.name}”. ${problem.nearest ? `Did you mean ${problem.nearest}?` : `There are: ${problem.services.join(', ')}.`}`;
    case 'bad-number':
      return `“${problem.text}” is no number. ${numberRemedy(problem.base)}`;
    case 'one-value':
      return `“${problem.name}” is one value, which has no cells. Write ${problem.name} without brackets.`;
    case 'formula-needs-b':
      return `The formula of flag ${problem.flag} needs b, but the operation of this tick has one operand only. Take ${problem.flag} out of “; flags …”, or give it a value in this tick.`;
    case 'too-deep':
      return 'This tick is nested too deeply. Split it into several ticks.';
    case 'unknown-name':
      return `This machine has no “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : ' Registers, flags, memory and operand fields can be named here.'}`;
    case 'unknown-part':
      return `${problem.register} has no part “${problem.part}”. ${problem.parts.length ? `Its parts: ${problem.parts.join(', ')}.` : 'Name its parts under registers, or write a slice such as [7:0].'}`;
    case 'not-a-value':
      return `${problem.name} is ${problem.is} and has no value by itself.`;
    case 'not-indexed':
      return problem.banks
        ? `${problem.name}[…, …] names a cell of a bank, and ${problem.name} is no memory with banks.`
        : `${problem.name}[…] names something by its number, and ${problem.name} is neither a memory nor an array. Digits of it are named by written numbers: ${problem.name}[0].`;
    case 'not-a-target':
      return `Nothing can be put into ${problem.text}. To the left of the arrow stands a register, a flag or a memory cell.`;
    case 'wrong-function':
      return `${problem.name}(…) cannot be meant like this. There are: ${problem.written.join(', ')}.`;
    case 'too-wide':
      return `This value would have ${problem.width} ${problem.unit}; at most ${problem.most} are possible.`;
    case 'unknown-flag':
      return `There is no flag “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : problem.flags.length > 0 ? ` There is: ${problem.flags.join(', ')}.` : ' This machine has no flags: declare it under flags.'}`;
    case 'port-outside':
      return `There is no ${problem.name}[${problem.port}]: there are the ports 0 to ${problem.count - 1}.`;
    case 'too-wide-for-flags':
      return `Flags are set from values of at most ${problem.most} ${problem.unit}; this one has ${problem.width}.`;
    case 'too-wide-to-turn':
      return `${problem.name} takes values of at most ${problem.most} ${problem.unit}; this one has ${problem.width}.`;
    case 'slice-outside':
      return `${problem.name} has the ${problem.unit} ${problem.width - 1} to 0; a slice is written high to low, inside these.`;
    case 'literal-too-wide':
      return `${problem.value} does not fit into ${problem.width} ${problem.unit} (0 to ${problem.greatest}), the width of what it stands beside. Join zeros to the other side to widen it, as join(0b0000, X).`;
    case 'value-cut':
      return `A value of ${problem.width} ${problem.unit} goes into ${problem.into}; the upper ones are dropped. Write low(…) to show that it is meant.`;
    case 'flags-need-one-operation':
      return problem.count === 0
        ? 'Flags are named here, but nothing in this tick computes a result.'
        : 'Flags are named for a tick with several results. Put the other transfers into a tick of their own.';
    case 'flag-without-rule':
      return `${problem.flag} has no rule, so it cannot be set from a result. Give it a value instead: ${problem.flag} <- 0.`;
    case 'rule-without-meaning':
      return `${problem.flag} follows the ${problem.rule} rule, which has no meaning for ${problem.operator}. Leave it out, or give it a value: ${problem.flag} <- 0.`;
    case 'two-writers':
      return `${problem.place} is written twice in one tick. All transfers of a tick happen at once, so use two ticks.`;
    case 'must-stand-alone':
      return `“${problem.word}” stands alone in its tick.`;
    case 'bits-on-decimal':
      return `“${problem.operator}” works on bits; this machine has decimal digits.`;
    case 'banks-differ':
      return problem.banks > 1
        ? `${problem.space} has ${problem.banks} banks: write ${problem.space}[bank, cell].`
        : `${problem.space} has no banks: write ${problem.space}[cell].`;
    case 'element-outside':
      return `There are ${problem.count} of these, numbered from 0; ${problem.index} is none of them.`;
    case 'cause-outside-enter':
      return '“cause” is known only where a trap is entered: in the ticks under traps, enter.';
    case 'comparison-beside-bits':
      return `“${problem.operator}” works on bits and binds tighter than a comparison. Between conditions write and, or; round bits write brackets.`;
    case 'no-condition':
      return `“${problem.operator}” stands between conditions; ${problem.text} is none. Compare it, as ${problem.text} != 0.`;
    case 'literal-width':
      return `${problem.text} has ${problem.before} ${problem.before === 1 ? 'digit' : 'digits'} here; from language 2 on it has the ${problem.width} that it is written with.`;
    case 'literal-without-width':
      return `In a join a number is as wide as it is written: ${problem.text} says no width. Write it with a mark, as 0b00 or 0xF.`;
    case 'not-a-condition-field':
      return `“holds” stands behind a field of conditions; ${problem.name} is none. Declare it in the format, as “${problem.name} 3 condition”.`;
    case 'not-of-kind':
      return `${problem.name} is not ${problem.needed}.`;
    default:
      return problem satisfies never;
  }
}

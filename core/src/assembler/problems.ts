/** What can be wrong with a program's text, as data, and the sentence for each. */
import type { Diagnostic } from '../text/diagnostic';

export type AssemblyProblem = Diagnostic &
  (
    | { readonly code: 'source-too-long'; readonly length: number; readonly most: number }
    | { readonly code: 'quote-open'; readonly what: string }
    | { readonly code: 'unknown-escape'; readonly text: string }
    | { readonly code: 'line-starts-wrong'; readonly text: string }
    | { readonly code: 'unknown-operation'; readonly name: string; readonly nearest?: string }
    | { readonly code: 'operands-do-not-fit'; readonly mnemonic: string; readonly forms: readonly string[] }
    | { readonly code: 'value-expected'; readonly found: string }
    | { readonly code: 'left-over'; readonly text: string }
    | { readonly code: 'bad-number'; readonly text: string; readonly hex?: string }
    | { readonly code: 'unknown-name'; readonly name: string; readonly nearest?: string }
    | { readonly code: 'name-twice'; readonly name: string; readonly line: number }
    | { readonly code: 'name-is-operation'; readonly name: string }
    | { readonly code: 'constant-without-name' }
    | { readonly code: 'constant-circle'; readonly name: string }
    | { readonly code: 'not-yet-known'; readonly name: string; readonly directive: string }
    | {
        readonly code: 'value-out-of-range';
        readonly value: number;
        readonly least: number;
        readonly greatest: number;
        readonly what: string;
      }
    | { readonly code: 'address-outside'; readonly address: number; readonly cells: number; readonly space: string }
    | { readonly code: 'cells-overlap'; readonly address: number; readonly line: number }
    | { readonly code: 'nothing-to-run' }
    | { readonly code: 'name-is-register'; readonly name: string }
    | { readonly code: 'name-with-dot'; readonly name: string }
    | { readonly code: 'unknown-space'; readonly name: string; readonly spaces: readonly string[] }
    | { readonly code: 'instruction-outside'; readonly space: string; readonly program: string }
    | { readonly code: 'cells-reserved'; readonly from: number; readonly to: number }
    | { readonly code: 'not-a-multiple'; readonly value: number; readonly of: number; readonly what: string }
    | {
        readonly code: 'other-page';
        readonly value: number;
        readonly least: number;
        readonly greatest: number;
        readonly what: string;
      }
  );

type Both = (value: number) => string;

/** Decimal, and hexadecimal where digits are bits. */
const bothOf =
  (radix: number): Both =>
  (value) =>
    radix === 10 || value < 10 ? String(value) : `${value} (0x${value.toString(16).toUpperCase()})`;

/** Words problems for a machine of that radix. */
export const explainAssembly =
  (radix: number) =>
  (problem: AssemblyProblem): string =>
    explain(problem, bothOf(radix));

function explain(problem: AssemblyProblem, both: Both): string {
  switch (problem.code) {
    case 'source-too-long':
      return `This program has ${problem.length} characters; at most ${problem.most} can be assembled.`;
    case 'quote-open':
      return `The ${problem.what} is not closed. Put the same quote mark behind it.`;
    case 'unknown-escape':
      return `“${problem.text}” is no escape. There are \\n, \\t, \\r, \\0, \\\\, \\' and \\".`;
    case 'line-starts-wrong':
      return `A line cannot start with “${problem.text}”. It starts with a label, an operation or a directive such as .cells.`;
    case 'unknown-operation':
      return `This machine has no operation “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : ' If it is meant as a label, put a colon behind it.'}`;
    case 'operands-do-not-fit':
      return `${problem.mnemonic} is not written like this. It is written: ${problem.forms.join('  or  ')}.`;
    case 'value-expected':
      return `A number, a character or a name is expected, but ${problem.found}.`;
    case 'left-over':
      return `“${problem.text}” is too much on this line. Put remarks behind a semicolon.`;
    case 'bad-number':
      return `“${problem.text}” is no decimal number.${problem.hex ? ` A hexadecimal number starts with 0x: ${problem.hex}.` : ' Write 58, 0x3A or 0b111010.'}`;
    case 'unknown-name':
      return `No line defines “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : ' Write it as a label before an instruction or a .cells line.'}`;
    case 'name-twice':
      return `“${problem.name}” is defined on line ${problem.line} already. Give one of them another name.`;
    case 'name-is-operation':
      return `“${problem.name}” is an operation of this machine, in capital or small letters, and cannot be a name. Choose another.`;
    case 'constant-without-name':
      return 'A name is missing before the “=”.';
    case 'constant-circle':
      return `“${problem.name}” is defined by itself, by way of other names. Give one of them a number.`;
    case 'not-yet-known':
      return `${problem.directive} needs a value that is known here; “${problem.name}” is only defined further down.`;
    case 'value-out-of-range':
      return `${both(problem.value)} does not fit ${problem.what}: ${problem.least} to ${both(problem.greatest)} do.`;
    case 'address-outside':
      return `This would lie at ${both(problem.address)}, past the end of ${problem.space}, which ends at ${both(problem.cells - 1)}.`;
    case 'cells-overlap':
      return `This lies over cell ${both(problem.address)}, which line ${problem.line} has filled already. Move one of them with .origin.`;
    case 'nothing-to-run':
      return 'There is no instruction to start with yet.';
    case 'name-is-register':
      return `“${problem.name}” is a register of this machine and cannot be a name. Choose another.`;
    case 'name-with-dot':
      return `“${problem.name}” has a dot. Names with dots belong to the machine; choose one without.`;
    case 'unknown-space':
      return `This machine has no memory “${problem.name}”. It has: ${problem.spaces.join(', ')}.`;
    case 'instruction-outside':
      return `Instructions lie in ${problem.program}, not in ${problem.space}. Write .space ${problem.program} before them.`;
    case 'cells-reserved':
      return `Cells ${both(problem.from)} to ${both(problem.to)} belong to the system program. Move this with .origin.`;
    case 'not-a-multiple':
      return `${both(problem.value)} does not fit ${problem.what}: only multiples of ${problem.of} can be encoded.`;
    case 'other-page':
      return `${both(problem.value)} is on another page: ${problem.what} reaches ${both(problem.least)} to ${both(problem.greatest)} from here.`;
    default:
      return problem satisfies never;
  }
}

/** What can be wrong with a program's text, as data, and the sentence for each. */
import type { Diagnostic } from '../text/diagnostic';
import { shownNumber, type Numerals } from '../text/number';
import { DIRECTIVE_NAMES } from './read/directives';

/** What is most likely wrong with operands that fit no form. */
export type ToldSlip =
  | { readonly kind: 'missing'; readonly mark: string; readonly side: 'behind' | 'before'; readonly beside: string }
  | { readonly kind: 'extra' | 'register'; readonly text: string }
  | { readonly kind: 'number'; readonly text: string; readonly written: string }
  | { readonly kind: 'unknown'; readonly text: string; readonly names: readonly string[]; readonly nearest: string | undefined }
  | { readonly kind: 'count'; readonly stand: number; readonly takes: readonly number[] };

export type AssemblyProblem = Diagnostic &
  (
    | { readonly code: 'source-too-long'; readonly length: number; readonly most: number }
    | { readonly code: 'quote-open'; readonly what: string }
    | { readonly code: 'unknown-escape'; readonly text: string }
    | { readonly code: 'line-starts-wrong' | 'remark-mark'; readonly text: string }
    | { readonly code: 'misspelt-name'; readonly name: string; readonly meant: string; readonly uses: number }
    | { readonly code: 'behind-label'; readonly name: string; readonly text: string }
    | { readonly code: 'unknown-operation'; readonly name: string; readonly nearest?: string }
    | {
        readonly code: 'unknown-ending';
        readonly name: string;
        readonly head: string;
        readonly ending: string;
        readonly names: readonly string[];
      }
    | { readonly code: 'two-on-a-line' | 'label-is-operation'; readonly name: string }
    | { readonly code: 'comma-missing'; readonly text: string }
    | { readonly code: 'lone-name'; readonly name: string; readonly nearest?: string }
    | { readonly code: 'comment-of-another'; readonly name: string; readonly routine: string }
    | { readonly code: 'operands-do-not-fit'; readonly mnemonic: string; readonly forms: readonly string[]; readonly slip?: ToldSlip }
    | { readonly code: 'value-expected'; readonly found: string }
    | { readonly code: 'left-over'; readonly text: string }
    | { readonly code: 'bad-number'; readonly text: string; readonly hex?: string }
    | { readonly code: 'unknown-name'; readonly name: string; readonly nearest?: string; readonly hex?: string }
    | { readonly code: 'name-twice'; readonly name: string; readonly line: number; readonly part?: string }
    | { readonly code: 'not-one-character'; readonly count: number }
    | { readonly code: 'bracket-open'; readonly found: string }
    | { readonly code: 'value-too-long' | 'value-too-large' | 'division-by-zero' | 'text-empty' }
    | { readonly code: 'too-many-cells'; readonly most: number }
    | { readonly code: 'end-inside-text'; readonly value: number }
    | { readonly code: 'operation-as-label' | 'operation-with-colon'; readonly name: string }
    | { readonly code: 'name-expected'; readonly directive: string }
    | { readonly code: 'routine-open'; readonly name: string; readonly line: number }
    | { readonly code: 'routine-without-end'; readonly name: string }
    | { readonly code: 'end-without-routine' | 'unknown-base' | 'unknown-case' }
    | { readonly code: 'start-twice'; readonly line: number }
    | { readonly code: 'unknown-part'; readonly name: string; readonly names: readonly string[] }
    | { readonly code: 'declaration-wrong'; readonly way: string; readonly bases: readonly string[] }
    | { readonly code: 'declared-nowhere'; readonly name: string }
    | { readonly code: 'aligned'; readonly of: number; readonly from: number; readonly to: number }
    | { readonly code: 'two-bases'; readonly text: string; readonly value: number; readonly other: number; readonly base: number }
    | { readonly code: 'never-used'; readonly name: string }
    | { readonly code: 'text-runs-on'; readonly name: string; readonly end: number }
    | { readonly code: 'bare-target' | 'jump-outside'; readonly address: number; readonly label?: string; readonly call: boolean }
    | { readonly code: 'jump-into-middle' | 'jump-into-data'; readonly address: number; readonly line: number; readonly call: boolean }
    | { readonly code: 'runs-into-data'; readonly line: number; readonly name?: string; readonly room: boolean }
    | { readonly code: 'runs-past-end' | 'no-halt' }
    | { readonly code: 'never-reached'; readonly lines: number }
    | { readonly code: 'writes-code'; readonly address: number; readonly line: number }
    | { readonly code: 'service-not-asked'; readonly register: string; readonly service: string }
    | { readonly code: 'service-not-prepared'; readonly register: string }
    | { readonly code: 'link-lost'; readonly register: string; readonly line: number }
    | { readonly code: 'result-lost'; readonly register: string; readonly line: number; readonly service: string }
    | { readonly code: 'falls-into-routine'; readonly name: string; readonly line: number }
    | { readonly code: 'name-is-operation'; readonly name: string }
    | { readonly code: 'constant-without-name' }
    | { readonly code: 'constant-circle' | 'constant-chain'; readonly name: string }
    | { readonly code: 'too-many-parts'; readonly most: number }
    | { readonly code: 'look-alike'; readonly text: string; readonly what: string; readonly plain: string }
    | { readonly code: 'not-yet-known'; readonly name: string; readonly directive: string }
    | {
        readonly code: 'value-out-of-range';
        readonly value: number;
        readonly least: number;
        readonly greatest: number;
        readonly what: string;
      }
    | { readonly code: 'address-outside'; readonly address: number; readonly cells: number; readonly space: string }
    | { readonly code: 'cells-overlap'; readonly address: number; readonly line: number; readonly part?: string }
    | { readonly code: 'nothing-to-run' }
    | { readonly code: 'name-is-register' | 'register-as-value'; readonly name: string }
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

/** Decimal, and in the machine's base where digits are bits. */
const bothOf =
  (numerals: Numerals): Both =>
  (value) =>
    numerals.radix === 10 || numerals.base === 10 || (value < 10 && value < numerals.base)
      ? String(value)
      : `${value} (${value < 0 ? '−' : ''}${shownNumber(Math.abs(value), 1, numerals)})`;

/** Words problems for a machine with those numerals. */
export const explainAssembly =
  (numerals: Numerals) =>
  (problem: AssemblyProblem): string =>
    explain(problem, bothOf(numerals));

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
    case 'misspelt-name':
      return `Nothing uses “${problem.name}”, but “${problem.meant}” is used ${problem.uses} times and no line defines it. Did you mean ${problem.meant}?`;
    case 'behind-label':
      return `Behind the label “${problem.name}” stands an operation or a directive, not “${problem.text}”.`;
    case 'remark-mark':
      return `A remark begins with a semicolon here, not with “${problem.text}”.`;
    case 'unknown-operation':
      if (problem.name.startsWith('.'))
        return `There is no directive “${problem.name}”. ${problem.nearest ? `Did you mean ${problem.nearest}?` : `There are: ${DIRECTIVE_NAMES.join(', ')}.`}`;
      return `This machine has no operation “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : ' If it is meant as a label, put a colon behind it.'}`;
    case 'unknown-ending':
      return `${problem.head} cannot end with “${problem.ending}”: ${problem.names.join(', ')} can stand there.`;
    case 'two-on-a-line':
      return `“${problem.name}” begins a second instruction. Each stands on a line of its own.`;
    case 'label-is-operation':
      return `“${problem.name}” is an operation of this machine. As a label it needs a colon; better give it another name.`;
    case 'comma-missing':
      return `A comma is missing before ${problem.text}.`;
    case 'lone-name':
      return `“${problem.name}” is no operation of this machine, and nothing uses it as a name.${problem.nearest ? ` Did you mean ${problem.nearest}?` : ''} If it is meant as a label, put a colon behind it.`;
    case 'comment-of-another':
      return `This comment names ${problem.name}, and stands at ${problem.routine}. Was it copied from there?`;
    case 'operands-do-not-fit':
      return `${problem.slip ? slipText(problem.slip, problem.mnemonic) : `${problem.mnemonic} is not written like this.`} It is written: ${problem.forms.join('  or  ')}.`;
    case 'value-expected':
      return `A number, a character or a name is expected, but ${problem.found}.`;
    case 'left-over':
      return `“${problem.text}” is too much on this line. Put remarks behind a semicolon.`;
    case 'bad-number':
      if (problem.hex?.startsWith('0d'))
        return `“${problem.text}” has a digit that the base of this line lacks. A decimal number starts with 0d: ${problem.hex}.`;
      return `“${problem.text}” is no number here.${problem.hex ? ` ${problem.hex.startsWith('0o') ? 'An octal number starts with 0o' : 'A hexadecimal number starts with 0x'}: ${problem.hex}.` : ' Write 58, 0x3A or 0b111010.'}`;
    case 'unknown-name':
      return `No line defines “${problem.name}”.${problem.nearest ? ` Did you mean ${problem.nearest}?` : problem.hex ? (problem.hex.startsWith('0x') ? ` A hexadecimal number starts with 0x: ${problem.hex}.` : ` A number begins with a digit: ${problem.hex}.`) : ' Write it as a label before an instruction or a .cells line.'}`;
    case 'name-twice':
      return `“${problem.name}” is defined ${problem.part === undefined ? '' : `in “${problem.part}” `}on line ${problem.line} already. Give one of them another name.`;
    case 'name-is-operation':
      return `“${problem.name}” is an operation of this machine, not a value. No line defines a name that is written so.`;
    case 'constant-without-name':
      return 'A name is missing before the “=”.';
    case 'look-alike':
      return `${problem.what}${problem.plain === '' ? ' Delete it.' : ` Write ${problem.plain}`}`;
    case 'too-many-parts':
      return `A program takes in at most ${problem.most} parts. Put some of them together.`;
    case 'constant-chain':
      return `“${problem.name}” stands at the end of too many names that each stand for the next. Give one of them its value.`;
    case 'constant-circle':
      return `“${problem.name}” is defined by itself, by way of other names. Give one of them a number.`;
    case 'not-yet-known':
      return `${problem.directive} needs a value that is known here; “${problem.name}” is only defined further down.`;
    case 'value-out-of-range':
      return `${both(problem.value)} does not fit ${problem.what}: ${problem.least} to ${both(problem.greatest)} do.`;
    case 'address-outside':
      return `This would lie at ${both(problem.address)}, past the end of ${problem.space}, which ends at ${both(problem.cells - 1)}.`;
    case 'cells-overlap':
      return `This lies over cell ${both(problem.address)}, which line ${problem.line}${problem.part === undefined ? '' : ` of the part ${problem.part}`} has filled already. Move one of them with .origin.`;
    case 'nothing-to-run':
      return 'There is no instruction to start with yet.';
    case 'name-is-register':
      return `“${problem.name}” is a register of this machine and cannot be a name. Choose another.`;
    case 'register-as-value':
      return misplaced(problem.name);
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
    case 'too-many-cells':
      return `From here on this program would fill memory more than four times over (${problem.most} cells). What follows is left out.`;
    case 'not-one-character':
      return `One character is expected between these marks; there are ${problem.count}. A text stands in double quotes.`;
    case 'bracket-open':
      return `A closing bracket is expected, but ${problem.found}.`;
    case 'value-too-long':
      return 'This value has too many parts. Give parts of it names of their own.';
    case 'value-too-large':
      return 'This value is too large to be worked out.';
    case 'division-by-zero':
      return 'This divides by 0.';
    case 'text-empty':
      return 'This text has no character that could be marked as the last one.';
    case 'end-inside-text':
      return `The text has the character ${problem.value} inside, which tells where it ends. Use .cells for it.`;
    case 'operation-as-label':
      return `The label “${problem.name}” has the name of an operation, which is easily misread. Choose another.`;
    case 'operation-with-colon':
      return `“${problem.name}” is an operation of this machine; with a colon it is only a label, and nothing would be done here.`;
    case 'name-expected':
      return `${problem.directive} is followed by a name: ${problem.directive === '.include' ? '.include "averages"' : '.routine average'}.`;
    case 'routine-open':
      return `The routine ${problem.name} of line ${problem.line} has not ended yet. Write .end before this line.`;
    case 'routine-without-end':
      return `The routine ${problem.name} has no end. Write .end behind its last line.`;
    case 'end-without-routine':
      return 'No routine is open here that could end.';
    case 'unknown-base':
      return 'A base is 2, 8, 10 or 16.';
    case 'unknown-case':
      return 'Write .case exact, or .case same.';
    case 'start-twice':
      return `Line ${problem.line} says already where the program starts.`;
    case 'unknown-part':
      return `The course has no part “${problem.name}”.${problem.names.length > 0 ? ` It has: ${problem.names.join(', ')}.` : ' It has none yet.'}`;
    case 'declaration-wrong':
      return `Write .${problem.way} name, or .${problem.way} name = place; then a base (${problem.bases.join(', ')}) and a unit in quotes may follow.`;
    case 'declared-nowhere':
      return `“${problem.name}” is no label here. Write its place behind a “=”.`;
    case 'aligned':
      return `Instructions begin at multiples of ${problem.of}, so ${both(problem.from)} was passed over and this lies at ${both(problem.to)}.`;
    case 'two-bases':
      return `“${problem.text}” is read in base ${problem.base}: ${both(problem.value)}. Read the other way it would be ${both(problem.other)}. Mark it, as with 0x.`;
    case 'never-used':
      return `The name “${problem.name}” is never used.`;
    case 'text-runs-on':
      return `This text has no ${problem.end} at its end, so writing it runs on into “${problem.name}”.`;
    case 'bare-target':
      return `This ${problem.call ? 'call' : 'jump'} goes to the number ${both(problem.address)}. ${problem.label ? `That is ${problem.label} now; a` : 'A'} name moves along when lines are added.`;
    case 'jump-outside':
      return `This ${problem.call ? 'call' : 'jump'} goes to ${both(problem.address)}, where the program has nothing.`;
    case 'jump-into-middle':
      return `This ${problem.call ? 'call' : 'jump'} lands at ${both(problem.address)}, in the middle of the instruction on line ${problem.line}.`;
    case 'jump-into-data':
      return `This ${problem.call ? 'call' : 'jump'} lands at ${both(problem.address)}, in the data of line ${problem.line}.`;
    case 'runs-into-data':
      return `After this, execution runs on into ${problem.name ? `“${problem.name}”, ` : ''}the ${problem.room ? 'free cells' : 'data'} of line ${problem.line}. Is a halt or a jump missing?`;
    case 'runs-past-end':
      return 'After this, execution runs past the end of the program. Is a halt missing?';
    case 'no-halt':
      return 'No halt can be reached: this program never ends by itself.';
    case 'never-reached':
      return `${problem.lines > 1 ? `These ${problem.lines} instructions can` : 'This instruction can'} never be reached.`;
    case 'writes-code':
      return `This writes to ${both(problem.address)}, the instruction on line ${problem.line}.`;
    case 'service-not-asked':
      return `This puts the number of ${problem.service} into ${problem.register}, but no request follows.`;
    case 'service-not-prepared':
      return `This asks for a service, but nothing has put its number into ${problem.register}.`;
    case 'link-lost':
      return `This overwrites ${problem.register}, which line ${problem.line} still needs for the way back. Save it first.`;
    case 'result-lost':
      return `This overwrites ${problem.register} before what ${problem.service} on line ${problem.line} brought has been used.`;
    case 'falls-into-routine':
      return `After this, execution falls into ${problem.name} on line ${problem.line} without a call. Is a return or a halt missing?`;
    default:
      return problem satisfies never;
  }
}

const misplaced = (register: string): string => `“${register}” is a register, where a number or a name is expected.`;

/** Names that are told one by one; of more the first ones and the last. */
const MOST_NAMES = 9;

function slipText(slip: ToldSlip, mnemonic: string): string {
  switch (slip.kind) {
    case 'missing':
      return `“${slip.mark}” is missing ${slip.side} ${slip.beside}.`;
    case 'extra':
      return `“${slip.text}” does not belong here.`;
    case 'register':
      return misplaced(slip.text);
    case 'number':
      return `“${slip.text}” is no number here: it is written ${slip.written}.`;
    case 'unknown': {
      const { names } = slip;
      const told = names.length > MOST_NAMES ? [...names.slice(0, 3), '…', names.at(-1)!] : names;
      return slip.nearest === undefined
        ? `“${slip.text}” cannot stand here, but ${told.join(', ')} can.`
        : `There is no “${slip.text}” here. Did you mean ${slip.nearest}?`;
    }
    case 'count': {
      const takes = slip.takes.map(String).join(' or ');
      const operands = slip.takes.at(-1) === 1 ? 'operand' : 'operands';
      return `${mnemonic} takes ${takes === '0' ? 'no operand' : `${takes} ${operands}`}, and ${slip.stand === 0 ? 'none stands' : slip.stand === 1 ? 'one stands' : `${slip.stand} stand`} here.`;
    }
    default:
      return slip satisfies never;
  }
}

/** What can be wrong with a machine document, as data, and the sentence for each. */
import { explainNotation, type NotationProblem } from '../../notation/problems';
import type { Diagnostic } from '../../text/diagnostic';

/** Addresses that the encoding of a distance promises, and that its ticks reach. */
interface RelativeSlip {
  readonly field: string;
  readonly written: string;
  readonly wanted: number;
  readonly got: number;
}

export type DocumentProblem = Diagnostic &
  (
    | { readonly code: 'document-too-long'; readonly length: number; readonly most: number }
    | { readonly code: 'not-yaml' | 'slip'; readonly reason: string }
    | { readonly code: 'word-alone'; readonly size: string }
    | { readonly code: 'two-kinds-of-word' }
    | { readonly code: 'several-registers'; readonly name: string; readonly is: string }
    | { readonly code: 'yaml-alias' }
    | { readonly code: 'yaml-remark-in-value'; readonly remark: string }
    | { readonly code: 'wrong-shape'; readonly at: string; readonly reason: string }
    | { readonly code: 'unknown-key'; readonly key: string; readonly nearest?: string; readonly keys?: readonly string[] }
    | { readonly code: 'name-twice'; readonly name: string; readonly first: string }
    | { readonly code: 'name-reserved'; readonly name: string }
    | { readonly code: 'wrong-unit'; readonly unit: string }
    | { readonly code: 'no-such-part'; readonly what: string; readonly name: string; readonly nearest?: string }
    | { readonly code: 'only-with'; readonly key: string; readonly needs: string }
    | { readonly code: 'one-of'; readonly keys: readonly string[] }
    | { readonly code: 'no-base'; readonly name: string; readonly deep: boolean }
    | { readonly code: 'base-with-errors'; readonly name: string }
    | { readonly code: 'bad-part'; readonly text: string; readonly width: number; readonly unit: string }
    | { readonly code: 'bad-pair'; readonly text: string }
    | { readonly code: 'pair-of-itself'; readonly name: string; readonly text: string }
    | { readonly code: 'names-differ'; readonly name: string; readonly count: number; readonly names: number }
    | { readonly code: 'bad-view'; readonly text: string }
    | { readonly code: 'view-twice'; readonly name: string }
    | {
        readonly code: 'view-widths-differ';
        readonly one: string;
        readonly other: string;
        readonly width: number;
        readonly otherWidth: number;
        readonly unit: string;
      }
    | { readonly code: 'name-case'; readonly name: string; readonly other: string }
    | { readonly code: 'name-like-number'; readonly name: string; readonly number: string }
    | { readonly code: 'later-language'; readonly language: number; readonly newest: number }
    | { readonly code: 'condition-reads'; readonly what: string }
    | { readonly code: 'condition-code-twice'; readonly codeValue: number; readonly one: string; readonly other: string }
    | { readonly code: 'condition-name-twice'; readonly name: string; readonly other: string }
    | { readonly code: 'condition-never-holds'; readonly name: string; readonly text: string }
    | { readonly code: 'no-conditions'; readonly field: string }
    | { readonly code: 'no-condition-fits'; readonly field: string; readonly width: number; readonly unit: string }
    | { readonly code: 'names-across-cells'; readonly field: string }
    | { readonly code: 'guard-without-field'; readonly format: string; readonly text: string; readonly fields: readonly string[] }
    | { readonly code: 'guard-with-inline'; readonly written: string; readonly format: string }
    | { readonly code: 'spelling-twice'; readonly spelling: string; readonly one: string; readonly other: string }
    | { readonly code: 'service-unknown'; readonly number: number; readonly numbers: readonly number[] }
    | { readonly code: 'bad-format'; readonly text: string }
    | { readonly code: 'order-without-comma'; readonly order: string }
    | { readonly code: 'bad-field-word'; readonly field: string; readonly word: string }
    | { readonly code: 'bad-scale'; readonly scale: number; readonly radix: number }
    | { readonly code: 'field-with-gaps'; readonly field: string }
    | { readonly code: 'field-too-wide'; readonly field: string; readonly width: number; readonly unit: string }
    | {
        readonly code: 'fields-do-not-add-up';
        readonly format: string;
        readonly width: number;
        readonly cell: number;
        readonly unit: string;
      }
    | { readonly code: 'bad-code'; readonly text: string }
    | { readonly code: 'bar-missing'; readonly key: string }
    | { readonly code: 'misspelt-definition'; readonly name: string; readonly meant: string; readonly uses: number }
    | { readonly code: 'unknown-format'; readonly format: string; readonly nearest?: string }
    | { readonly code: 'unknown-field'; readonly field: string; readonly fields: readonly string[]; readonly nearest?: string }
    | {
        readonly code: 'field-too-narrow';
        readonly field: string;
        readonly value: number;
        readonly width: number;
        readonly unit: string;
        readonly greatest: number;
      }
    | { readonly code: 'no-opcode'; readonly format: string }
    | { readonly code: 'field-without-value'; readonly field: string; readonly written: string }
    | { readonly code: 'field-never-given'; readonly field: string; readonly nearest?: string }
    | { readonly code: 'field-twice'; readonly field: string }
    | { readonly code: 'field-behind-word'; readonly word: string; readonly field: string }
    | { readonly code: 'encodings-overlap'; readonly one: string; readonly other: string; readonly example: string }
    | { readonly code: 'lengths-differ'; readonly one: string; readonly other: string; readonly example: string }
    | { readonly code: 'forms-alike'; readonly written: string; readonly other: string }
    | { readonly code: 'bad-written-form'; readonly written: string; readonly mnemonic: string }
    | { readonly code: 'short-form-empty'; readonly written: string }
    | { readonly code: 'short-form-loops'; readonly mnemonic: string; readonly way: readonly string[] }
    | { readonly code: 'short-form-unknown'; readonly operation: string; readonly nearest?: string }
    | { readonly code: 'role-missing'; readonly role: string }
    | { readonly code: 'role-twice'; readonly role: string; readonly one: string }
    | {
        readonly code: 'instruction-register-width';
        readonly cell: number;
        readonly width: number;
        readonly name: string;
        readonly unit: string;
      }
    | { readonly code: 'instruction-too-long'; readonly name: string; readonly cells: number; readonly width: number }
    | { readonly code: 'start-too-wide'; readonly value: number; readonly width: number; readonly unit: string }
    | { readonly code: 'space-too-large'; readonly name: string; readonly cells: number; readonly most: number }
    | { readonly code: 'unknown-phase'; readonly phase: string; readonly phases: readonly string[]; readonly nearest?: string }
    | { readonly code: 'first-without-ticks' }
    | { readonly code: 'more-without-ticks'; readonly format: string }
    | { readonly code: 'trap-twice'; readonly number: number }
    | { readonly code: 'trap-register-missing'; readonly key: string; readonly service: string }
    | { readonly code: 'trap-without-entry' }
    | { readonly code: 'no-such-device'; readonly service: string; readonly kind: string }
    | { readonly code: 'bad-place'; readonly text: string }
    | { readonly code: 'place-outside'; readonly text: string; readonly size: number }
    | { readonly code: 'devices-overlap'; readonly one: string; readonly other: string }
    | { readonly code: 'wait-without-status'; readonly device: string }
    | { readonly code: 'region-turned'; readonly from: number; readonly to: number }
    | { readonly code: 'region-outside'; readonly to: number; readonly name: string; readonly size: number }
    | { readonly code: 'bad-disposition'; readonly kind: string; readonly text: string; readonly possible: readonly string[] }
    | { readonly code: 'fault-faults-again'; readonly kind: string; readonly why: string }
    | ({ readonly code: 'relative-differs' } & RelativeSlip)
    | ({ readonly code: 'relative-unsigned'; readonly distance: number; readonly width: number } & RelativeSlip)
    | { readonly code: 'unknown-place'; readonly text: string; readonly nearest?: string }
    | { readonly code: 'system-problem'; readonly line: number; readonly sentence: string }
    | { readonly code: 'system-leaves-cells'; readonly address: number; readonly from: number; readonly to: number; readonly line: number }
    | { readonly code: 'vector-without-routine'; readonly address: number; readonly number: number; readonly value: number | undefined }
    | { readonly code: 'no-way-to-halt' }
    | { readonly code: 'register-unused'; readonly register: string }
    | { readonly code: 'same-effect'; readonly one: string; readonly other: string }
    | { readonly code: 'flag-never-set'; readonly flag: string }
  );

export type MachineProblem = DocumentProblem | NotationProblem;

const didYouMean = (near: string | undefined): string => (near ? ` Did you mean ${near}?` : '');

/** The sentence of a problem: what is wrong, and what to do. */
export function explainMachine(problem: MachineProblem): string {
  switch (problem.code) {
    case 'document-too-long':
      return `This document has ${problem.length} characters; a machine document may have ${problem.most}.`;
    case 'slip':
      return `${problem.reason.charAt(0).toUpperCase()}${problem.reason.slice(1)}.`;
    case 'word-alone':
      return `Say what ${problem.size} counts: “word: {bits: ${problem.size}}”, or “word: {digits: ${problem.size}}” of a decimal machine.`;
    case 'several-registers':
      return `A single register is needed here; ${problem.name} is ${problem.is}.`;
    case 'two-kinds-of-word':
      return 'A word has bits, or digits on a decimal machine, and not both.';
    case 'not-yaml':
      return `This is not YAML: ${problem.reason}`;
    case 'yaml-alias':
      return 'Anchors and aliases (& and *) are not used in machine documents. Write the part out.';
    case 'yaml-remark-in-value':
      return `YAML takes “${problem.remark}” as a remark, so it is not part of the value. Put the value into quotes.`;
    case 'wrong-shape':
      return `${problem.at}: ${problem.reason}.`;
    case 'unknown-key':
      return `“${problem.key}” means nothing here.${problem.keys?.length ? ` What can stand here: ${problem.keys.join(', ')}.` : didYouMean(problem.nearest)}`;
    case 'name-twice':
      return `${problem.name} is the name of ${problem.first} already. Every name means one thing.`;
    case 'name-reserved':
      return `“${problem.name}” is a word of the notation and cannot be a name. Choose another.`;
    case 'wrong-unit':
      return `This machine counts in ${problem.unit}: write ${problem.unit} here.`;
    case 'no-such-part':
      return `There is no ${problem.what} “${problem.name}” on this machine.${didYouMean(problem.nearest)}`;
    case 'only-with':
      return `“${problem.key}” has a meaning only beside “${problem.needs}”.`;
    case 'one-of':
      return `Only one of ${problem.keys.join(' and ')} can say where a flag comes from.`;
    case 'no-base':
      return problem.deep
        ? 'Machines are based on one another in a circle, or too deeply.'
        : `No machine “${problem.name}” is known here, so nothing can be based on it.`;
    case 'base-with-errors':
      return `“${problem.name}” has errors of its own. Mend it first.`;
    case 'bad-part':
      return `“${problem.text}” names no ${problem.unit}. Write the high and the low one, such as 15:8, within ${problem.width}.`;
    case 'bad-pair':
      return `“${problem.text}” is no pair. Write two registers, high first, or the name of an array.`;
    case 'pair-of-itself':
      return `“${problem.name}” would be made of itself: ${problem.text}. Pair two other registers.`;
    case 'names-differ':
      return `${problem.name} has ${problem.count} registers, so as many names are needed here, letters first, with blanks between; there are ${problem.names}.`;
    case 'bad-view':
      return `“${problem.text}” names no registers. Write registers and pairs by number, as A B C D _ SP.`;
    case 'view-twice':
      return `${problem.name} stands in this view twice; then its name would mean two numbers.`;
    case 'view-widths-differ':
      return `All places of a view have one width: ${problem.one} has ${problem.width} ${problem.unit}, ${problem.other} ${problem.otherWidth}.`;
    case 'name-case':
      return `${problem.name} and ${problem.other} differ in case only, and programs may write names in any case. Rename one.`;
    case 'name-like-number':
      return `“${problem.name}” reads like the number ${problem.number}, because this machine has that letter behind numbers. Rename it.`;
    case 'later-language':
      return `This document is written in language ${problem.language}; this program knows languages up to ${problem.newest}. A newer program reads it.`;
    case 'condition-reads':
      return `A condition looks at registers and flags only; ${problem.what} is neither.`;
    case 'condition-code-twice':
      return `${problem.other} has the code ${problem.codeValue}, which ${problem.one} has already.`;
    case 'condition-name-twice':
      return `The condition ${problem.other} has the name “${problem.name}” too. Every name means one condition, whatever its case.`;
    case 'condition-never-holds':
      return `${problem.name === '' ? 'This condition' : problem.name} can never hold: no values of the flags make “${problem.text}” true.`;
    case 'no-conditions':
      return `The field ${problem.field} names a condition, but this machine has none: declare them under conditions.`;
    case 'no-condition-fits':
      return `No condition has a code that fits into the ${problem.width} ${problem.unit} of ${problem.field}.`;
    case 'names-across-cells':
      return `The digits of ${problem.field} lie in two cells; a field whose values have names lies within one.`;
    case 'guard-without-field':
      return `The guard “${problem.text}” of ${problem.format} asks for a condition that none of its fields names. ${problem.fields.length > 0 ? `Its fields of conditions: ${problem.fields.join(', ')}.` : 'Give it a field such as “c 3 condition”.'}`;
    case 'guard-with-inline':
      return `${problem.written} carries data behind it, so it cannot be passed over: give it a format without a guard.`;
    case 'spelling-twice':
      return `“${problem.spelling}” can be ${problem.one} or ${problem.other}. Rename one of them, or the condition.`;
    case 'service-unknown':
      return `There is no trap ${problem.number} on this machine.${problem.numbers.length > 0 ? ` There are: ${problem.numbers.join(', ')}.` : ' Declare it under traps.'}`;
    case 'bad-format':
      return `“${problem.text}” is no list of fields. Write name and width from left to right: opcode 8, address 8.`;
    case 'order-without-comma':
      return `“${problem.order}” is about the whole format and stands behind a comma of its own.`;
    case 'bad-field-word':
      return `“${problem.word}” means nothing behind the field ${problem.field}. There are: signed, unsigned, either, scale 2, bias 1, register R, names up=1 down=2, condition, page, from next.`;
    case 'bad-scale':
      return `A scale drops low zeros, so it is ${problem.radix}, ${problem.radix ** 2} and so on; ${problem.scale} is none.`;
    case 'field-with-gaps':
      return `The pieces of ${problem.field} leave digits out or give one twice. Number them from the highest down to 0.`;
    case 'field-too-wide':
      return `${problem.field} has ${problem.width} ${problem.unit}; a field may have 32 bits or 9 digits.`;
    case 'fields-do-not-add-up':
      return `The fields of ${problem.format} have ${problem.width} ${problem.unit} together; whole cells of ${problem.cell} ${problem.unit}, one to four, are needed.`;
    case 'bad-code':
      return `“${problem.text}” is no encoding. Write the format and its fixed fields: direct opcode=0x33.`;
    case 'unknown-format':
      return `There is no format “${problem.format}”.${didYouMean(problem.nearest)}`;
    case 'unknown-field':
      return `There is no field “${problem.field}” here.${problem.nearest ? didYouMean(problem.nearest) : ` There are: ${problem.fields.join(', ') || 'none'}.`}`;
    case 'field-too-narrow':
      return `${problem.value} does not fit into ${problem.field}, which has ${problem.width} ${problem.unit} (0 to ${problem.greatest}).`;
    case 'no-opcode':
      return `Nothing in the first cell is fixed, so decode cannot tell this instruction. Give a field of ${problem.format} a value.`;
    case 'field-without-value':
      return `The field ${problem.field} is neither fixed nor written: “${problem.written}” has no {${problem.field}}.`;
    case 'field-never-given':
      return `Nothing gives the field ${problem.field} a value: no form writes it or fixes it.${problem.nearest ? ` Digits without a use are called zero or any.${didYouMean(problem.nearest)}` : ''}`;
    case 'field-twice':
      return `The field ${problem.field} is given twice.`;
    case 'field-behind-word':
      return `A number right behind ${problem.word} is one word with it (${problem.word}1) and is not taken for ${problem.field}. Put a blank or a mark between them; where ${problem.field} numbers a register, say so in the format (“register …”) and write {${problem.field}} alone.`;
    case 'encodings-overlap':
      return `${problem.example} means two things: ${problem.one} and ${problem.other} share it. Give one of them another opcode.`;
    case 'lengths-differ':
      return `${problem.one} and ${problem.other} can begin with the same cell, ${problem.example}, but have different lengths, so decode cannot tell how much to fetch.`;
    case 'forms-alike':
      return `“${problem.written}” cannot be told from ${problem.other} when it is read: the same marks in the same places.`;
    case 'bad-written-form':
      return `“${problem.written}” does not start with the mnemonic ${problem.mnemonic}, or a brace is open.`;
    case 'short-form-empty':
      return `“${problem.written}” stands for nothing. Write the instructions under “for”.`;
    case 'short-form-loops':
      return `${problem.mnemonic} stands for itself in the end: ${problem.way.join(', then ')}.`;
    case 'short-form-unknown':
      return `There is no operation “${problem.operation}” that this could stand for.${didYouMean(problem.nearest)}`;
    case 'role-missing':
      return `No register has the role “${problem.role}”; every machine needs one.`;
    case 'role-twice':
      return `${problem.one} has the role “${problem.role}” already.`;
    case 'instruction-register-width':
      return `${problem.name} has ${problem.width} ${problem.unit}; an instruction register holds whole cells of ${problem.cell} ${problem.unit}.`;
    case 'instruction-too-long':
      return `${problem.name} is too short: the longest format has ${problem.cells} cells, ${problem.width} in width. Widen it, or add a second instruction register.`;
    case 'start-too-wide':
      return `${problem.value} does not fit into ${problem.width} ${problem.unit}.`;
    case 'space-too-large':
      return `All banks of ${problem.name} have ${problem.cells} cells together; at most ${problem.most} are possible.`;
    case 'unknown-phase':
      return `“${problem.phase}” is not in the list of phases: ${problem.phases.join(', ')}.`;
    case 'first-without-ticks':
      return 'The cycle’s first part has no ticks, so nothing would be fetched.';
    case 'more-without-ticks':
      return `The format ${problem.format} has further cells, but the cycle has no ticks under “more” that fetch them.`;
    case 'trap-twice':
      return `Trap ${problem.number} is in the table already.`;
    case 'trap-register-missing':
      return `“${problem.service}” needs a register under “${problem.key}”.`;
    case 'trap-without-entry':
      return 'A trap through memory needs its ticks under traps, enter.';
    case 'no-such-device':
      return `“${problem.service}” needs a device of the kind ${problem.kind}; this machine has none there.`;
    case 'bad-place':
      return `“${problem.text}” is no place. Write a cell or a port with a plain number: M[0xFE00], PORT[2].`;
    case 'place-outside':
      return `${problem.text} does not exist: there are ${problem.size}, numbered from 0.`;
    case 'devices-overlap':
      return `${problem.one} stands at this place already; two devices cannot share it in the same direction.`;
    case 'wait-without-status':
      return `${problem.device} is always ready, so waiting for it waits for nothing.`;
    case 'region-turned':
      return `The region begins at ${problem.from} and ends at ${problem.to}, before its beginning.`;
    case 'region-outside':
      return `${problem.to} lies outside ${problem.name}, which has ${problem.size} cells.`;
    case 'bad-disposition':
      return `“${problem.text}” cannot follow “${problem.kind}”. Possible: ${problem.possible.map((each) => (each === 'trap' ? 'trap and a number' : each === 'value' ? 'value and a number' : each)).join(', ')}.`;
    case 'fault-faults-again':
      return `“${problem.kind}” is a trap here, but entering the trap can cause it again (${problem.why}); that stops the run.`;
    case 'bar-missing':
      return `Ticks on lines of their own stand behind a bar: “${problem.key}: |”.`;
    case 'misspelt-definition':
      return `Nothing names “${problem.name}”, but “${problem.meant}” is named in ${problem.uses} places and stands nowhere. Did you mean ${problem.meant}?`;
    case 'relative-unsigned':
      return `The distance {${problem.field}} of ${problem.written} has a sign, but its ticks add its digits as if it had none: for ${problem.distance} they go to ${problem.got}, not to ${problem.wanted}. Write extend(${problem.field}, ${problem.width}).`;
    case 'relative-differs':
      return `{${problem.field}} of ${problem.written} is encoded so that ${problem.wanted} is reached, but its ticks go to ${problem.got}. Compare “from” in the format with the ticks.`;
    case 'unknown-place':
      return `${problem.text} names nothing whose value could be told here.${didYouMean(problem.nearest)}`;
    case 'system-problem':
      return `The system program, line ${problem.line}: ${problem.sentence}`;
    case 'system-leaves-cells':
      return `The system program, line ${problem.line}, fills cell ${problem.address}, outside its own ${problem.from} to ${problem.to}.`;
    case 'vector-without-routine':
      return problem.value === undefined
        ? `Entry ${problem.number} of the vector table, cell ${problem.address}, is not filled by the system program.`
        : `Entry ${problem.number} of the vector table, cell ${problem.address}, says ${problem.value}, where no routine begins.`;
    case 'no-way-to-halt':
      return 'Nothing on this machine halts: no tick says halt, and no trap ends the program.';
    case 'register-unused':
      return `No tick and no trap uses ${problem.register}.`;
    case 'same-effect':
      return `${problem.other} does the same as ${problem.one}, tick for tick.`;
    case 'flag-never-set':
      return `No tick ever sets ${problem.flag}.`;
    default:
      return explainNotation(problem);
  }
}

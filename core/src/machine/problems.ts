/** What can be wrong with a machine document, as data, and the sentence for each. */
import { explainNotation, type NotationProblem } from '../notation/problems';
import type { Diagnostic } from '../text/diagnostic';

export type DocumentProblem = Diagnostic &
  (
    | { readonly code: 'document-too-long'; readonly length: number; readonly most: number }
    | { readonly code: 'not-yaml'; readonly reason: string }
    | { readonly code: 'yaml-alias' }
    | { readonly code: 'yaml-remark-in-value'; readonly remark: string }
    | { readonly code: 'wrong-shape'; readonly at: string; readonly reason: string }
    | { readonly code: 'unknown-key'; readonly key: string; readonly nearest?: string }
    | { readonly code: 'name-twice'; readonly name: string; readonly first: string }
    | { readonly code: 'bad-part'; readonly text: string; readonly width: number }
    | { readonly code: 'bad-format'; readonly text: string }
    | { readonly code: 'fields-do-not-add-up'; readonly format: string; readonly bits: number; readonly cell: number }
    | { readonly code: 'bad-code'; readonly text: string }
    | { readonly code: 'unknown-format'; readonly format: string; readonly nearest?: string }
    | { readonly code: 'unknown-field'; readonly field: string; readonly fields: readonly string[] }
    | { readonly code: 'field-too-narrow'; readonly field: string; readonly value: number; readonly bits: number }
    | { readonly code: 'fixed-field-late'; readonly field: string }
    | { readonly code: 'no-opcode'; readonly format: string }
    | { readonly code: 'field-without-value'; readonly field: string; readonly written: string }
    | { readonly code: 'field-twice'; readonly field: string }
    | { readonly code: 'encodings-overlap'; readonly one: string; readonly other: string; readonly example: string }
    | { readonly code: 'forms-alike'; readonly written: string }
    | { readonly code: 'bad-written-form'; readonly written: string; readonly mnemonic: string }
    | { readonly code: 'role-missing'; readonly role: string }
    | { readonly code: 'role-twice'; readonly role: string; readonly one: string }
    | { readonly code: 'instruction-register-width'; readonly needed: number; readonly width: number; readonly name: string }
    | { readonly code: 'start-too-wide'; readonly value: number; readonly bits: number }
    | { readonly code: 'unknown-phase'; readonly phase: string; readonly phases: readonly string[] }
    | { readonly code: 'first-without-ticks' }
    | { readonly code: 'more-without-ticks'; readonly format: string }
    | { readonly code: 'unknown-register'; readonly name: string; readonly nearest?: string }
    | { readonly code: 'trap-twice'; readonly number: number }
    | { readonly code: 'trap-register-missing'; readonly key: string; readonly service: string }
    | { readonly code: 'no-way-to-halt' }
    | { readonly code: 'register-unused'; readonly register: string }
    | { readonly code: 'same-effect'; readonly one: string; readonly other: string }
    | { readonly code: 'flag-never-set'; readonly flag: string }
  );

export type MachineProblem = DocumentProblem | NotationProblem;

const didYouMean = (near: string | undefined): string => (near ? ` Did you mean ${near}?` : '');

export function explainMachine(problem: MachineProblem): string {
  switch (problem.code) {
    case 'document-too-long':
      return `This document has ${problem.length} characters; a machine document may have ${problem.most}.`;
    case 'not-yaml':
      return `This is not YAML: ${problem.reason}`;
    case 'yaml-alias':
      return 'Anchors and aliases (& and *) are not used in machine documents. Write the part out.';
    case 'yaml-remark-in-value':
      return `YAML takes “${problem.remark}” as a remark, so it is not part of the value. Put the value into quotes.`;
    case 'wrong-shape':
      return `${problem.at}: ${problem.reason}.`;
    case 'unknown-key':
      return `“${problem.key}” means nothing here.${didYouMean(problem.nearest)}`;
    case 'name-twice':
      return `${problem.name} is the name of ${problem.first} already. Every name means one thing.`;
    case 'bad-part':
      return `“${problem.text}” names no bits. Write high and low bit, such as 15:8, within ${problem.width} bits.`;
    case 'bad-format':
      return `“${problem.text}” is no list of fields. Write name and width from left to right: opcode 8, address 8.`;
    case 'fields-do-not-add-up':
      return `The fields of ${problem.format} have ${problem.bits} bits together; whole cells of ${problem.cell} bits, one to four, are needed.`;
    case 'bad-code':
      return `“${problem.text}” is no encoding. Write the format and its fixed fields: direct opcode=0x33.`;
    case 'unknown-format':
      return `There is no format “${problem.format}”.${didYouMean(problem.nearest)}`;
    case 'unknown-field':
      return `The format has no field “${problem.field}”. Its fields: ${problem.fields.join(', ')}.`;
    case 'field-too-narrow':
      return `${problem.value} does not fit into ${problem.field}, which has ${problem.bits} bits (0 to ${2 ** problem.bits - 1}).`;
    case 'fixed-field-late':
      return `${problem.field} lies behind the first cell. Decode sees the first cell only, so fixed fields stand there.`;
    case 'no-opcode':
      return `Nothing in the first cell is fixed, so decode cannot tell this instruction. Give a field of ${problem.format} a value.`;
    case 'field-without-value':
      return `The field ${problem.field} is neither fixed nor written: “${problem.written}” has no {${problem.field}}.`;
    case 'field-twice':
      return `The field ${problem.field} is given twice.`;
    case 'encodings-overlap':
      return `${problem.example} means two things: ${problem.one} and ${problem.other} share it. Give one of them another opcode.`;
    case 'forms-alike':
      return `Another form is written “${problem.written}” too, so the assembler cannot tell them apart.`;
    case 'bad-written-form':
      return `“${problem.written}” does not start with the mnemonic ${problem.mnemonic}, or a brace is open.`;
    case 'role-missing':
      return `No register has the role “${problem.role}”; every machine needs one.`;
    case 'role-twice':
      return `${problem.one} has the role “${problem.role}” already.`;
    case 'instruction-register-width':
      return `${problem.name} has ${problem.width} bits; the longest format needs ${problem.needed}.`;
    case 'start-too-wide':
      return `${problem.value} does not fit into ${problem.bits} bits.`;
    case 'unknown-phase':
      return `“${problem.phase}” is not in the list of phases: ${problem.phases.join(', ')}.`;
    case 'first-without-ticks':
      return 'The cycle’s first part has no ticks, so nothing would be fetched.';
    case 'more-without-ticks':
      return `The format ${problem.format} has further cells, but the cycle has no ticks under “more” that fetch them.`;
    case 'unknown-register':
      return `There is no register “${problem.name}”.${didYouMean(problem.nearest)}`;
    case 'trap-twice':
      return `Trap ${problem.number} is in the table already.`;
    case 'trap-register-missing':
      return `“${problem.service}” needs a register under “${problem.key}”.`;
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

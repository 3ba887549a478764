/** What can be said of each part of a document, as data: for whoever offers fields to fill in. The schema says what is allowed. */
import { FLAG_RULES } from '../../notation/tree';
import { DEVICE_KINDS, FAULT_KINDS, ROLES, SERVICES, TONES } from '../model/machine';
import type { Plain } from './tree';
import type { Path } from './yaml';

/** With `words`, one of these. */
export type Column = readonly [key: string, says: string, words?: readonly string[]];

export type PropertyKind =
  /** One line. `of`: names of that section are offered. */
  | { readonly kind: 'text'; readonly of?: SectionName | 'families' | 'phases' | 'machines' }
  | { readonly kind: 'number' }
  | { readonly kind: 'yes' }
  | { readonly kind: 'choice'; readonly words: readonly string[] }
  | { readonly kind: 'lines' | 'ticks' | 'format' | 'list' }
  /** Named texts; with columns, named parts with those keys. `of`: names that a new one is given first. */
  | { readonly kind: 'rows'; readonly name: string; readonly columns?: readonly Column[]; readonly of?: 'families' };

export type Property = PropertyKind & {
  /** From the part on. */
  readonly at: Path;
  readonly says: string;
  readonly hint?: string;
  /** Seldom needed: folded away until it is said. */
  readonly more?: boolean;
};

export const SECTION_NAMES = [
  'spaces',
  'registers',
  'flags',
  'conditions',
  'formats',
  'instructions',
  'short forms',
  'traps',
  'devices',
  'stacks',
  'faults',
] as const;
export type SectionName = (typeof SECTION_NAMES)[number];

export interface Section {
  readonly name: SectionName;
  readonly says: string;
  /** One of its parts, in a word. */
  readonly one: string;
  /** Names that new parts are given, the first that is free; past them a number counts on. */
  readonly names: readonly string[];
  /** A new part; decimal machines count in digits. */
  readonly fresh: (decimal: boolean) => Plain;
  readonly properties: readonly Property[];
}

type Rest = Partial<Pick<Property, 'at' | 'hint' | 'more'>>;
type Offered = (PropertyKind & { readonly kind: 'text' })['of'];

const text = (at: string, says: string, { of, ...rest }: Rest & { readonly of?: Offered } = {}): Property => ({
  ...{ kind: 'text', at: [at], says, ...rest },
  ...(of !== undefined && { of }),
});
const number = (at: string, says: string, rest: Rest = {}): Property => ({ kind: 'number', at: [at], says, ...rest });
const yes = (at: string, says: string, rest: Rest = {}): Property => ({ kind: 'yes', at: [at], says, ...rest });
const choice = (at: string, says: string, words: readonly string[], rest: Rest = {}): Property => ({
  kind: 'choice',
  at: [at],
  says,
  words,
  ...rest,
});
const title = text('title', 'In words');
const bits = number('bits', 'Width in bits', { hint: 'of the word where nothing is said' });
const digits = number('digits', 'Width in digits', { hint: 'of a decimal machine', more: true });

export const SECTIONS: readonly Section[] = [
  {
    name: 'spaces',
    says: 'Memories',
    one: 'memory',
    names: ['M', 'DATA', 'TABLE'],
    fresh: () => ({ title: 'memory', cells: '256' }),
    properties: [
      title,
      number('cells', 'Cells'),
      bits,
      digits,
      number('banks', 'Banks', { more: true }),
      number('fill', 'Holds at the start', { more: true }),
      yes('read-only', 'Cannot be written', { more: true }),
    ],
  },
  {
    name: 'registers',
    says: 'Registers',
    one: 'register',
    names: ['A', 'B', 'X', 'Y', 'T'],
    fresh: () => ({ title: 'register', role: 'general' }),
    properties: [
      title,
      choice('role', 'Role', ROLES, { hint: 'the drawing follows it' }),
      bits,
      digits,
      number('start', 'Holds at the start', { more: true }),
      yes('zero', 'Reads 0 always', { more: true }),
      text('also', 'A second name', { more: true }),
      { kind: 'rows', at: ['parts'], says: 'Names for some of its digits', name: 'Part', hint: '15:8', more: true },
      number('count', 'How many, as an array', { more: true }),
      text('names', 'Names of the array, from the first on', { more: true }),
      {
        kind: 'rows',
        at: ['each'],
        says: 'Single registers of the array',
        name: 'Number',
        columns: [
          ['title', 'In words'],
          ['also', 'Second name'],
          ['role', 'Role'],
          ['start', 'Start'],
          ['zero', 'Reads 0'],
        ],
        more: true,
      },
      text('pair', 'A pair of', { hint: 'two registers, high first, or an array', more: true }),
      text('choose', 'A view: registers by number', { hint: 'A B SP _', more: true }),
      { kind: 'rows', at: ['packed'], says: 'A word of flags: digit and flag', name: 'Digit', hint: 'Z', more: true },
    ],
  },
  {
    name: 'flags',
    says: 'Flags',
    one: 'flag',
    names: ['Z', 'N', 'C', 'V', 'F'],
    fresh: () => ({ title: 'zero', rule: 'zero' }),
    properties: [
      title,
      choice('rule', 'Rule', FLAG_RULES),
      choice('subtract', 'After a subtraction 1 means', ['borrow', 'no borrow'], { more: true }),
      number('into', 'The digit that it is carried into', { more: true }),
      choice('ones', 'Number of ones', ['even', 'odd'], { more: true }),
      text('formula', 'Formula over a, b and the result', { more: true }),
      text('line', 'A line of a device', { hint: 'switches.gate', more: true }),
      number('start', 'At the start', { more: true }),
    ],
  },
  {
    name: 'conditions',
    says: 'Conditions',
    one: 'condition',
    names: ['Z', 'NZ', 'C', 'NC', 'N', 'P'],
    fresh: () => ({ code: '1', when: 'Z = 1' }),
    properties: [
      title,
      number('code', 'Code'),
      text('when', 'Holds where', { hint: 'always, where nothing is said' }),
      text('also', 'Further names', { more: true }),
    ],
  },
  {
    name: 'formats',
    says: 'Formats',
    one: 'format',
    names: ['place', 'value', 'alone', 'format'],
    fresh: (decimal) => (decimal ? 'opcode 1, address 3' : 'opcode 8'),
    properties: [
      { kind: 'format', at: ['fields'], says: 'Fields' },
      text('only if', 'Carried out only if', { hint: 'c holds', more: true }),
    ],
  },
  {
    name: 'instructions',
    says: 'Instructions',
    one: 'instruction',
    names: ['NEW'],
    fresh: () => ({ title: 'what it does', family: 'other', forms: [{ write: 'NEW', code: 'alone', execute: '' }] }),
    properties: [title, text('family', 'Family', { of: 'families' })],
  },
  {
    name: 'short forms',
    says: 'Short forms',
    one: 'short form',
    names: ['SHORT'],
    fresh: () => ({ title: 'what it stands for', forms: [{ write: 'SHORT', for: '' }] }),
    properties: [title],
  },
  {
    name: 'traps',
    says: 'Traps',
    one: 'trap',
    names: ['1'],
    fresh: () => ({ name: 'ask', service: 'read number' }),
    properties: [
      text('name', 'Name in programs'),
      choice('service', 'Built-in service', SERVICES, { hint: 'without one it has a routine in memory' }),
      text('argument', 'Reads register', { of: 'registers' }),
      text('result', 'Brings to register', { of: 'registers' }),
      text('length', 'Count in register', { of: 'registers', more: true }),
      number('end', 'The text ends at value', { more: true }),
      number('last', 'Digit set in the last character', { more: true }),
      number('pad', 'Least digits written', { more: true }),
      yes('echo', 'Shows what is read', { more: true }),
      yes('line', 'A line end behind a number', { more: true }),
      text('device', 'Device', { of: 'devices', more: true }),
    ],
  },
  {
    name: 'devices',
    says: 'Devices',
    one: 'device',
    names: ['lamps', 'switches', 'device'],
    fresh: () => ({ title: 'lamps', kind: 'lamps', data: 'M[0xF0]' }),
    properties: [
      title,
      choice('kind', 'Kind', DEVICE_KINDS),
      text('data', 'Data at', { hint: 'M[0xF0] or PORT[1]' }),
      text('status', 'Status at', { more: true }),
      bits,
      digits,
      number('ready', 'Digit that says ready', { more: true }),
      choice('active', 'Ready is', ['high', 'low'], { more: true }),
      yes('clears', 'Reading takes it away', { more: true }),
      number('busy', 'Ticks not ready after a character', { more: true }),
      { kind: 'rows', at: ['lines'], says: 'Single lines: name and digit', name: 'Line', hint: '0' },
    ],
  },
  {
    name: 'stacks',
    says: 'Stacks',
    one: 'stack',
    names: ['S', 'CALLS', 'STACK'],
    fresh: () => ({ title: 'stack', pointer: 'SP', space: 'M', from: '0xE0', to: '0xEF' }),
    properties: [
      title,
      text('pointer', 'Pointer', { of: 'registers' }),
      text('space', 'In memory', { of: 'spaces' }),
      number('from', 'First cell'),
      number('to', 'Last cell'),
      choice('grows', 'Grows', ['down', 'up']),
      choice('points at', 'Points at', ['value', 'free']),
      number('step', 'Cells a value takes', { more: true }),
    ],
  },
  {
    name: 'faults',
    says: 'Faults',
    one: 'fault',
    names: FAULT_KINDS,
    fresh: () => 'stop',
    properties: [{ kind: 'choice', at: [], says: 'Then', words: ['stop', 'wrap', 'ignore', 'end'] }],
  },
];

/** Parts that a document has once. */
export interface Single {
  readonly id: string;
  readonly says: string;
  readonly path: Path;
  readonly properties: readonly Property[];
}

const part = (name: string, phase: string, ticks: string | undefined, more = false): Property[] => [
  text('', phase, { at: [name, 'phase'], of: 'phases', more }),
  ...(ticks === undefined ? [] : [{ kind: 'ticks' as const, at: [name, 'ticks'], says: ticks, more }]),
];

export const SINGLES: readonly Single[] = [
  {
    id: 'machine',
    says: 'Machine and word',
    path: [],
    properties: [
      text('machine', 'Name'),
      title,
      { kind: 'number', at: ['word', 'bits'], says: 'Word in bits' },
      { kind: 'number', at: ['word', 'digits'], says: 'Word in decimal digits' },
      { kind: 'choice', at: ['word', 'base'], says: 'Numbers are shown in', words: ['binary', 'octal', 'decimal', 'hex'] },
      text('based on', 'Based on', { of: 'machines', more: true }),
      number('begins at', 'PC starts at, always', { more: true }),
      number('language', 'Language of the document', { more: true }),
    ],
  },
  {
    id: 'cycle',
    says: 'Cycle',
    path: ['cycle'],
    properties: [
      { kind: 'list', at: ['phases'], says: 'Phases' },
      ...part('first', 'Fetch belongs to', 'Brings the first cell'),
      ...part('decode', 'Decoding belongs to', undefined),
      ...part('more', 'Fetching more belongs to', 'Brings each further cell', true),
      ...part('execute', 'Ticks of instructions belong to', undefined),
      ...part('finish', 'Finishing belongs to', 'Comes last, unless PC was assigned', true),
    ],
  },
  {
    id: 'entry',
    says: 'Entering traps',
    path: ['traps'],
    properties: part('enter', 'Entering belongs to', 'Enters the routine of a trap'),
  },
  {
    id: 'ports',
    says: 'Ports',
    path: ['ports'],
    properties: [
      text('name', 'Name'),
      title,
      number('count', 'How many'),
      bits,
      digits,
      number('idle', 'Read where nothing is attached', { more: true }),
    ],
  },
  {
    id: 'assembly',
    says: 'Assembly language',
    path: ['assembly'],
    properties: [
      { kind: 'rows', at: ['constants'], says: 'Names that every program knows', name: 'Name', hint: '0' },
      { kind: 'rows', at: ['letters'], says: 'Letters behind a number: 2, 8, 10 or 16', name: 'Letter', hint: '16' },
      text('strings', 'Texts end with', { hint: 'end 0, length, or last 7' }),
      choice('case', 'Names that differ in case', ['exact', 'same']),
      number('align', 'Instructions begin at multiples of'),
    ],
  },
  {
    id: 'system',
    says: 'System program',
    path: ['system'],
    properties: [
      number('from', 'First cell'),
      number('to', 'Last cell'),
      { kind: 'number', at: ['vector', 'at'], says: 'Vector table at', more: true },
      { kind: 'number', at: ['vector', 'count'], says: 'Entries of the table', more: true },
      { kind: 'lines', at: ['source'], says: 'Program' },
    ],
  },
  {
    id: 'families',
    says: 'Families on the map',
    path: ['families'],
    properties: [
      {
        kind: 'rows',
        at: [],
        says: 'Sign and colour of each family',
        name: 'Family',
        of: 'families',
        columns: [
          ['sign', 'Sign'],
          ['colour', 'Colour', TONES],
        ],
      },
    ],
  },
  {
    id: 'words',
    says: 'Notes and sentences',
    path: ['words'],
    properties: [
      { kind: 'lines', at: ['notes'], says: 'Notes for students' },
      { kind: 'rows', at: ['phases'], says: 'Sentences of phases', name: 'Phase' },
      { kind: 'rows', at: ['instructions'], says: 'Sentences of instructions', name: 'Instruction', hint: '… {place} …' },
      { kind: 'rows', at: ['ticks'], says: 'Sentences of single ticks', name: 'Instruction and tick', hint: '… {place} …' },
      ...(['program', 'console', 'registers', 'flags'] as const).map((each) =>
        text('panels', `Heading of the panel “${each}”`, { at: ['panels', each], more: true }),
      ),
    ],
  },
];

/** Of a written form. */
export const FORM_INLINE = ['cells', 'string'] as const;

export const sectionOf = (name: string | number | undefined): Section | undefined => SECTIONS.find((each) => each.name === name);

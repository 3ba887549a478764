/** The shape of a machine document once YAML is read: all scalars are text, as the failsafe schema gives them. */
import { z } from 'zod';
import { FLAG_RULES } from '../../notation/tree';
import { readNumber } from '../../text/number';
import { DEVICE_KINDS, ROLES, SERVICES, TONES } from '../model/machine';

export const NAME = /^[A-Za-z][A-Za-z0-9_]*$/;
/** A machine's own name may have hyphens inside. */
const MACHINE_NAME = /^[A-Za-z][A-Za-z0-9_]*(-[A-Za-z0-9_]+)*$/;
/** Conditions are written as part of an operation, where one may have no letters at all. */
const CONDITION_NAME = /^([A-Za-z][A-Za-z0-9]*)?$/;

/** The words for a wrong value; a missing one is called missing. */
const said = (words: string) => ({
  error: (issue: { readonly input?: unknown }) => (issue.input === undefined ? 'this part is missing' : words),
});

const text = z.string(said('a text is expected here')).max(400, said('at most 400 characters stand here'));
const heading = text.min(1, said('a heading is expected here')).max(24, said('a heading has at most 24 characters'));
const ticks = z.string(said('ticks are expected here, one a line under “|”')).max(10_000);
const name = text.regex(NAME, said('a name has letters, digits and _ only, and starts with a letter'));

const number = (least: number, greatest: number) =>
  text.transform((written, context) => {
    const value = readNumber(written.trim());
    if (value !== undefined && value >= least && value <= greatest) return value;
    context.addIssue({ code: 'custom', message: `a whole number from ${least} to ${greatest} is expected here` });
    return z.NEVER;
  });

const oneOf = <const T extends readonly [string, ...string[]]>(words: T) =>
  z.enum(words, said(`one of these words is expected here: ${words.join(', ')}`));

const record = <T extends z.ZodType>(what: string, keys: RegExp, values: T, most: number) =>
  z.record(z.string(), values, said(`${what} are expected here, one a line, each with its name`)).superRefine((entries, context) => {
    const list = Object.keys(entries);
    if (list.length > most) context.addIssue({ code: 'custom', message: `at most ${most} ${what} are allowed` });
    for (const key of list) {
      if (keys.test(key)) continue;
      const message = `“${key.slice(0, 40)}” cannot be a name here: letters, digits and _ only, starting with a letter`;
      context.addIssue({ code: 'custom', path: [key], message });
    }
  });

const yes = oneOf(['yes', 'no']).transform((word) => word === 'yes');

/** Widths are in bits on a binary machine, in digits on a decimal one. */
const width = { bits: number(1, 32).optional(), digits: number(1, 9).optional() };
const anyValue = number(0, 2 ** 32 - 1);

const part = z.strictObject({ phase: name, ticks: ticks.optional() });

const space = z.strictObject({
  title: text.default(''),
  cells: number(1, 65_536),
  banks: number(1, 256).optional(),
  ...width,
  fill: anyValue.optional(),
  'read-only': yes.optional(),
});

const register = z.strictObject({
  title: text.default(''),
  role: oneOf(ROLES).optional(),
  ...width,
  start: anyValue.optional(),
  zero: yes.optional(),
  parts: record('parts', NAME, text, 16).optional(),
  also: name.optional().describe('a second name'),
  count: number(1, 64).optional().describe('makes an array of so many registers'),
  names: text.optional().describe('what the registers of the array are called, from the first on'),
  each: record(
    'registers of the array',
    /^[0-9]+$/,
    z.strictObject({
      title: text.optional(),
      also: name.optional(),
      role: oneOf(ROLES).optional(),
      start: anyValue.optional(),
      zero: yes.optional(),
    }),
    64,
  ).optional(),
  pair: text.optional().describe('two registers, high first, or an array whose neighbours are taken together'),
  choose: text.optional().describe('registers and pairs of one width by number; “_” where a number stands for none'),
  packed: record('digits', /^[0-9]+$/, text, 32)
    .optional()
    .describe('flags, or 0 and 1, by digit'),
});

const flag = z.strictObject({
  title: text.default(''),
  rule: oneOf(FLAG_RULES).optional(),
  formula: text.optional(),
  line: text.optional(),
  subtract: oneOf(['borrow', 'no borrow']).optional(),
  into: number(1, 31).optional(),
  ones: oneOf(['even', 'odd']).optional(),
  start: number(0, 1).optional(),
});

const device = z.strictObject({
  title: text.default(''),
  kind: oneOf(DEVICE_KINDS),
  data: text.optional(),
  status: text.optional(),
  ...width,
  ready: number(0, 31).optional(),
  active: oneOf(['high', 'low']).optional(),
  clears: yes.optional(),
  busy: number(0, 100_000).optional(),
  lines: record(
    'lines',
    NAME,
    z.union(
      [number(0, 31), z.strictObject({ digit: number(0, 31), title: text })],
      said('a digit, or {digit: 0, title: …}, is expected here'),
    ),
    32,
  ).optional(),
});

const condition = z.strictObject({
  title: text.default(''),
  code: anyValue,
  when: text.optional().describe('over registers and flags; without it the condition always holds'),
  also: text.optional().describe('further names'),
});

const format = z.union(
  [text, z.strictObject({ fields: text, 'only if': text.optional().describe('the guard of every instruction of this format') })],
  said('a list of fields is expected here, or {fields: …, only if: …}'),
);

const stack = z.strictObject({
  title: text.default(''),
  pointer: name,
  space: name.optional(),
  from: number(0, 65_535),
  to: number(0, 65_535),
  grows: oneOf(['down', 'up']).optional(),
  'points at': oneOf(['value', 'free']).optional(),
  step: number(1, 4).optional(),
});

const form = z.strictObject({
  write: text.min(1, said('how the instruction is written is missing')),
  code: text.min(1, said('the encoding is missing')),
  execute: ticks.default(''),
  inline: oneOf(['cells', 'string']).optional().describe('values or a text that follow the instruction in memory'),
  examples: z
    .array(z.strictObject({ before: text, after: text }), said('a list of examples is expected here, each with before and after'))
    .max(20)
    .optional()
    .describe('values before and after, that have to hold'),
});

const formsOf = <T extends z.ZodType>(each: T) =>
  z
    .array(each, said('a list of written forms is expected here, each starting with “- write:”'))
    .min(1, said('at least one written form is needed'))
    .max(16);

const trap = z.strictObject({
  name,
  service: oneOf(SERVICES).optional().describe('built in; without one the trap has a routine in memory'),
  argument: text.optional(),
  result: text.optional(),
  length: text.optional(),
  end: anyValue.optional(),
  last: number(0, 31).optional(),
  pad: number(0, 32).optional(),
  echo: yes.optional(),
  line: yes.optional(),
  device: name.optional(),
});

/** A name for every number, beside the ticks that enter a trap. */
const traps = z
  .object({ enter: part.optional() })
  .catchall(trap)
  .superRefine((entries, context) => {
    const keys = Object.keys(entries).filter((each) => each !== 'enter');
    if (keys.length > 256) context.addIssue({ code: 'custom', message: 'at most 256 traps are allowed' });
    for (const key of keys) {
      if (/^[0-9][0-9A-Za-z_]*$/.test(key)) continue;
      context.addIssue({ code: 'custom', path: [key], message: `“${key.slice(0, 40)}” is no number of a trap` });
    }
  });

export const MOST_INSTRUCTIONS = 256;

export const machineSchema = z.strictObject({
  machine: text
    .regex(MACHINE_NAME, said('a name has letters, digits, _ and - inside only, and starts with a letter'))
    .describe('name of the machine'),
  language: number(1, 1000).optional().describe('of machine documents; the newest where nothing is said'),
  'based on': text.optional().describe('the machine that this one changes'),
  title: text.default(''),
  word: z
    .strictObject({
      ...width,
      base: oneOf(['binary', 'octal', 'decimal', 'hex']).optional().describe('how numbers are shown, and read where unmarked'),
    })
    .describe('width of the data word: bits, or digits of a decimal machine'),
  spaces: record('memories', NAME, space, 8),
  registers: record('registers', NAME, register, 64),
  flags: record('flags', NAME, flag, 32).optional(),
  ports: z.strictObject({ name, title: text.default(''), count: number(1, 256), ...width, idle: anyValue.optional() }).optional(),
  devices: record('devices', NAME, device, 16).optional(),
  stacks: record('stacks', NAME, stack, 8).optional(),
  conditions: record('conditions', CONDITION_NAME, condition, 64).optional(),
  formats: record('formats', NAME, format, 64),
  cycle: z.strictObject({
    phases: z.array(name, said('a list of phase words is expected here: [Fetch, Decode, Execute]')).min(1).max(8),
    first: part,
    decode: z.strictObject({ phase: name }),
    more: part.optional(),
    execute: z.strictObject({ phase: name }),
    finish: part.optional(),
  }),
  instructions: record(
    'instructions',
    NAME,
    z.strictObject({ title: text.default(''), family: text.default('other'), forms: formsOf(form) }),
    MOST_INSTRUCTIONS,
  ),
  families: record(
    'families',
    /^[^\s].{0,60}$/,
    z.strictObject({
      sign: text.regex(/^\S{1,2}$/u, said('one sign, or two, are expected here')).optional(),
      colour: oneOf(TONES).optional(),
    }),
    32,
  )
    .optional()
    .describe('how families of instructions are told apart on the map'),
  'short forms': record(
    'short forms',
    NAME,
    z.strictObject({
      title: text.default(''),
      forms: formsOf(z.strictObject({ write: text, for: z.string(said('lines of assembly are expected here')).max(2000) })),
    }),
    128,
  ).optional(),
  traps: traps.optional(),
  faults: record('faults', /^[a-z][a-z -]*$/, text, 32).optional(),
  'begins at': number(0, 65_535).optional().describe('where PC starts, whatever the program says'),
  system: z
    .strictObject({
      from: number(0, 65_535),
      to: number(0, 65_535),
      vector: z.strictObject({ at: number(0, 65_535), count: number(1, 256) }).optional(),
      source: z.string(said('the system program is expected here, under “|”')).max(100_000),
    })
    .optional(),
  assembly: z
    .strictObject({
      constants: record('constants', NAME, anyValue, 256).optional().describe('names that every program knows'),
      letters: record('letters', /^[A-Za-z]$/, oneOf(['2', '8', '10', '16']), 8)
        .optional()
        .describe('letters behind a number, and the base each means'),
      strings: text
        .regex(/^(end [0-9]\w*|length|last [0-9]+)$/, said('“end” and a value, “length”, or “last” and a digit is expected here'))
        .optional()
        .describe('how .string marks the end of a text'),
      case: oneOf(['exact', 'same']).optional().describe('whether names that differ in case only are one name in programs'),
      align: number(1, 64).optional().describe('instructions begin at multiples of this'),
    })
    .optional(),
  words: z
    .strictObject({
      notes: z.string().max(20_000).default(''),
      phases: record('phases', NAME, text, 8).optional(),
      instructions: record('instructions', NAME, text, 256).optional(),
      ticks: record('ticks', /^[A-Za-z][A-Za-z0-9_]* [1-9][0-9]?$/, text, 512).optional(),
      panels: z
        .strictObject({ program: heading, console: heading, registers: heading, flags: heading })
        .partial()
        .optional()
        .describe('what panels of the bench are called'),
    })
    .optional(),
});

export type MachineDocument = z.output<typeof machineSchema>;

/** The document's JSON Schema (draft 2020-12), for editors that know nothing of machines. */
export function documentSchema(): Record<string, unknown> {
  return z.toJSONSchema(machineSchema, { io: 'input', unrepresentable: 'any' }) as Record<string, unknown>;
}

/** The shape of a machine document once YAML is read: all scalars are text, as the failsafe schema gives them. */
import { z } from 'zod';
import { FLAG_RULES } from '../notation/tree';
import { readNumber } from '../text/number';
import { ROLES, SERVICES } from './machine';

export const NAME = /^[A-Za-z][A-Za-z0-9_]*$/;

/** The words for a wrong value; a missing one is called missing. */
const said = (words: string) => ({
  error: (issue: { readonly input?: unknown }) => (issue.input === undefined ? 'this part is missing' : words),
});

const text = z.string(said('a text is expected here')).max(400, said('at most 400 characters stand here'));
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

const part = z.strictObject({ phase: name, ticks: ticks.optional() });

const form = z.strictObject({
  write: text.min(1, said('how the instruction is written is missing')),
  code: text.min(1, said('the encoding is missing')),
  execute: ticks.default(''),
});

export const machineSchema = z.strictObject({
  machine: name.describe('name of the machine'),
  title: text.default(''),
  word: z.strictObject({ bits: number(1, 32) }).describe('width of the data word'),
  spaces: record(
    'memories',
    NAME,
    z.strictObject({
      title: text.default(''),
      cells: number(1, 65_536),
      bits: number(1, 32),
      fill: number(0, 2 ** 32 - 1).optional(),
    }),
    8,
  ),
  registers: record(
    'registers',
    NAME,
    z.strictObject({
      title: text.default(''),
      role: oneOf(ROLES).optional(),
      bits: number(1, 32),
      start: number(0, 2 ** 32 - 1).optional(),
      parts: record('parts', NAME, text, 16).optional(),
    }),
    64,
  ),
  flags: record(
    'flags',
    NAME,
    z.strictObject({
      title: text.default(''),
      rule: oneOf(FLAG_RULES).optional(),
      subtract: oneOf(['borrow', 'no borrow']).optional(),
      into: number(1, 31).optional(),
      ones: oneOf(['even', 'odd']).optional(),
      start: number(0, 1).optional(),
    }),
    32,
  ).optional(),
  formats: record('formats', NAME, text, 64),
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
    z.strictObject({
      title: text.default(''),
      family: text.default('other'),
      forms: z
        .array(form, said('a list of written forms is expected here, each starting with “- write:”'))
        .min(1, said('at least one written form is needed'))
        .max(16),
    }),
    256,
  ),
  traps: record(
    'traps',
    /^[0-9][0-9A-Za-z_]*$/,
    z.strictObject({
      name,
      service: oneOf(SERVICES),
      argument: name.optional(),
      result: name.optional(),
      end: number(0, 2 ** 32 - 1).optional(),
    }),
    256,
  ).optional(),
});

export type MachineDocument = z.output<typeof machineSchema>;

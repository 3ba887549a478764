/**
 * What a document came to when it was read before, as far as nothing was wrong with it. Of one that is being written most is as
 * it was at the last key press: its parts are the very same objects then, and what was found out about them still holds.
 */
import { machineSchema, MOST_INSTRUCTIONS, type MachineDocument } from '../document/schema';
import type { Form } from '../model/machine';
import type { Grounded } from './ground';

/** Forms, and instructions, that are remembered at most; then all are forgotten. */
const MOST = 4000;

interface Reading {
  readonly document: MachineDocument;
  readonly language: number;
}

export class Remembered {
  private key: string | undefined;
  private known: Grounded | undefined;
  private readonly forms = new Map<string, Form>();
  /** Whether something was wrong with what is being made. */
  private wrong = false;

  /** Instructions with their names, as they stand in the text. */
  private readonly instructions = new Map<string, MachineDocument['instructions'][string]>();

  /** What the schema makes of a document: instructions that it has found in order are not looked at again. */
  document(data: unknown): ReturnType<typeof machineSchema.safeParse> {
    const { instructions } = (data ?? {}) as { readonly instructions?: unknown };
    const all = typeof instructions === 'object' && instructions !== null ? Object.entries(instructions) : [];
    const keys = all.map((each) => JSON.stringify(each));
    const fresh = all.filter((_, at) => !this.instructions.has(keys[at]!));
    const few = fresh.length > 0 ? fresh : all.slice(0, 1);
    const known = few.length < all.length && all.length <= MOST_INSTRUCTIONS;
    const parsed = machineSchema.safeParse(known ? { ...(data as object), instructions: Object.fromEntries(few) } : data);
    // What is wrong is told of the whole, in its order.
    if (!parsed.success) return known ? machineSchema.safeParse(data) : parsed;
    const whole = Object.fromEntries(
      all.map(([name], at) => [name, parsed.data.instructions[name] ?? this.instructions.get(keys[at]!)!] as const),
    );
    if (this.instructions.size + fresh.length > MOST) this.instructions.clear();
    all.forEach(([name], at) => this.instructions.set(keys[at]!, whole[name]!));
    return { ...parsed, data: { ...parsed.data, instructions: whole } };
  }

  /** A problem was told; the same one may have been told before. */
  told(): void {
    this.wrong = true;
  }

  /** What instructions stand on: made anew where the document has changed outside of them. */
  ground(reading: Reading, make: () => Grounded | undefined): Grounded | undefined {
    const { document, language } = reading;
    const key = JSON.stringify([language, { ...document, instructions: undefined }]);
    if (key === this.key && this.known) return this.known;
    this.forms.clear();
    this.key = key;
    this.wrong = false;
    const made = make();
    this.known = this.wrong ? undefined : made;
    return made;
  }

  /** A form on the ground that was asked for last, by all that it is made of. */
  form(parts: readonly unknown[], make: () => Form | undefined): Form | undefined {
    if (!this.known) return make();
    const key = JSON.stringify(parts);
    const known = this.forms.get(key);
    if (known) return known;
    this.wrong = false;
    const made = make();
    if (this.forms.size >= MOST) this.forms.clear();
    if (made && !this.wrong) this.forms.set(key, made);
    return made;
  }
}

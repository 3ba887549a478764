/**
 * What a document came to when it was read before, as far as nothing was wrong with it. Of one that is being written most is as
 * it was at the last key press: its parts are the very same objects then, and what was found out about them still holds.
 */
import type { MachineDocument } from '../document/schema';
import type { Form } from '../model/machine';
import type { Grounded } from './ground';

/** Forms that are remembered at most; then all are forgotten. */
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

/** Sentences as data: pieces with their tone, and what is needed to tell them. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import type { State } from '../meaning/state';
import { itemAt } from '../../text/itemAt';
import { count } from '../../text/number';

/** A piece of a sentence. Values carry their tone, so that a screen can mark them. */
export interface Segment {
  readonly kind: 'text' | 'name' | 'data' | 'address';
  readonly text: string;
}

export interface Telling {
  readonly machine: Machine;
  readonly program?: Program | undefined;
  readonly state: State;
  /** What is told beyond the usual. */
  readonly asked?: { readonly untouched: boolean } | undefined;
}

export type Tense = 'done' | 'coming';

export const text = (words: string): Segment => ({ kind: 'text', text: words });
export const name = (words: string): Segment => ({ kind: 'name', text: words });

export const plain = (segments: readonly Segment[]): string => segments.map((each) => each.text).join('');

export { count };

export const capital = (words: string): string => itemAt(words, 0).toUpperCase() + words.slice(1);

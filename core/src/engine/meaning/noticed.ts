/** What a run does that is allowed and seldom meant, as data. */
import type { PlaceRef } from './report';

export type Noticed =
  | { readonly kind: 'link lost'; readonly register: number; readonly returnTo: number }
  | { readonly kind: 'kept changed'; readonly register: number; readonly before: number; readonly after: number; readonly routine: number }
  | { readonly kind: 'code written'; readonly address: number }
  | { readonly kind: 'never written'; readonly space: number; readonly address: number }
  | { readonly kind: 'write lost'; readonly place: PlaceRef };

/** `tick` did it, of the instruction at `here`. */
export type RunRemark = Noticed & { readonly tick: number; readonly here: number };

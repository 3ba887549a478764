/**
 * Views on their way to a page: only what has changed since the one before, so that little is sent, and every part that is
 * as it was is the very object that the page has already. Cells are copied where they change and never written in place:
 * a view that is still shown stays as it is.
 */
import { patchBetween, patched, type Patch } from '../text/patch';
import { itemAt } from '../text/itemAt';
import type { Memory, View, WakeEntry } from './protocol';

/** A memory as a whole, or its changed cells: address, value and mark of each, one behind the other. */
type PackedMemory = { readonly whole: Memory } | { readonly changed: Uint32Array };

export interface PackedView {
  /** Of the first, what there is; else what has changed, memories aside. */
  readonly rest: Patch;
  readonly spaces: readonly PackedMemory[];
}

/** Without memories, and with the wake by where its entries begin, so that they keep who they are when they move up. */
type Rest = Omit<View, 'spaces' | 'wake'> & { readonly wake: ReadonlyMap<number, WakeEntry> };

const NOTHING = {};

/** More changed cells than this are sent as a whole. */
const SHARE = 1 / 8;

/** The sender's end; views are packed in the order in which they are sent. */
export class ViewPacker {
  private rest: unknown = NOTHING;
  private spaces: readonly Memory[] = [];

  pack(view: View): PackedView {
    const { spaces, wake, ...others } = view;
    const rest: Rest = { ...others, wake: new Map(wake.map((each) => [each.from, each])) };
    const packed = { rest: patchBetween(this.rest, rest), spaces: spaces.map((each, at) => changedCells(this.spaces[at], each)) };
    this.rest = rest;
    this.spaces = spaces;
    return packed;
  }
}

function changedCells(before: Memory | undefined, { cells, marks }: Memory): PackedMemory {
  if (before?.cells.length !== cells.length) return { whole: { cells, marks } };
  const most = Math.max(16, cells.length * SHARE);
  const changed: number[] = [];
  for (let at = 0; at < cells.length; at++) {
    if (cells[at] === before.cells[at] && marks[at] === before.marks[at]) continue;
    if (changed.length >= 3 * most) return { whole: { cells, marks } };
    changed.push(at, cells[at]!, marks[at]!);
  }
  return { changed: Uint32Array.from(changed) };
}

/** The page's end. */
export class ViewUnpacker {
  private rest: unknown = NOTHING;
  private spaces: readonly Memory[] = [];
  private wake: { readonly of: unknown; readonly list: readonly WakeEntry[] } = { of: undefined, list: [] };

  /** Every packed view in its turn, the first one first. */
  unpack({ rest: patch, spaces }: PackedView): View {
    const rest = patched<Rest>(this.rest, patch);
    this.rest = rest;
    const shown = spaces.map((each, at) => ('whole' in each ? each.whole : withChanged(itemAt(this.spaces, at), each.changed)));
    this.spaces = shown.every((each, at) => each === this.spaces[at]) && shown.length === this.spaces.length ? this.spaces : shown;
    if (this.wake.of !== rest.wake) this.wake = { of: rest.wake, list: [...rest.wake.values()] };
    return { ...rest, wake: this.wake.list, spaces: this.spaces };
  }
}

/** The very memory where nothing has changed; the very marks where no mark has. */
function withChanged(before: Memory, changed: Uint32Array): Memory {
  if (changed.length === 0) return before;
  const cells = before.cells.slice();
  let { marks } = before;
  for (let at = 0; at < changed.length; at += 3) {
    const [address, value, mark] = [changed[at]!, changed[at + 1]!, changed[at + 2]!];
    cells[address] = value;
    if (marks[address] === mark) continue;
    if (marks === before.marks) marks = marks.slice();
    marks[address] = mark;
  }
  return { cells, marks };
}

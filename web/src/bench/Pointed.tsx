/** What is pointed at, with the mouse or the keyboard: the fields of an instruction, and what the cell of an address holds, wherever it stands. */
import { Box } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { placeText, type CellPlace } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { InHand } from '@zettak/core/session/inHand';
import { itemAt } from '@zettak/core/text/itemAt';
import { engine } from '../session/engine';
import { useDocument } from './document';
import { cellNamed, cellWords } from './memory/holds';
import { useRun } from './run';
import { FieldRuler } from './state/InHand';

/** ms that one has to stay. */
const STAY = 220;
const [WIDTH, HEIGHT] = [380, 140];

interface Pointed {
  readonly cell: CellPlace;
  readonly box: DOMRect;
  /** The cell itself is looked at, which says by itself what it holds. */
  readonly itself: boolean;
}

interface Shown {
  readonly hand: InHand | undefined;
  /** Empty where the cell itself is pointed at. */
  readonly place: string;
  readonly words: readonly string[];
  readonly left: number;
  readonly top: number;
}

/** The cell that an element stands for. */
function cellOf(machine: Machine, target: Element): Pointed | undefined {
  const gutter = target.matches('.cm-gutterElement') ? target.querySelector<HTMLElement>('[data-points]') : null;
  const element = gutter ?? target.closest<HTMLElement>('[data-points], [data-at], td[data-cell]');
  if (!element) return undefined;
  const { points, at, cell } = element.dataset;
  const box = element.getBoundingClientRect();
  if (at !== undefined) {
    const space = Number(element.closest<HTMLElement>('[data-space]')?.dataset.space);
    return { cell: { space, address: Number(at) }, box, itself: false };
  }
  return { cell: { space: machine.programSpace, address: Number(points ?? cell) }, box, itself: true };
}

/** Where names and addresses are told; labels are common words, and elsewhere mean nothing. */
const TOLD = '.piece, .address, .changed, .why, td, dd, b';

/** The word of a told text at a point, where it names a cell. */
function cellInText(machine: Machine, x: number, y: number): Pointed | undefined {
  const caret = document.caretPositionFromPoint?.(x, y);
  const node = caret?.offsetNode;
  const holder = node?.parentElement;
  if (!caret || node?.nodeType !== Node.TEXT_NODE || !holder?.closest(TOLD) || holder.closest('.cm-editor, .data, button'))
    return undefined;
  const word = [...(node.nodeValue ?? '').matchAll(/[\p{L}\p{M}\p{Nd}_.]+/gu)].find(
    (each) => each.index <= caret.offset && caret.offset <= each.index + each[0].length,
  );
  if (!word) return undefined;
  const cell = cellNamed(machine, useRun.getState().labels, word[0].replace(/\.$/, ''), holder.closest('.address') !== null);
  if (!cell) return undefined;
  const range = document.createRange();
  range.setStart(node, word.index);
  range.setEnd(node, word.index + word[0].length);
  const box = range.getBoundingClientRect();
  // The nearest letter is found for every point of a line, also beside its text.
  return x >= box.left - 2 && x <= box.right + 2 && y >= box.top - 2 && y <= box.bottom + 2 ? { cell, box, itself: false } : undefined;
}

/** Under what is pointed at, never over it; above it where there is no room below. */
function placeUnder({ left, top, bottom }: DOMRect): { left: number; top: number } {
  const below = bottom + 6 + HEIGHT < window.innerHeight;
  return { left: Math.max(4, Math.min(left, window.innerWidth - WIDTH - 8)), top: below ? bottom + 6 : top - HEIGHT - 6 };
}

async function whatIs({ cell, box, itself }: Pointed, machine: Machine): Promise<Shown | undefined> {
  const hand = cell.space === machine.programSpace ? await engine.run.rulerAt(cell.address) : undefined;
  const { view, labels, routines } = useRun.getState();
  if (!view || (itself && !hand)) return undefined;
  if (cell.address >= itemAt(view.spaces, cell.space).cells.length) return undefined;
  const words = itself ? [] : cellWords(machine, { view, labels, routines }, cell);
  return { hand, place: itself ? '' : placeText(machine, cell), words, ...placeUnder(box) };
}

const inside = ({ left, right, top, bottom }: DOMRect, x: number, y: number): boolean => x >= left && x <= right && y >= top && y <= bottom;

/** Listens to the whole page; shows nothing where nothing can be told. */
export function PointedAt() {
  const [shown, setShown] = useState<Shown>();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let turn = 0;
    let held: DOMRect | undefined;
    const away = (): void => {
      clearTimeout(timer);
      turn++;
      held = undefined;
      setShown(undefined);
    };
    const tell = (found: Pointed | undefined, machine: Machine): void => {
      if (!found) return;
      held = found.box;
      const mine = turn;
      void whatIs(found, machine).then((known) => mine === turn && setShown(known));
    };
    const moved = ({ clientX, clientY, buttons }: MouseEvent): void => {
      if (held && inside(held, clientX, clientY)) return;
      away();
      const { machine } = useDocument.getState();
      if (!machine || buttons !== 0) return;
      timer = setTimeout(() => {
        const target = document.elementFromPoint(clientX, clientY);
        tell(target ? (cellOf(machine, target) ?? cellInText(machine, clientX, clientY)) : undefined, machine);
      }, STAY);
    };
    const focused = ({ target }: FocusEvent): void => {
      away();
      const { machine } = useDocument.getState();
      const found = machine && target instanceof Element ? cellOf(machine, target) : undefined;
      if (machine && found) timer = setTimeout(() => tell(found, machine), STAY);
    };
    // What is told is of the moment: a step, or a key that may be one, ends it.
    const stepped = useRun.subscribe((now, before) => now.view !== before.view && away());
    document.addEventListener('mousemove', moved);
    document.addEventListener('focusin', focused);
    document.addEventListener('scroll', away, true);
    document.addEventListener('keydown', away, true);
    document.addEventListener('mousedown', away, true);
    return () => {
      away();
      document.removeEventListener('mousemove', moved);
      document.removeEventListener('focusin', focused);
      document.removeEventListener('scroll', away, true);
      document.removeEventListener('keydown', away, true);
      stepped();
      document.removeEventListener('mousedown', away, true);
    };
  }, []);
  if (!shown) return null;
  const { hand, place, words, left, top } = shown;
  return (
    <Box
      role="tooltip"
      position="fixed"
      width={`${WIDTH}px`}
      style={{ left, top }}
      zIndex="popover"
      pointerEvents="none"
      bg="paper"
      border="1.5px solid"
      borderColor="edge"
      borderRadius="7px"
      data-testid="pointed-ruler"
    >
      {place !== '' && (
        <Box as="p" px="12px" py="4px" fontSize="14px" lineHeight="19px" data-testid="pointed-cell">
          <b>{place}</b> {words.join(', ')}
        </Box>
      )}
      {hand && (
        <>
          <Box as="p" px="12px" pt="5px" fontFamily="mono" fontWeight="700" fontSize="15px">
            {hand.text}
          </Box>
          <FieldRuler hand={hand} />
        </>
      )}
    </Box>
  );
}

/** The fields of an instruction that somebody points at, in memory or in the listing, with the mouse or the keyboard. */
import { Box } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { InHand } from '@zettak/core/session/inHand';
import { engine } from '../session/engine';
import { FieldRuler } from './state/InHand';

/** ms that one has to stay. */
const STAY = 220;
const [WIDTH, HEIGHT] = [380, 96];

interface Shown {
  readonly hand: InHand;
  readonly left: number;
  readonly top: number;
}

/** The cell of the program space that an element tells of. */
function cellOf(target: EventTarget | null): { readonly element: HTMLElement; readonly cell: number } | undefined {
  if (!(target instanceof HTMLElement)) return undefined;
  const gutter = target.matches('.cm-gutterElement') ? target.querySelector<HTMLElement>('[data-points]') : null;
  const element = gutter ?? target.closest<HTMLElement>('[data-points], td[data-cell]');
  const text = element?.dataset.points ?? element?.dataset.cell;
  return element && text !== undefined ? { element, cell: Number(text) } : undefined;
}

/** Under what is pointed at, never over it; above it where there is no room below. */
function placeUnder(element: HTMLElement): { left: number; top: number } {
  const { left, top, bottom } = element.getBoundingClientRect();
  const below = bottom + 6 + HEIGHT < window.innerHeight;
  return { left: Math.max(4, Math.min(left, window.innerWidth - WIDTH - 8)), top: below ? bottom + 6 : top - HEIGHT - 6 };
}

/** Listens to the whole page; shows nothing where no instruction is. */
export function PointedRuler() {
  const [shown, setShown] = useState<Shown>();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let turn = 0;
    let cell: number | undefined;
    const away = (): void => {
      clearTimeout(timer);
      turn++;
      cell = undefined;
      setShown(undefined);
    };
    const pointed = ({ target }: Event): void => {
      const found = cellOf(target);
      if (found?.cell === cell) return;
      away();
      if (!found) return;
      cell = found.cell;
      const mine = turn;
      timer = setTimeout(() => {
        void engine.run.rulerAt(found.cell).then((hand) => {
          if (mine === turn && hand && found.element.isConnected) setShown({ hand, ...placeUnder(found.element) });
        });
      }, STAY);
    };
    const escaped = ({ key }: KeyboardEvent): void => {
      if (key === 'Escape') away();
    };
    document.addEventListener('mouseover', pointed);
    document.addEventListener('focusin', pointed);
    document.addEventListener('keydown', escaped, true);
    document.addEventListener('mousedown', away, true);
    return () => {
      away();
      document.removeEventListener('mouseover', pointed);
      document.removeEventListener('focusin', pointed);
      document.removeEventListener('keydown', escaped, true);
      document.removeEventListener('mousedown', away, true);
    };
  }, []);
  if (!shown) return null;
  const { hand, left, top } = shown;
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
      <Box as="p" px="12px" pt="5px" fontFamily="mono" fontWeight="700" fontSize="15px">
        {hand.text}
      </Box>
      <FieldRuler hand={hand} />
    </Box>
  );
}

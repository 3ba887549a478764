/** The ways of starting over, each with what it costs a run. */
import type { Runner } from '../engine/control/runner';
import { BY_RUN, OVER_CODE } from '../engine/meaning/state';
import type { StartOffer } from './protocol';

const ticksText = (ticks: number): string => `${ticks.toLocaleString('en-US')} ${ticks === 1 ? 'tick' : 'ticks'}`;
const cellsText = (cells: number): string => `${cells === 0 ? 'no' : cells} ${cells === 1 ? 'cell' : 'cells'}`;

const wasWritten = (mark: number): boolean => mark === BY_RUN || mark === OVER_CODE;

/** Cells that the run wrote. */
const writtenBy = ({ state }: Runner): number =>
  state.marks.reduce((sum, each) => sum + each.reduce((all, mark) => all + (wasWritten(mark) ? 1 : 0), 0), 0);

/** `byHand`: cells that were entered by hand. */
export function startOffers(runner: Runner, byHand: number): StartOffer[] {
  const past =
    runner.timeline.furthest > 0
      ? `The run of ${ticksText(runner.timeline.furthest)} so far, with its way back, is forgotten`
      : 'Nothing has run yet, so no run is lost';
  const written = writtenBy(runner);
  const outside = written === 0 ? 'it wrote none.' : `of the ${cellsText(written)} that it wrote, those outside it stay.`;
  const entered = byHand > 0 ? `, and ${cellsText(byHand)} entered by hand` : '';
  return [
    { way: 'again', loses: 'Nothing is lost: the run stays, and can be gone through again.' },
    { way: 'data', loses: `${past}. The program's cells are as assembled; ${outside}` },
    { way: 'reload', loses: `${past}. The text of the program is assembled anew; cells outside it stay${entered}.` },
    { way: 'clear', loses: `${past}. All memory goes: ${cellsText(written)} that it wrote, ${cellsText(byHand)} entered by hand.` },
  ];
}

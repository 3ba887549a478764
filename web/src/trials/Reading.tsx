/** How the entry that is being typed is read, in one place, so that nothing moves while somebody types. */
import { create } from 'zustand';
import { BASE_WORDS } from '@zettak/core/text/number';
import { trialEngine } from '../session/trialEngine';
import { Hint } from '../ui/Panel';
import { useTrials } from './state';

const useReading = create<{ readonly says: string; readonly wrong: boolean }>()(() => ({ says: '', wrong: false }));
const asked = { turn: 0 };

/** Of what is typed as the value of a place. */
export function tellReading(reads: { readonly of: 'given' | 'expected'; readonly place: string } | undefined, text: string): void {
  const turn = ++asked.turn;
  if (!reads || text.trim() === '') return useReading.setState({ says: '', wrong: false });
  void trialEngine.reading(reads.of, reads.place, text, useTrials.getState().table.base).then(({ says, wrong }) => {
    if (turn === asked.turn) useReading.setState({ says: says === '' ? '' : `${reads.place}: ${says}`, wrong });
  });
}

export function Reading() {
  const { says, wrong } = useReading();
  const base = useTrials((state) => state.table.base ?? state.tried?.facts?.base ?? 10);
  return (
    <Hint role="status" color={wrong ? 'problem' : 'ink3'} flex="1" minWidth="0" truncate data-testid="reading">
      {says || `unmarked numbers are ${BASE_WORDS[base]}; what is left open stays as the program has it`}
    </Hint>
  );
}

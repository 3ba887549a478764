/** What can be typed where a place or a condition is asked for, in names of the machine on the bench. */
import { useMemo } from 'react';
import { namesForExamples } from '@zettak/core/machine/model/examples';
import { useDocument } from './document';
import { useRun } from './run';

export interface PlaceExamples {
  /** A register, a flag, a name of the program where it has one, a cell. */
  readonly places: string;
  readonly cells: string;
  readonly condition: string;
}

const NONE: PlaceExamples = { places: '', cells: '', condition: '' };

export function usePlaceExamples(): PlaceExamples {
  const machine = useDocument((state) => state.machine);
  const label = useRun((state) => state.dataLabels.flatMap((each) => [...each.values()])[0]);
  return useMemo(() => {
    if (!machine) return NONE;
    const { register, flag, cell } = namesForExamples(machine);
    const listed = (...names: (string | undefined)[]): string => names.filter((each) => each !== undefined).join(', ');
    return { places: listed(register, flag, label, cell), cells: listed(label, cell), condition: `${register} = 0` };
  }, [machine, label]);
}

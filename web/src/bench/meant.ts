/** How an entry for a place will be read, told while it is typed. */
import { useEffect, useState } from 'react';
import { engine } from '../session/engine';

export interface Meant {
  readonly says: string;
  readonly refused: boolean;
}

/** Undefined where nothing is typed; `refuse` shows what came of an entry that was not taken. */
export function useMeant(place: string, text: string, base: number): readonly [Meant | undefined, refuse: (sentence: string) => void] {
  const [meant, setMeant] = useState<Meant>();
  useEffect(() => {
    let live = true;
    if (place.trim() === '' || text.trim() === '') setMeant(undefined);
    else
      void engine.hand.readValue(place, text, base).then((found) => {
        if (live) setMeant('refused' in found ? { says: found.refused, refused: true } : { says: `is ${found.reading}`, refused: false });
      });
    return () => {
      live = false;
    };
  }, [place, text, base]);
  return [meant, (sentence) => setMeant({ says: sentence, refused: true })];
}

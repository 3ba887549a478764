/** The system program's listing: where its lines lie, and what they have become. */
import { useEffect, useState } from 'react';
import type { Row } from '@zettak/core/image/program';
import { shownDigits } from '@zettak/core/text/number';
import { programSpaceOf } from '@zettak/core/machine/model/machine';
import { engine } from '../session/engine';
import { Plain } from '../ui/Panel';
import { useDefined } from './defining';
import { Card } from './Card';

export function SystemListing() {
  const sound = useDefined((state) => state.sound);
  const [rows, setRows] = useState<readonly Row[]>([]);
  const machine = sound?.machine;
  useEffect(() => {
    let live = true;
    void engine.definition.systemRows().then((found) => live && setRows(found));
    return () => {
      live = false;
    };
  }, [sound]);
  if (!machine || rows.length === 0) return null;
  const { addressWidth, width } = programSpaceOf(machine);
  return (
    <Card data-testid="system-listing">
      <header>
        <h3>Its listing</h3>
      </header>
      <Plain tabIndex={0} role="region" aria-label="Listing of the system program">
        {rows
          .filter((each) => each.address !== undefined && each.words.length > 0)
          .map(
            (each) =>
              `${shownDigits(each.address ?? 0, addressWidth, machine)}  ${each.words
                .map((word) => shownDigits(word, width, machine))
                .join(' ')
                .padEnd(14)}  ${each.text ?? ''}`,
          )
          .join('\n')}
      </Plain>
    </Card>
  );
}

/** The stacks of a document, each with the room that it has. */
import { registersByName, type Register, type Space, type Stack } from '../model/machine';
import { indexIn, report, type DocumentReading } from './reading';
import { itemAt } from '../../text/itemAt';

/** In the order of the document; one whose pointer or room is wrong is left out. */
export function resolveStacks(reading: DocumentReading, registers: readonly Register[], spaces: readonly Space[]): Stack[] {
  const pointers = registersByName(registers);
  return Object.entries(reading.document.stacks ?? {}).flatMap(([name, entry]): Stack[] => {
    const path = ['stacks', name];
    const named = indexIn(reading, [...path, 'pointer'], entry.pointer, [...pointers.keys()], 'register');
    const space =
      entry.space === undefined
        ? undefined
        : indexIn(
            reading,
            [...path, 'space'],
            entry.space,
            spaces.map((each) => each.name),
            'memory',
          );
    const size = space === undefined ? undefined : itemAt(spaces, space).cells * itemAt(spaces, space).banks;
    const { from, to, step = 1 } = entry;
    if (from > to) report(reading, [...path, 'from'], { code: 'region-turned', from, to });
    else if (size !== undefined && to >= size) report(reading, [...path, 'to'], { code: 'region-outside', to, name: entry.space!, size });
    if (named === undefined) return [];
    const down = entry.grows !== 'up';
    const full = entry['points at'] !== 'free';
    const pointer = pointers.get(entry.pointer)!;
    return [{ name, title: entry.title || name, pointer, ...(space !== undefined && { space }), from, to, down, full, step }];
  });
}

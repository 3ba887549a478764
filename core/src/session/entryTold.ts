/** How what is typed for a place is read, in words: “0x21 = 33. In decimal it would be 21.”; of cells behind each other each by itself. */
import type { WatchedPlace } from '../engine/watch/breakpoints';
import { valuesIn } from '../engine/watch/cellRow';
import { cellText } from '../engine/watch/places';
import { readEntry } from '../engine/meaning/services';
import type { Machine } from '../machine/model/machine';
import { entryReading, numberReader } from '../machine/model/numbers';

/** `width`: digits of the place. Undefined where it is no number. */
export function entryTold(
  machine: Machine,
  place: WatchedPlace,
  { text, base, width }: { readonly text: string; readonly base: number; readonly width: number },
): string | undefined {
  const rules = { width, radix: machine.radix, suffixes: machine.assembly.suffixes, base };
  const read = (each: string): ReturnType<typeof entryReading> | undefined => {
    const entry = readEntry(each, rules, numberReader(machine, base));
    return 'refused' in entry ? undefined : entryReading(machine, width, { text: each, value: entry.value, base });
  };
  const values = valuesIn(text);
  if (place.kind !== 'cell' || values.length === 1) {
    const single = read(text);
    return single?.remark === undefined ? single?.reads : `${single.reads}. ${single.remark}`;
  }
  const told = (each: string): string => {
    const { reads = each, remark } = read(each) ?? {};
    return remark === undefined ? reads : `${reads} (${remark.charAt(0).toLowerCase()}${remark.slice(1).replace(/\.$/, '')})`;
  };
  const last = cellText(machine, place.space, place.address + values.length - 1);
  return `${values.length} values, up to ${last}: ${values.map(told).join('; ')}`;
}

/** The devices of a document, each at the cells or ports where it answers. */
import { readNumber, unitOf } from '../../text/number';
import type { MachineDocument } from '../document/schema';
import type { Device, DevicePlace, Ports, Space } from '../model/machine';
import { indexIn, report, widthFor, type DocumentReading } from './reading';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

interface Places {
  readonly spaces: readonly Space[];
  readonly ports: Ports | undefined;
}

/** M[0xFE00], DATA[2, 5] or PORT[3]. */
function placeOf(reading: DocumentReading, path: Path, text: string, { spaces, ports }: Places): DevicePlace | undefined {
  const match = /^\s*([A-Za-z]\w*)\s*\[\s*(?:(\w+)\s*,\s*)?(\w+)\s*\]\s*$/.exec(text);
  const bank = match?.[2] === undefined ? 0 : readNumber(match[2]);
  const at = match && readNumber(itemAt(match, 3));
  if (!match || bank === undefined || at === undefined || at === null) return void report(reading, path, { code: 'bad-place', text });
  if (ports && match[1] === ports.name) {
    if (at < ports.count) return { port: at };
    return void report(reading, path, { code: 'place-outside', text, size: ports.count });
  }
  const names = [...spaces.map((each) => each.name), ...(ports ? [ports.name] : [])];
  const space = indexIn(reading, path, itemAt(match, 1), names, 'memory');
  if (space === undefined) return undefined;
  const { cells, banks } = itemAt(spaces, space);
  if (at < cells && bank < banks) return { space, address: bank * cells + at };
  return void report(reading, path, { code: 'place-outside', text, size: cells });
}

type DeviceEntry = NonNullable<MachineDocument['devices']>[string];

/** In the order of the document; what is wrong with one is added, and leaves it out. */
export function resolveDevices(reading: DocumentReading, places: Places, wordWidth: number): Device[] {
  const taken = new Map<string, string>();
  return Object.entries(reading.document.devices ?? {}).map(([name, entry]): Device => {
    const path = ['devices', name];
    const data = entry.data === undefined ? undefined : placeOf(reading, [...path, 'data'], entry.data, places);
    const status = entry.status === undefined ? undefined : placeOf(reading, [...path, 'status'], entry.status, places);
    for (const way of waysOf(entry.kind)) if (data) take(reading, taken, { path: [...path, 'data'], name, place: data, way });
    if (status) take(reading, taken, { path: [...path, 'status'], name, place: status, way: 'read' });
    const own = data && ('port' in data ? places.ports!.width : itemAt(places.spaces, data.space).width);
    const width = widthFor(reading, path, entry, own ?? wordWidth);
    const lines = Object.entries(entry.lines ?? {}).map(([line, told]) =>
      typeof told === 'number' ? { line, bit: told, title: line } : { line, bit: told.digit, title: told.title },
    );
    for (const { line, bit } of lines) {
      if (bit >= width)
        report(reading, [...path, 'lines', line], { code: 'start-too-wide', value: bit, width, unit: unitOf(reading.radix) });
    }
    return {
      name,
      title: entry.title || name,
      kind: entry.kind,
      width,
      ...(data && { data }),
      ...(status && { status }),
      readyBit: entry.ready ?? 0,
      readyLow: entry.active === 'low',
      clears: entry.clears ?? true,
      busy: entry.busy ?? 0,
      lines: new Map(lines.map(({ line, bit }) => [line, bit])),
      lineTitles: new Map(lines.map(({ line, title }) => [line, title])),
    };
  });
}

function waysOf(kind: DeviceEntry['kind']): ('read' | 'write')[] {
  if (kind === 'timer') return ['read', 'write'];
  return kind === 'keyboard' || kind === 'switches' ? ['read'] : ['write'];
}

function take(
  reading: DocumentReading,
  taken: Map<string, string>,
  { path, name, place, way }: { path: Path; name: string; place: DevicePlace; way: 'read' | 'write' },
): void {
  const key = `${way} ${'port' in place ? `port ${place.port}` : `${place.space} ${place.address}`}`;
  const other = taken.get(key);
  if (other !== undefined) report(reading, path, { code: 'devices-overlap', one: other, other: name });
  else taken.set(key, name);
}

/** The ports of a document. */
import type { Ports } from '../model/machine';
import { fitting, widthFor, type DocumentReading } from './reading';

/** Undefined where the document has none. */
export function resolvePorts(reading: DocumentReading, wordWidth: number): Ports | undefined {
  const { ports } = reading.document;
  if (!ports) return undefined;
  const width = widthFor(reading, ['ports'], ports, wordWidth);
  const idle = ports.idle === undefined ? undefined : fitting(reading, ['ports', 'idle'], ports.idle, width);
  return { name: ports.name, title: ports.title || ports.name, count: ports.count, width, ...(idle !== undefined && { idle }) };
}

/** The sentence of a built-in service. */
import { shownDigits } from '../../text/number';
import type { TickReport } from '../meaning/report';
import { name, text, type Segment, type Telling, type Tense } from './telling';
import { itemAt } from '../../text/itemAt';

/** What a built-in service did, or is about to do. */
export function serviceSentence({ machine }: Telling, { service }: TickReport, tense: Tense): Segment[] {
  const { kind, trap, value, place, output, number } = service!;
  const into = place?.name ?? '';
  const width = place?.width ?? machine.wordWidth;
  const done = tense === 'done';
  const shown = (path: 'address' | 'data'): Segment =>
    value === undefined ? text('nothing') : { kind: path, text: shownDigits(value, width, machine) };
  const start = [text('The trap '), name(trap ?? String(number))];
  const quoted = name(JSON.stringify(output?.replace(/\n$/, '') ?? ''));
  switch (kind) {
    case 'read number':
    case 'read character': {
      const what = kind === 'read number' ? 'a number' : 'a character';
      if (value === undefined) return [...start, text(` waits for ${what}, which will go to ${into}.`)];
      const way = done ? [' took ', ' from the input queue and put it into '] : [' takes ', ' from the input queue and puts it into '];
      return [...start, text(itemAt(way, 0)), shown('data'), text(itemAt(way, 1)), name(into), text('.')];
    }
    case 'read line':
      if (value === undefined) return [...start, text(' waits for a line of text.')];
      return [...start, text(done ? ' put a line of text into memory.' : ' puts a line of text into memory.')];
    case 'write number':
    case 'write signed':
    case 'write hex':
    case 'write binary':
    case 'write character':
      return [
        ...start,
        text(done ? ' wrote ' : ' writes '),
        quoted,
        text(' to the console, from '),
        name(into),
        text(', '),
        shown('data'),
        text('.'),
      ];
    case 'write text':
      return [
        ...start,
        text(done ? ' wrote the text at ' : ' writes the text at '),
        shown('address'),
        text(' to the console: '),
        name(JSON.stringify(output ?? '')),
        text('.'),
      ];
    case 'new line':
      return [...start, text(done ? ' began a new line.' : ' begins a new line.')];
    case 'set lamps':
      return [...start, text(done ? ' set the lamps to ' : ' sets the lamps to '), shown('data'), text('.')];
    case 'read switches':
      return [
        ...start,
        text(done ? ' read the switches, ' : ' reads the switches, '),
        shown('data'),
        text(', into '),
        name(into),
        text('.'),
      ];
    case 'end':
      return [...start, text(done ? ' ended the program.' : ' ends the program.')];
    case undefined:
      return [text('No such service.')];
    default:
      return kind satisfies never;
  }
}

/** What a document says of programs: its system program, and the rules of its assembly language. */
import { readNumber } from '../../text/number';
import type { AssemblyRules, Space, StringMark, SystemSource, Trap } from '../model/machine';
import { fitting, report, type DocumentReading } from './reading';

/** Undefined where the document has none; its text is assembled later. */
export function resolveSystem(reading: DocumentReading, space: Space): SystemSource | undefined {
  const { system } = reading.document;
  if (!system) return undefined;
  const { from, to, vector, source } = system;
  if (from > to) report(reading, ['system', 'from'], { code: 'region-turned', from, to });
  else if (to >= space.cells) report(reading, ['system', 'to'], { code: 'region-outside', to, name: space.name, size: space.cells });
  const lines = reading.yaml.blockLinesOf(['system', 'source']);
  return { source, from, to, lines, ...(vector && { vector }) };
}

/** Small letters behind numbers, and the base that each means. */
export const suffixesOf = ({ document }: DocumentReading): ReadonlyMap<string, number> =>
  new Map(Object.entries(document.assembly?.letters ?? {}).map(([letter, base]) => [letter.toLowerCase(), Number(base)]));

/** Without a word about strings the first trap that writes texts tells how they end; else 0 ends them. */
export function resolveAssembly(reading: DocumentReading, traps: readonly Trap[], width: number): AssemblyRules {
  const { constants = {}, strings, align = 1, case: way } = reading.document.assembly ?? {};
  return {
    constants: new Map(Object.entries(constants)),
    suffixes: suffixesOf(reading),
    strings: stringMark(reading, strings, width) ?? markOf(traps.find((each) => each.service === 'write text')),
    align,
    exact: way === 'exact',
  };
}

function stringMark(reading: DocumentReading, text: string | undefined, width: number): StringMark | undefined {
  const [kind, written] = text?.split(' ') ?? [];
  if (kind === 'length') return { kind };
  const value = readNumber(written ?? '');
  if (kind === 'end' && value !== undefined) return { kind, value: fitting(reading, ['assembly', 'strings'], value, width) };
  return kind === 'last' && value !== undefined && value < width ? { kind, digit: value } : undefined;
}

const markOf = (trap: Trap | undefined): StringMark =>
  trap?.lastMarked !== undefined ? { kind: 'last', digit: trap.lastMarked } : { kind: 'end', value: trap?.end ?? 0 };

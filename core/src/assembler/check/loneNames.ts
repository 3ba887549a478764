/** Names alone on their line that nothing uses: most likely operations that the machine does not have. */
import { nearest } from '../../text/nearest';
import { isMisspelt } from '../read/syntax';
import type { AssemblyProblem } from '../problems';
import type { Placement } from '../place/assembly';

/** Such a line leaves a gap in the program. A name at the start of a program is a label, unless it reads like an operation. */
export function loneNames(placement: Placement): AssemblyProblem[] {
  const { statements, templates } = placement;
  const alone = statements.filter((each) => each.alone);
  if (alone.length === 0) return [];
  const mentioned = new Set<string>();
  for (const { rest } of statements)
    for (const { kind, key } of rest) if (kind === 'name') for (const each of [key, ...key.split('.')]) mentioned.add(each);
  // A name that was most likely meant, and misspelt, is told where it is misspelt.
  for (const each of placement.problems) if (each.code === 'unknown-name' && each.nearest) mentioned.add(each.nearest.toUpperCase());
  const declared = new Set(placement.declared.map((each) => each.word.key));
  const definitions = new Map([...placement.names.values()].map((each) => [each.word.span.start, each]));
  const first = statements.find((each) => each.kind === 'operation' || each.alone);
  return alone.flatMap((statement): AssemblyProblem[] => {
    const { text, key, span } = statement.label!;
    if (mentioned.has(key) || declared.has(key)) return [];
    const misspelt = isMisspelt({ text }, templates.mnemonics, 1);
    if (!misspelt && (statement === first || statement.unit.part !== undefined)) return [];
    const definition = definitions.get(span.start);
    if (typeof definition?.value === 'number' && definition.space === undefined) placement.gaps.push(definition.value);
    const near = nearest(text, templates.mnemonics, 2);
    const colon = { title: `Write ${text}:`, edits: [{ span: { start: span.end, end: span.end }, text: ':' }] };
    const mend = near === undefined ? colon : { title: `Write ${near}`, edits: [{ span, text: near }] };
    return [
      { code: 'lone-name', grade: 'error', span, name: text, ...(near && { nearest: near }), mend, ...(near && { others: [colon] }) },
    ];
  });
}

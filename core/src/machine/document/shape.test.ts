import { readWholeMachine } from '../../assembler/machines';
import { beginningOf } from './beginning';
import { editDocument } from './edits';
import { documentSchema } from './schema';
import { SECTION_NAMES, SECTIONS, SINGLES, type Property } from './shape';

interface Schema {
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly additionalProperties?: Schema;
  readonly anyOf?: readonly Schema[];
}

const root = documentSchema() as Schema;
/** Parts that other editors are for, or that no one fills in. */
const ELSEWHERE: Readonly<Record<string, readonly string[]>> = { instructions: ['forms'], 'short forms': ['forms'] };

const named = (properties: readonly Property[]): string[] => properties.map((each) => String(each.at[0] ?? '')).sort();
const keysOf = (schema: Schema | undefined): string[] => {
  const whole = schema?.properties ? schema : schema?.anyOf?.find((each) => each.properties);
  return Object.keys(whole?.properties ?? {}).sort();
};

test.each(SECTIONS.filter((each) => each.name !== 'faults'))(
  'every key of $name can be filled in, and no other',
  ({ name, properties }) => {
    const part = root.properties?.[name]?.additionalProperties;
    expect([...new Set([...named(properties), ...(ELSEWHERE[name] ?? [])])].sort()).toEqual(keysOf(part));
  },
);

test('what a document has once is offered whole', () => {
  const all = Object.keys(root.properties ?? {});
  const singles = SINGLES.filter((each) => each.path.length > 0 && each.id !== 'entry').map((each) => String(each.path[0]));
  const own = named(SINGLES.find((each) => each.path.length === 0)!.properties);
  expect([...new Set([...SECTION_NAMES, ...singles, ...own])].sort()).toEqual(all.sort());
  for (const { path, properties, id } of SINGLES)
    if (path.length > 0 && id !== 'entry' && id !== 'families')
      expect([...new Set(named(properties))]).toEqual(keysOf(root.properties?.[String(path[0])]));
});

test.each(SECTIONS)('a new part of $name has the right shape', ({ name, fresh, names }) => {
  const { document } = beginningOf({ name: 'Ruff', word: 'bits', width: 8, memory: 'one', store: 'accumulator', counter: 'fetch' });
  const free = name === 'faults' ? 'division' : name === 'traps' ? '9' : `${names[0]}X`;
  const missing = document.includes(`\n${name}:`) ? document : `${document}${name}: {}\n`;
  const made = editDocument(missing, { kind: 'insert', path: [name, free], value: fresh(false) });
  if ('refused' in made) throw new Error(JSON.stringify(made.refused));
  const shapes = readWholeMachine(made.text).problems.filter((each) => ['wrong-shape', 'unknown-key', 'not-yaml'].includes(each.code));
  expect(shapes).toEqual([]);
});

/** Fields for what can be said of a part: a line, a number, one of several words, yes or no, several lines, named rows. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { Plus, Trash2 } from 'lucide-react';
import { useId, useState } from 'react';
import { freeName } from '@zettak/core/machine/document/outline';
import type { Property } from '@zettak/core/machine/document/shape';
import type { Plain } from '@zettak/core/machine/document/tree';
import type { Path } from '@zettak/core/machine/document/yaml';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry, TextEntry } from '../ui/Field';
import { Fold } from '../ui/Fold';
import { Hint } from '../ui/Panel';
import { plainAt, problemsIn, textAt, useDefined, useDefinedSame, useDefining } from './defining';
import { tones } from './OpcodeMap';
import { TicksEditor } from './TicksEditor';
import { useTyped } from './typed';

/** Names and values beside each other, the names as wide as the widest. */
const Rows = chakra('div', {
  base: {
    display: 'grid',
    gridTemplateColumns: 'minmax(130px, max-content) 1fr',
    columnGap: '14px',
    rowGap: '7px',
    alignItems: 'baseline',
    fontSize: '13px',
  },
});

interface FieldsProps {
  /** Of the part. */
  readonly path: Path;
  readonly properties: readonly Property[];
}

/** Properties that are seldom needed are folded away where they are not said. One that is being typed stays where it is. */
export function Fields({ path, properties }: FieldsProps) {
  const defining = useDefining();
  const [more] = useState(() => {
    const { look, sound } = defining.state;
    const said = (each: Property): boolean => plainAt(look?.document ?? sound?.document, [...path, ...each.at]) !== undefined;
    return properties.filter((each) => each.more && !said(each));
  });
  const shown = properties.filter((each) => !more.some(({ at }) => at.join() === each.at.join()));
  return (
    <>
      <Rows>
        {shown.map((each) => (
          <PropertyField key={each.at.join('/')} {...{ path, property: each }} />
        ))}
      </Rows>
      {more.length > 0 && (
        <Box mt="10px">
          <Fold title="What else can be said" testId="more-properties">
            <Rows pt="6px">
              {more.map((each) => (
                <PropertyField key={each.at.join('/')} {...{ path, property: each }} />
              ))}
            </Rows>
          </Fold>
        </Box>
      )}
    </>
  );
}

function PropertyField({ path: part, property }: { path: Path; property: Property }) {
  const id = useId();
  const path = [...part, ...property.at];
  const tall = property.kind === 'lines' || property.kind === 'ticks' || property.kind === 'rows';
  return (
    <>
      <chakra.label htmlFor={id} color="ink2" gridColumn={tall ? '1 / -1' : undefined}>
        {property.says}
        {property.hint && tall && <Hint ms="8px">{property.hint}</Hint>}
      </chakra.label>
      <Box gridColumn={tall ? '1 / -1' : undefined} minWidth="0">
        <Value {...{ id, path, property }} />
        <Wrong path={path} />
      </Box>
    </>
  );
}

/** What is wrong with a value, right below it. */
export function Wrong({ path }: { path: Path }) {
  const defining = useDefining();
  const found = useDefinedSame((state) =>
    problemsIn(state.look, path).filter((each) => each.grade !== 'remark' && each.path.length === path.length),
  );
  return found.slice(0, 3).map((each) => (
    <Box key={`${each.code} ${each.start}`} fontSize="13px" color={each.grade === 'error' ? 'problem' : 'ink2'} pt="2px">
      {each.sentence}{' '}
      {each.mend && (
        <Button look="link" onClick={() => defining.editor.applyEdits(each.mend?.edits ?? [])} className="mend">
          {each.mend.title}
        </Button>
      )}
    </Box>
  ));
}

function Value({ id, path, property }: { id: string; path: Path; property: Property }) {
  const document = useDefined((state) => state.look?.document);
  const said = textAt(document, path);
  switch (property.kind) {
    case 'text':
    case 'number':
      return <LineField {...{ id, path, property, said }} />;
    case 'yes':
      return <WordField {...{ id, path, said, says: property.says }} words={['yes', 'no']} />;
    case 'choice':
      return <WordField {...{ id, path, said, says: property.says, words: property.words }} />;
    case 'lines':
      return <LinesField {...{ id, path, said, says: property.says }} />;
    case 'ticks':
      return <TicksEditor {...{ path, said, label: property.says }} />;
    case 'list':
      return <ListField {...{ id, path, value: plainAt(document, path) }} />;
    case 'rows':
      return <RowsField {...{ path, property, value: plainAt(document, path) }} />;
    case 'format':
      return null;
    default:
      return property satisfies never;
  }
}

interface LineProps {
  readonly id: string;
  readonly path: Path;
  readonly said: string;
  readonly property: Pick<Property, 'kind' | 'hint'> & { readonly of?: string };
}

function LineField({ id, path, property, said }: LineProps) {
  const { value, type, leave } = useTyped(path, said);
  const names = useNames(property.of);
  const wrong = problemsIn(
    useDefined((state) => state.look),
    path,
  ).some((each) => each.grade === 'error');
  return (
    <>
      <Entry
        id={id}
        room={property.kind === 'number' ? 'value' : 'wide'}
        value={value}
        placeholder={property.hint ?? ''}
        aria-invalid={wrong}
        onChange={(event) => type(event.target.value)}
        onBlur={leave}
        {...(names.length > 0 && { list: `${id}-names` })}
        data-field={path.at(-1)}
      />
      {names.length > 0 && (
        <datalist id={`${id}-names`}>
          {names.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
    </>
  );
}

/** Names that can stand in a field. */
function useNames(of: string | undefined): readonly string[] {
  const document = useDefined((state) => state.look?.document);
  if (of === undefined) return [];
  if (of === 'phases') return (plainAt(document, ['cycle', 'phases']) as readonly string[] | undefined) ?? [];
  if (of === 'families') {
    const all = Object.values((plainAt(document, ['instructions']) as Record<string, Plain> | undefined) ?? {});
    return [...new Set(all.map((each) => textAt(each, ['family'])).filter((each) => each !== ''))];
  }
  return Object.keys((plainAt(document, [of]) as object | undefined) ?? {});
}

interface WordProps {
  readonly id: string;
  readonly path: Path;
  readonly said: string;
  readonly says: string;
  readonly words: readonly string[];
}

function WordField({ id, path, said, says, words }: WordProps) {
  const defining = useDefining();
  const known = said === '' || words.includes(said) ? words : [...words, said];
  return (
    <Choice
      id={id}
      label={says}
      value={said}
      choose={(value) => void defining.act(value === '' ? { kind: 'remove', path } : { kind: 'set', path, value })}
      options={[{ value: '', says: '–' }, ...known.map((each) => ({ value: each, says: each }))]}
      data-field={path.at(-1)}
    />
  );
}

function LinesField({ id, path, said, says }: Omit<WordProps, 'words'>) {
  const withEnd = (value: string): string => (value === '' || value.endsWith('\n') ? value : `${value}\n`);
  const { value, type, leave } = useTyped(path, said.replace(/\n$/, ''), { toText: withEnd });
  return (
    <TextEntry
      id={id}
      aria-label={says}
      rows={Math.min(22, Math.max(4, value.split('\n').length + 1))}
      value={value}
      onChange={(event) => type(event.target.value)}
      onBlur={leave}
      fontSize="13px"
      lineHeight="19px"
      spellCheck={false}
      data-field={path.at(-1)}
    />
  );
}

/** Words in their order, with commas between. */
function ListField({ id, path, value }: { id: string; path: Path; value: Plain | undefined }) {
  const defining = useDefining();
  const words = Array.isArray(value) ? (value as readonly string[]) : [];
  const [local, setLocal] = useState<string>();
  return (
    <Entry
      id={id}
      room="wide"
      value={local ?? words.join(', ')}
      onChange={(event) => {
        setLocal(event.target.value);
        defining.type(
          path,
          event.target.value
            .split(',')
            .map((each) => each.trim())
            .filter((each) => each !== ''),
        );
      }}
      onBlur={() => setLocal(undefined)}
      data-field={path.at(-1)}
    />
  );
}

type RowsProperty = Property & { readonly kind: 'rows' };

function RowsField({ path, property, value }: { path: Path; property: RowsProperty; value: Plain | undefined }) {
  const defining = useDefining();
  const names = Object.keys(typeof value === 'object' && !Array.isArray(value) ? value : {});
  const offered = useNames(property.of);
  const add = (): void => {
    const next = offered.find((each) => !names.includes(each));
    const digits = /digit|number/i.test(property.name);
    const free = digits
      ? String(names.reduce((most, each) => Math.max(most, Number(each) + 1 || 0), 0))
      : (next ?? freeName('name', ['name1', ...names]));
    void defining.act({ kind: 'insert', path: [...path, free], value: property.columns ? {} : (property.hint ?? '') });
  };
  return (
    <Box data-testid={`rows-${String(path.at(-1))}`}>
      {names.map((name) => (
        <Flex key={name} gap="6px" align="baseline" py="2px" wrap="wrap">
          <NameField path={[...path, name]} says={property.name} />
          {property.columns ? (
            property.columns.map(([key, says, words]) => {
              const own = { path: [...path, name, key], says: `${says} of ${name}` };
              return words ? (
                <WordCell key={key} {...{ ...own, words }} />
              ) : (
                <Cell key={key} {...own} placeholder={says} room={key === 'title' ? 'free' : 'word'} />
              );
            })
          ) : (
            <Cell path={[...path, name]} says={`${property.says}, ${name}`} placeholder={property.hint ?? ''} room="free" />
          )}
          <Button look="tag" aria-label={`Remove ${name}`} onClick={() => void defining.act({ kind: 'remove', path: [...path, name] })}>
            <Trash2 size={13} aria-hidden />
          </Button>
        </Flex>
      ))}
      <Button look="tag" onClick={add} aria-label={`${property.name.toLowerCase()}: one more of “${property.says}”`}>
        <Plus size={13} aria-hidden /> {property.name.toLowerCase()}
      </Button>
    </Box>
  );
}

/** One of several words; those that are colours are shown as such, too. */
function WordCell({ path, says, words }: { path: Path; says: string; words: readonly string[] }) {
  const said = useDefined((state) => textAt(state.look?.document, path));
  const id = useId();
  return (
    <Flex align="center" gap="4px" css={tones}>
      <Box className={said} width="18px" height="18px" border="1px solid" borderBottomWidth="3px" borderColor="edge" aria-hidden />
      <WordField {...{ id, path, said, says, words }} />
    </Flex>
  );
}

function Cell({ path, says, placeholder, room }: { path: Path; says: string; placeholder: string; room: 'word' | 'free' }) {
  const said = useDefined((state) => textAt(state.look?.document, path));
  const { value, type, leave } = useTyped(path, said, { optional: room === 'word' });
  return (
    <Entry
      aria-label={says}
      placeholder={placeholder}
      room={room}
      flex={room === 'free' ? '1' : undefined}
      minWidth={room === 'free' ? '120px' : undefined}
      fontFamily="mono"
      value={value}
      onChange={(event) => type(event.target.value)}
      onBlur={leave}
    />
  );
}

/** The name of a row: taken when the field is left or Enter is pressed. */
function NameField({ path, says }: { path: Path; says: string }) {
  const defining = useDefining();
  const own = String(path.at(-1));
  const [name, setName] = useState(own);
  const take = (): void => {
    if (name !== own && name !== '') void defining.act({ kind: 'rename', path, name }).then((made) => made ?? setName(own));
    else setName(own);
  };
  return (
    <Entry
      aria-label={`${says}: ${own}`}
      room="value"
      value={name}
      onChange={(event) => setName(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => event.key === 'Enter' && take()}
    />
  );
}

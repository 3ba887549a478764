/** The editor of the part that is chosen. */
import { Box, chakra, Flex, Table } from '@chakra-ui/react';
import { Plus, Trash2 } from 'lucide-react';
import { memo } from 'react';
import { exampleOfRule } from '@zettak/core/engine/tell/why';
import { sectionOf, SINGLES, type Property } from '@zettak/core/machine/document/shape';
import type { Plain } from '@zettak/core/machine/document/tree';
import type { Path } from '@zettak/core/machine/document/yaml';
import { registerWords, ruleWords, serviceWords, spaceWords } from '@zettak/core/machine/model/describe';
import { programSpaceOf, type Machine } from '@zettak/core/machine/model/machine';
import { Button } from '../ui/Button';
import { Empty } from '../ui/Empty';
import { Entry, TextEntry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { plainAt, textAt, useDefined, useDefining } from './defining';
import { CycleLine } from './CycleLine';
import { Fields, Wrong } from './Fields';
import { FormatRuler, useFormat } from './FormatRuler';
import { Card } from './Card';
import { Instruction } from './Instruction';
import { MemoryMap } from './MemoryMap';
import { SystemListing } from './SystemListing';
import { useTyped } from './typed';
import { Coverage } from './Coverage';
import { Versions } from './Versions';

export const PartEditor = memo(function PartEditor() {
  const chosen = useDefined((state) => state.chosen);
  const has = useDefined((state) => plainAt(state.look?.document ?? state.sound?.document, state.chosen.slice(0, 2)) !== undefined);
  const looked = useDefined((state) => state.look !== undefined);
  const broken = useDefined((state) => state.look !== undefined && state.look.document === undefined);
  const [section, name] = chosen;
  const single = SINGLES.find((each) => each.id === section);
  const there = single !== undefined || has;
  // Fields and pictures come together, so that none moves another.
  if (!looked) return null;
  if (!there || (single === undefined && name === undefined))
    return (
      <Box p="20px">
        <Empty title="Choose a part on the left.">What it says stands here then, and can be changed.</Empty>
      </Box>
    );
  return (
    <chakra.fieldset disabled={broken} border="0" minWidth="0" data-part-editor={chosen.join(' / ')}>
      {single ? (
        <SinglePart id={single.id} />
      ) : section === 'instructions' ? (
        <Instruction key={String(name)} name={String(name)} />
      ) : (
        <NamedPart key={chosen.join('/')} path={chosen.slice(0, 2)} />
      )}
    </chakra.fieldset>
  );
});

function SinglePart({ id }: { id: string }) {
  const single = SINGLES.find((each) => each.id === id);
  const machine = useDefined((state) => state.sound?.machine ?? state.sound?.clashing);
  if (!single) return null;
  return (
    <>
      <Title>{single.says}</Title>
      {id === 'cycle' && <CycleLine />}
      {(id === 'system' || id === 'machine') && machine && <MemoryMap machine={machine} />}
      <Card>
        <Fields key={id} path={single.path} properties={single.properties} />
      </Card>
      {id === 'system' && <SystemListing />}
      {id === 'machine' && (
        <>
          <Versions />
          <Coverage />
        </>
      )}
    </>
  );
}

const Title = chakra('h2', { base: { fontSize: '20px', fontWeight: '700', mb: '10px' } });

function NamedPart({ path }: { path: Path }) {
  const section = sectionOf(path[0]);
  const machine = useDefined((state) => state.sound?.machine ?? state.sound?.clashing);
  const document = useDefined((state) => state.look?.document);
  if (!section) return null;
  const [, name = ''] = path;
  const whole = plainAt(document, path);
  return (
    <>
      <Title>
        <chakra.span fontFamily="mono">{name === '' ? '(none)' : name}</chakra.span>{' '}
        <Hint fontSize="14px" fontWeight="400">
          {section.one}
        </Hint>
      </Title>
      {machine && ['spaces', 'stacks', 'devices'].includes(section.name) && <MemoryMap machine={machine} marked={String(name)} />}
      {section.name === 'formats' ? (
        <FormatPart name={String(name)} machine={machine} />
      ) : (
        <Card>
          <Fields path={path} properties={typeof whole === 'string' ? withoutName(section.properties) : section.properties} />
          <Wrong path={path} />
        </Card>
      )}
      {section.name === 'short forms' && <ShortForms path={path} />}
      {machine && <Amounts machine={machine} section={section.name} name={String(name)} />}
    </>
  );
}

/** A part that is one word has no name beside it. */
const withoutName = (properties: readonly Property[]): readonly Property[] => properties.filter((each) => each.at.length === 0);

function FormatPart({ name, machine }: { name: string; machine: Machine | undefined }) {
  const { path, text } = useFormat(name);
  const only: readonly Property[] = [{ kind: 'text', at: ['only if'], says: 'Carried out only if', hint: 'c holds' }];
  return (
    <Card>
      <FormatRuler path={path} text={text} cell={machine ? programSpaceOf(machine).width : 8} radix={machine?.radix ?? 2} />
      <Wrong path={path} />
      {path.length === 3 && (
        <Box pt="8px">
          <Fields path={['formats', name]} properties={only} />
        </Box>
      )}
    </Card>
  );
}

/** What a part amounts to, in words. */
function Amounts({ machine, section, name }: { machine: Machine; section: string; name: string }) {
  const words = (): string | undefined => {
    if (section === 'spaces') {
      const space = machine.spaces.find((each) => each.name === name);
      return space && spaceWords(machine, space);
    }
    if (section === 'registers') {
      const register = machine.registers.find((each) => each.name === name);
      return register && registerWords(machine, register);
    }
    if (section === 'conditions') {
      const condition = machine.conditions.find((each) => each.names.includes(name));
      return condition && `Code ${condition.code}; holds where: ${condition.text}.`;
    }
    if (section === 'traps') {
      const trap = machine.traps.find((each) => String(each.number) === name);
      return trap && `${trap.name}: ${serviceWords(trap)}.`;
    }
    return undefined;
  };
  if (section === 'flags') return <FlagRule machine={machine} name={name} />;
  const said = words();
  return said === undefined ? null : (
    <Hint as="p" ps="4px" data-testid="amounts">
      {said}
    </Hint>
  );
}

function FlagRule({ machine, name }: { machine: Machine; name: string }) {
  const flag = machine.flags.find((each) => each.name === name);
  if (!flag) return null;
  const example = exampleOfRule(machine, flag);
  return (
    <Card data-testid="flag-rule">
      <header>
        <h3>What it says</h3>
      </header>
      <p>{ruleWords(flag)}.</p>
      {example && (
        <>
          <Table.Root width="auto" mt="6px" css={{ '& td': { fontFamily: 'mono', textAlign: 'right' } }}>
            <Table.Body>
              {example.columns.map((each, at) => (
                <Table.Row key={at} borderTop={each.role === 'result' ? '1px solid' : undefined} borderColor="ink">
                  <Table.Cell>{each.sign}</Table.Cell>
                  <Table.Cell whiteSpace="pre">{each.binary}</Table.Cell>
                  <Table.Cell>{each.shown}</Table.Cell>
                  <Table.Cell>{each.decimal}</Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
          <Hint as="p" pt="4px">
            {example.sentence}
          </Hint>
        </>
      )}
    </Card>
  );
}

function ShortForms({ path }: { path: Path }) {
  const defining = useDefining();
  const forms = useDefined((state) => plainAt(state.look?.document, [...path, 'forms']));
  const list = Array.isArray(forms) ? (forms as readonly Plain[]) : [];
  const add = (): void =>
    void defining.act({ kind: 'insert', path: [...path, 'forms', list.length], value: { write: `${String(path[1])} {n}`, for: '' } });
  return (
    <>
      {list.map((_, at) => (
        <ShortFormCard key={at} path={[...path, 'forms', at]} only={list.length === 1} />
      ))}
      <Button look="tag" onClick={add}>
        <Plus size={13} aria-hidden /> form
      </Button>
    </>
  );
}

function ShortFormCard({ path, only }: { path: Path; only: boolean }) {
  const defining = useDefining();
  const document = useDefined((state) => state.look?.document);
  const write = useTyped([...path, 'write'], textAt(document, [...path, 'write']), { optional: false });
  const lines = useTyped([...path, 'for'], textAt(document, [...path, 'for']).replace(/\n$/, ''), {
    optional: false,
    toText: (text) => (text === '' || text.endsWith('\n') ? text : `${text}\n`),
  });
  return (
    <Card>
      <Flex gap="8px" align="baseline" fontSize="13px" color="ink2">
        Written
        <Entry
          flex="1"
          fontFamily="mono"
          value={write.value}
          onChange={(event) => write.type(event.target.value)}
          onBlur={write.leave}
          aria-label="Written form"
        />
        {!only && (
          <Button look="tag" aria-label="Remove this form" onClick={() => void defining.act({ kind: 'remove', path })}>
            <Trash2 size={13} aria-hidden />
          </Button>
        )}
      </Flex>
      <Wrong path={[...path, 'write']} />
      <chakra.label fontSize="13px" color="ink2">
        stands for
        <TextEntry
          rows={Math.max(3, lines.value.split('\n').length + 1)}
          value={lines.value}
          onChange={(event) => lines.type(event.target.value)}
          onBlur={lines.leave}
        />
      </chakra.label>
      <Wrong path={[...path, 'for']} />
    </Card>
  );
}

/** The reference card of a machine, for students: on the screen, and printed on a sheet or two of A4. */
import { chakra, Flex, Table } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { NavLink, useParams } from 'react-router';
import { cardOf, type CardRow } from '@zettak/core/machine/model/card';
import { deviceWords, registerWords, ruleWords, serviceWords, spaceWords, stackWords } from '@zettak/core/machine/model/describe';
import { exampleOf } from '@zettak/core/machine/model/examples';
import { flagName, type Machine } from '@zettak/core/machine/model/machine';
import { BASE_WORDS } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { Ruler } from './Ruler';

/** The newest version; while there is none, the draft. */
async function machineOf(id: string): Promise<{ machine: Machine; version: number }> {
  const document = await client.get('machine', id);
  const number = document.versions.at(-1)?.number ?? 0;
  const { text, language } = number > 0 ? await client.version('machine', id, number) : { text: document.draft, language: undefined };
  await engine.texts.setBases(await baseTexts(text));
  const { machine, problems } = await engine.texts.checkMachine(text, language);
  if (!machine) throw new Error(`${document.name} has errors: ${problems[0]?.sentence ?? ''}`);
  return { machine, version: number };
}

export function CardPage() {
  const { machine: id = '' } = useParams();
  const [found, setFound] = useState<{ machine: Machine; version: number }>();
  const [failure, setFailure] = useState<string>();
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    let live = true;
    setFound(undefined);
    setFailure(undefined);
    machineOf(id).then(
      (each) => live && setFound(each),
      (error: Error) => live && setFailure(error.message),
    );
    return () => {
      live = false;
    };
  }, [id, turn]);
  return (
    <Shell
      title="Reference card"
      controls={
        <Flex flex="1" gap="12px" align="center">
          <chakra.span color="onBar2">{found && `${found.machine.name}, reference card`}</chakra.span>
          <Button look="barLine" ms="auto" asChild>
            <NavLink to={`/machines/${id}`}>The machine</NavLink>
          </Button>
          <Button look="bar" disabled={!found} onClick={() => window.print()} data-testid="print-card">
            Print
          </Button>
        </Flex>
      }
    >
      <Failure failure={failure} again={() => setTurn(turn + 1)} />
      {found && <Card {...found} />}
    </Shell>
  );
}

const Sheet = chakra('article', {
  base: {
    maxWidth: '1080px',
    mx: 'auto',
    px: '24px',
    py: '16px',
    fontSize: '14px',
    lineHeight: '19px',
    '& h2': { fontSize: '24px', lineHeight: '30px', fontWeight: '700' },
    '& h3': { fontSize: '15px', fontWeight: '700', mt: '14px', mb: '3px', breakAfter: 'avoid' },
    '& td, & th': { px: '6px', py: '1px', verticalAlign: 'top', textAlign: 'left', borderBottom: '1px solid', borderColor: 'line' },
    '& th': { fontWeight: '600', color: 'ink2', fontSize: '12.5px' },
    '& tr': { breakInside: 'avoid' },
    '& code': { fontFamily: 'mono', fontSize: '13px', whiteSpace: 'nowrap' },
    '@media print': {
      maxWidth: 'none',
      p: '0',
      fontSize: '8.2pt',
      lineHeight: '10.4pt',
      color: '#000',
      '& h2': { fontSize: '15pt', lineHeight: '17pt' },
      '& h3': { fontSize: '9.5pt', mt: '6pt', mb: '1pt' },
      '& th': { fontSize: '7.5pt', color: '#000' },
      '& td, & th': { px: '3pt', py: '0.4pt', borderColor: '#999' },
      '& code, & code span, & td span': { fontSize: '8pt' },
    },
  },
});

/** One of two beside each other, on paper too. */
const Half = chakra('div', { base: { flex: '1 1 380px', '@media print': { flex: '1 1 46%' } } });

const Scroller = chakra('div', {
  base: { height: '100%', overflow: 'auto', bg: 'paper', '@media print': { height: 'auto', overflow: 'visible' } },
});

function Card({ machine, version }: { machine: Machine; version: number }) {
  const rows = cardOf(machine);
  const families = [...new Set(rows.map((each) => each.family))];
  const digits =
    machine.radix === 10 ? `${machine.wordWidth} decimal digits` : `${machine.wordWidth} bits, shown in ${BASE_WORDS[machine.base]}`;
  return (
    <Scroller tabIndex={0} aria-label={`Reference card of ${machine.name}`} role="region" data-testid="card">
      <style>{PRINTED}</style>
      <Sheet>
        <h2>{machine.name}</h2>
        <p>
          {machine.title}
          {machine.title && '; '}words of {digits}. <Hint>{version > 0 ? `Version ${version}.` : 'A draft without a version.'}</Hint>
        </p>
        <Flex gap="0 28px" wrap="wrap" css={{ '@media print': { columnGap: '14px' } }}>
          <Half>
            <Memories machine={machine} />
            <Registers machine={machine} />
          </Half>
          <Half>
            <Flags machine={machine} />
            <Conditions machine={machine} />
            <Traps machine={machine} />
            <Stacks machine={machine} />
            <Devices machine={machine} />
          </Half>
        </Flex>
        <h3>Formats</h3>
        <Flex gap="6px 24px" wrap="wrap">
          {machine.formats.map((format) => (
            <Ruler key={format.name} machine={machine} format={format} />
          ))}
        </Flex>
        {families.map((family) => (
          <Family key={family} {...{ machine, rows, family }} />
        ))}
        <ShortForms machine={machine} />
      </Sheet>
    </Scroller>
  );
}

/** The page without its frame, as long as it is. */
const PRINTED = `@page { size: A4; margin: 11mm 12mm; }
@media print {
  html, body, #root, #root > div, main { height: auto !important; overflow: visible !important; display: block !important; }
  #root > div > header { display: none !important; }
  html { color-scheme: light; }
}`;

/** A table with a heading; nothing where it has no rows. */
function Rows({ title, heads, rows }: { title: string; heads: readonly string[]; rows: readonly (readonly React.ReactNode[])[] }) {
  if (rows.length === 0) return null;
  return (
    <section>
      <h3>{title}</h3>
      <Table.Root width="100%">
        <Table.Header>
          <Table.Row>
            {heads.map((each) => (
              <Table.ColumnHeader key={each} scope="col">
                {each}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {rows.map((cells, at) => (
            <Table.Row key={at}>
              {cells.map((each, column) => (
                <Table.Cell key={column}>{each}</Table.Cell>
              ))}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </section>
  );
}

interface Of {
  readonly machine: Machine;
}

const Memories = ({ machine }: Of) => (
  <Rows
    title="Memory"
    heads={['name', 'what it is', 'cells']}
    rows={machine.spaces.map((each) => [<code key="n">{each.name}</code>, each.title, spaceWords(machine, each)])}
  />
);

function Registers({ machine }: Of) {
  const single = machine.registers.map((each) => [
    <code key="n">{each.also ? `${each.name}, ${each.also}` : each.name}</code>,
    each.title === each.name ? (each.role ?? '') : each.title,
    registerWords(machine, each),
  ]);
  const wide = machine.composites.map(({ name, title, width, packed }) => [
    <code key="n">{name}</code>,
    title === name ? (packed ? 'flags as a word' : 'a pair') : title,
    `${width} ${machine.radix === 10 ? 'digits' : 'bits'}`,
  ]);
  const views = machine.views.map(({ name, title, options }) => [
    <code key="n">{name}</code>,
    title === name ? 'by number' : title,
    <code key="o">{options.map((each, at) => `${at} ${each?.name ?? '–'}`).join(', ')}</code>,
  ]);
  return <Rows title="Registers" heads={['name', 'what it is', 'holds']} rows={[...single, ...wide, ...views]} />;
}

const Flags = ({ machine }: Of) => (
  <Rows
    title="Flags"
    heads={['name', 'what it is', 'is']}
    rows={machine.flags.map((each, at) => [<code key="n">{flagName(machine, at)}</code>, each.title, ruleWords(each)])}
  />
);

function Conditions({ machine }: Of) {
  const meanings = machine.conditions.map(({ text, title }) => (title === text ? '' : title));
  const told = meanings.some((each) => each !== '');
  return (
    <Rows
      title="Conditions"
      heads={['name', 'code', 'holds where', ...(told ? ['means'] : [])]}
      rows={machine.conditions.map(({ names, code, text }, at) => [
        <code key="n">{names.map((each) => (each === '' ? '(none)' : each)).join(', ')}</code>,
        code,
        <code key="w">{text}</code>,
        ...(told ? [meanings[at]] : []),
      ])}
    />
  );
}

const Traps = ({ machine }: Of) => (
  <Rows
    title="Traps"
    heads={['number', 'name', 'does']}
    rows={[
      ...machine.traps.map((each) => [each.number, <code key="n">{each.name}</code>, serviceWords(each)]),
      ...machine.routines.map((each) => [each.number, <code key="n">{each.name}</code>, 'a routine of the system program']),
    ]}
  />
);

const Stacks = ({ machine }: Of) => (
  <Rows
    title="Stacks"
    heads={['name', 'what it is', 'lies']}
    rows={machine.stacks.map((each) => [<code key="n">{each.name}</code>, each.title, stackWords(machine, each)])}
  />
);

function Devices({ machine }: Of) {
  return (
    <Rows
      title="Devices"
      heads={['name', 'what it is', 'where, and its lines']}
      rows={machine.devices.map((device) => {
        const { name, title, kind, lines, lineTitles } = device;
        const named = [...lines].map(([line, bit]) => `${bit} ${lineTitles.get(line) ?? line}`).join(', ');
        return [
          <code key="n">{name}</code>,
          title === name ? kind : title,
          [deviceWords(machine, device), named && `lines ${named}`].filter((each) => each).join('; '),
        ];
      })}
    />
  );
}

function Family({ machine, rows, family }: Of & { rows: readonly CardRow[]; family: string }) {
  const own = machine.forms.map((form, at) => ({ form, row: itemAt(rows, at) })).filter(({ row }) => row.family === family);
  return (
    <Rows
      title={family.charAt(0).toUpperCase() + family.slice(1)}
      heads={['written', 'encoding', 'for example', 'does', 'flags', 'ticks']}
      rows={own.map(({ form, row }) => {
        const example = exampleOf(machine, form);
        return [
          <code key="w">{row.written}</code>,
          <code key="e">{row.cells.join(', ')}</code>,
          example && (
            <code key="x">
              {example.line} <Hint as="span">{example.cells.join(' ')}</Hint>
            </code>
          ),
          <span key="d">
            {row.title}
            {row.onlyIf !== undefined && `, only if ${row.onlyIf}`}
            {row.spelled.length > 0 && <Hint> {row.spelled.map(({ operation }) => operation).join(' ')}</Hint>}
          </span>,
          <chakra.span key="f" whiteSpace="nowrap">
            {row.flags.join(' ') || '–'}
          </chakra.span>,
          row.ticks,
        ];
      })}
    />
  );
}

const ShortForms = ({ machine }: Of) => (
  <Rows
    title="Short forms"
    heads={['written', 'stands for', 'does']}
    rows={machine.shortForms.map(({ written, lines, title }) => [
      <code key="w">{written.replace(/[{}]/g, '')}</code>,
      <code key="l">{lines.join('; ').replace(/[{}]/g, '')}</code>,
      title,
    ])}
  />
);

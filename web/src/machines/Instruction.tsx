/** One instruction whole: how it is written, how it is encoded, what it does tick by tick; and what it does with values. */
import { Box, chakra, Flex, Table } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import { readCode, readFormat, writeCode } from '@zettak/core/machine/document/codeText';
import type { Plain } from '@zettak/core/machine/document/tree';
import { flagsSetBy } from '@zettak/core/machine/model/card';
import { programSpaceOf, type Form, type Machine } from '@zettak/core/machine/model/machine';
import { shownDigits, readNumber } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { Cases } from './Cases';
import { plainAt, textAt, useDefined, useDefining } from './defining';
import { Wrong } from './Fields';
import { FormatRuler, useFormat } from './FormatRuler';
import { TicksEditor } from './TicksEditor';
import { TryIt } from './TryIt';
import { useTyped } from './typed';

/** A card of the page. */
export const Card = chakra('section', {
  base: {
    bg: 'paper',
    border: '1px solid',
    borderColor: 'line',
    borderRadius: '7px',
    px: '14px',
    py: '10px',
    mb: '10px',
    '& > header': { display: 'flex', gap: '10px', alignItems: 'baseline', mb: '6px', flexWrap: 'wrap' },
    '& > header h3': { fontSize: '14px', fontWeight: '700', color: 'ink2' },
    '& > header > :last-child:not(h3)': { marginInlineStart: 'auto' },
  },
});

const formsIn = (document: Plain | undefined, name: string): readonly Plain[] => {
  const forms = plainAt(document, ['instructions', name, 'forms']);
  return Array.isArray(forms) ? (forms as readonly Plain[]) : [];
};

export function Instruction({ name }: { name: string }) {
  const document = useDefined((state) => state.look?.document);
  const at = useDefined((state) => state.form);
  const sound = useDefined((state) => state.sound);
  const newest = useDefined((state) => state.look);
  const machine = sound?.machine ?? sound?.clashing;
  const forms = formsIn(document, name);
  const chosen = Math.min(at, forms.length - 1);
  const form = machine?.forms.filter((each) => each.mnemonic === name)[chosen];
  const old = newest !== sound;
  return (
    <>
      <Head name={name} />
      <Forms {...{ name, forms, chosen }} />
      {chosen >= 0 && (
        <Box key={`${name} ${chosen}`}>
          <Written {...{ name, chosen, machine, form }} />
          <Encoded {...{ name, chosen, machine }} />
          <DoneInTicks {...{ name, chosen, form }} machine={machine} />
          {machine && form && sound?.machine ? (
            <>
              <TryIt {...{ name, at: chosen, form, machine, old }} />
              <Cases {...{ name, at: chosen, machine, form, old }} text={sound.text} />
            </>
          ) : (
            <Card>
              <header>
                <h3>Try it now</h3>
              </header>
              <Hint>
                {sound?.clashing
                  ? 'Its encoding means two things: give it one of its own, and it runs here.'
                  : 'It runs here as soon as the machine has no errors.'}
              </Hint>
            </Card>
          )}
        </Box>
      )}
    </>
  );
}

function Head({ name }: { name: string }) {
  const document = useDefined((state) => state.look?.document);
  const path = ['instructions', name];
  const title = useTyped([...path, 'title'], textAt(document, [...path, 'title']));
  const family = useTyped([...path, 'family'], textAt(document, [...path, 'family']));
  const families = useDefined((state) => familiesOf(state.look?.document));
  return (
    <Flex gap="12px" align="baseline" mb="10px" wrap="wrap">
      <chakra.h2 fontFamily="mono" fontSize="24px" fontWeight="700" data-testid="instruction-name">
        {name}
      </chakra.h2>
      <Entry
        flex="1"
        minWidth="220px"
        aria-label="What it does, in words"
        value={title.value}
        onChange={(event) => title.type(event.target.value)}
        onBlur={title.leave}
        data-field="title"
      />
      <chakra.label fontSize="13px" color="ink2">
        family{' '}
        <Entry
          width="150px"
          list="families"
          value={family.value}
          onChange={(event) => family.type(event.target.value)}
          onBlur={family.leave}
          data-field="family"
        />
      </chakra.label>
      <datalist id="families">
        {families.split('\n').map((each) => (
          <option key={each} value={each} />
        ))}
      </datalist>
    </Flex>
  );
}

/** One a line, so that it is equal as long as they are. */
const familiesOf = (document: Plain | undefined): string => {
  const all = plainAt(document, ['instructions']);
  const list = typeof all === 'object' && !Array.isArray(all) ? Object.values(all) : [];
  return [...new Set(list.map((each) => textAt(each as Plain, ['family'])).filter((each) => each !== ''))].join('\n');
};

function Forms({ name, forms, chosen }: { name: string; forms: readonly Plain[]; chosen: number }) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms'];
  const go = (made: unknown, at: number): void => void (made && defining.choose(['instructions', name], at));
  const add = async (): Promise<void> => {
    const last = forms.at(chosen);
    const value: Plain =
      typeof last === 'object' && !Array.isArray(last) ? { ...last, write: `${name} ` } : { write: name, code: '', execute: '' };
    go(await defining.act({ kind: 'insert', path: [...path, chosen + 1], value }), chosen + 1);
  };
  const move = async (to: number): Promise<void> => go(await defining.act({ kind: 'move', path: [...path, chosen], to }), to);
  const remove = async (): Promise<void> => go(await defining.act({ kind: 'remove', path: [...path, chosen] }), Math.max(0, chosen - 1));
  return (
    <Flex gap="6px" mb="8px" wrap="wrap" align="center" role="group" aria-label="Written forms">
      {forms.map((each, at) => (
        <Button
          key={at}
          look="tag"
          aria-pressed={at === chosen}
          fontFamily="mono"
          onClick={() => defining.choose(['instructions', name], at)}
          data-form={at}
        >
          {textAt(each, ['write']).replace(/[{}]/g, '') || '(not written yet)'}
        </Button>
      ))}
      <Button look="tag" onClick={() => void add()} aria-label="Another written form" data-testid="add-form">
        <Plus size={13} aria-hidden /> form
      </Button>
      {forms.length > 1 && (
        <>
          <Button look="tag" aria-label="Form to the front" disabled={chosen === 0} onClick={() => void move(chosen - 1)}>
            <ArrowUp size={13} aria-hidden />
          </Button>
          <Button look="tag" aria-label="Form to the back" disabled={chosen === forms.length - 1} onClick={() => void move(chosen + 1)}>
            <ArrowDown size={13} aria-hidden />
          </Button>
          <Button look="tag" aria-label="Remove this form" onClick={() => void remove()}>
            <Trash2 size={13} aria-hidden />
          </Button>
        </>
      )}
    </Flex>
  );
}

interface FormProps {
  readonly name: string;
  readonly chosen: number;
  readonly machine: Machine | undefined;
  readonly form?: Form | undefined;
}

function Written({ name, chosen, form }: FormProps) {
  const path = ['instructions', name, 'forms', chosen, 'write'];
  const said = useDefined((state) => textAt(state.look?.document, path));
  const tried = useDefined((state) => state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen]);
  const { value, type, leave } = useTyped(path, said, { optional: false });
  return (
    <Card>
      <header>
        <h3>Written as</h3>
        {form && tried && (
          <Hint>
            for example <chakra.b fontFamily="mono">{tried.line}</chakra.b>
          </Hint>
        )}
      </header>
      <Entry
        room="line"
        fontSize="17px"
        aria-label="Written form: fields stand in braces"
        placeholder={`${name} {address}`}
        value={value}
        onChange={(event) => type(event.target.value)}
        onBlur={leave}
        spellCheck={false}
        data-field="write"
      />
      <Wrong path={path} />
    </Card>
  );
}

function Encoded({ name, chosen, machine }: FormProps) {
  const defining = useDefining();
  const document = useDefined((state) => state.look?.document);
  const path = ['instructions', name, 'forms', chosen, 'code'];
  const said = textAt(document, path);
  const code = readCode(said) ?? { format: '', fixed: [] };
  const { path: formatPath, text } = useFormat(code.format);
  const format = readFormat(text);
  const decimal = machine?.radix === 10;
  const written = textAt(document, ['instructions', name, 'forms', chosen, 'write']);
  const names = [...new Set((format?.items ?? []).map((each) => each.name))].filter(
    (each) => each !== 'zero' && each !== 'any' && !written.includes(`{${each}}`),
  );
  const digits = useMemo(() => fixedDigits(said, text, decimal), [said, text, decimal]);
  const formats = Object.keys((plainAt(document, ['formats']) as object | undefined) ?? {});
  const users = usersOf(document, code.format);
  const cell = machine
    ? programSpaceOf(machine).width
    : Number(textAt(document, ['word', 'bits']) || textAt(document, ['word', 'digits'])) || 8;
  const tried = useDefined((state) => state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen]);
  const choose = (to: string): void => {
    const items = new Set(readFormat(formatText(document, to))?.items.map((each) => each.name) ?? []);
    const kept = code.fixed.filter(({ field }) => items.has(field));
    const fixed = kept.length > 0 || !items.has('opcode') ? kept : [{ field: 'opcode', value: code.fixed[0]?.value ?? '0' }];
    void defining.act({ kind: 'set', path, value: writeCode({ format: to, fixed }) });
  };
  const fix = (field: string, value: string): void => {
    const others = code.fixed.filter((each) => each.field !== field);
    const order = [...names.filter((each) => each === field || others.some((other) => other.field === each))];
    const values = new Map([
      ...others.map((each) => [each.field, each.value] as const),
      ...(value === '' ? [] : [[field, value] as const]),
    ]);
    const fixed = order.flatMap((each) => (values.has(each) ? [{ field: each, value: values.get(each) ?? '' }] : []));
    defining.type(path, writeCode({ format: code.format, fixed }));
  };
  return (
    <Card>
      <header>
        <h3>Encoded as</h3>
        <chakra.span fontSize="13px" color="ink2">
          format{' '}
          <Choice label="Format" value={code.format} choose={choose} options={optionsWith(formats, code.format)} testId="form-format" />
        </chakra.span>
        {names.map((each) => (
          <FixedField
            key={each}
            name={each}
            value={code.fixed.find(({ field }) => field === each)?.value ?? ''}
            fix={(value) => fix(each, value)}
          />
        ))}
        {tried && (
          <Hint>
            <chakra.b fontFamily="mono">{tried.line}</chakra.b> is{' '}
            <chakra.b fontFamily="mono" color="data" data-testid="example-cells">
              {tried.cells.join(' ')}
            </chakra.b>
          </Hint>
        )}
      </header>
      <FormatRuler path={formatPath} text={text} digits={digits} cell={cell} radix={decimal ? 10 : 2} />
      {users > 1 && (
        <Hint as="p">{`${users} written forms have the format ${code.format}: an edge that is moved moves for all of them.`}</Hint>
      )}
      <Wrong path={path} />
      <Wrong path={formatPath} />
    </Card>
  );
}

const optionsWith = (names: readonly string[], present: string) =>
  (names.includes(present) ? names : ['', ...names]).map((each) => ({ value: each, says: each || '–' }));

function formatText(document: Plain | undefined, name: string): string {
  return textAt(document, ['formats', name]) || textAt(document, ['formats', name, 'fields']);
}

function FixedField({ name, value, fix }: { name: string; value: string; fix: (value: string) => void }) {
  return (
    <chakra.label fontSize="13px" color="ink2">
      {name} <Typing value={value} change={fix} label={`${name}: fixed value`} field={name} />
    </chakra.label>
  );
}

/** Shows what is typed until the document has caught up. */
function Typing({ value, change, label, field }: { value: string; change: (value: string) => void; label: string; field: string }) {
  const turned = useDefined((state) => state.turned);
  return <TypingHeld key={turned} {...{ value, change, label, field }} />;
}

function TypingHeld({ value, change, label, field }: { value: string; change: (value: string) => void; label: string; field: string }) {
  const [local, setLocal] = useState<string>();
  return (
    <Entry
      room="word"
      aria-label={label}
      value={local ?? value}
      onChange={(event) => {
        setLocal(event.target.value);
        if (/^\w*$/.test(event.target.value)) change(event.target.value);
      }}
      onBlur={() => setLocal(undefined)}
      data-fixed={field}
    />
  );
}

function usersOf(document: Plain | undefined, format: string): number {
  const all = plainAt(document, ['instructions']);
  const list = typeof all === 'object' && !Array.isArray(all) ? Object.keys(all) : [];
  return list.reduce(
    (sum, name) => sum + formsIn(document, name).filter((each) => readCode(textAt(each, ['code']))?.format === format).length,
    0,
  );
}

/** Digits of the fields that an encoding fixes, as they stand in the cells. */
function fixedDigits(code: string, format: string, decimal: boolean): ReadonlyMap<string, string> {
  const items = readFormat(format)?.items ?? [];
  return new Map(
    (readCode(code)?.fixed ?? []).flatMap(({ field, value }) => {
      const width = items.filter((each) => each.name === field).reduce((sum, each) => sum + each.width, 0);
      const number = readNumber(value);
      if (number === undefined || width === 0) return [];
      return [[field, decimal ? shownDigits(number, width, { radix: 10, base: 10 }) : number.toString(2).padStart(width, '0')] as const];
    }),
  );
}

function DoneInTicks({ name, chosen, machine, form }: FormProps) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms', chosen, 'execute'];
  const document = useDefined((state) => state.look?.document);
  const said = textAt(document, path);
  const tried = useDefined((state) => state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen]);
  const [whole, setWhole] = useState(false);
  const own = tried?.ticks.findIndex((each) => each.part === 'execute' || each.part === 'enter') ?? 0;
  const shared = tried?.ticks.slice(0, Math.max(0, own)) ?? [];
  const flags = form && machine ? flagsSetBy(form).map((flag) => machine.flags[flag]?.name ?? '') : [];
  const sentence = ['words', 'instructions', name];
  const reworded = useTyped(sentence, textAt(document, sentence));
  return (
    <Card>
      <header>
        <h3>What it does, tick by tick</h3>
        {form && (
          <Hint data-testid="tick-count">{`${form.schedule.length} ticks in all · ${flags.length > 0 ? `sets ${flags.join(' ')}` : 'leaves the flags alone'}`}</Hint>
        )}
      </header>
      <TicksEditor path={path} said={said} label={`Ticks of ${name}`} format={form?.format} />
      {tried && (
        <Table.Root mt="8px" data-testid="tick-sentences">
          <Table.Body>
            {shared.length > 0 && !whole && (
              <Table.Row color="ink3">
                <Table.Cell colSpan={4}>
                  {`1–${shared.length} ${[...new Set(shared.map((each) => each.phase))].join(' and ')}, shared by all. `}
                  <Button look="link" onClick={() => setWhole(true)}>
                    show them
                  </Button>
                </Table.Cell>
              </Table.Row>
            )}
            {tried.ticks.map((each, at) =>
              at < shared.length && !whole ? null : (
                <Table.Row key={at} color={each.part === 'execute' || each.part === 'enter' ? 'ink' : 'ink3'}>
                  <Table.Cell width="26px">{at + 1}</Table.Cell>
                  <Table.Cell width="76px">{each.phase}</Table.Cell>
                  <Table.Cell fontFamily="mono" whiteSpace="pre-wrap" width="40%">
                    {each.text.replaceAll('<-', '←')}
                  </Table.Cell>
                  <Table.Cell>{each.sentence}</Table.Cell>
                </Table.Row>
              ),
            )}
          </Table.Body>
        </Table.Root>
      )}
      <chakra.label display="flex" gap="8px" alignItems="baseline" fontSize="13px" color="ink2" mt="8px">
        Reworded
        <Entry
          flex="1"
          placeholder="{ACC} now lies in the cell {address} too."
          value={reworded.value}
          onChange={(event) => reworded.type(event.target.value)}
          onBlur={reworded.leave}
          aria-label="The sentence of its last tick, reworded; places in braces"
          data-field="reworded"
        />
      </chakra.label>
      <Wrong path={sentence} />
      {textAt(document, ['instructions', name, 'forms', chosen, 'inline']) !== '' && (
        <Hint as="p" pt="4px">
          Behind it in memory follow{' '}
          {textAt(document, ['instructions', name, 'forms', chosen, 'inline']) === 'string' ? 'a text' : 'values'}.{' '}
          <Button
            look="link"
            onClick={() => void defining.act({ kind: 'remove', path: ['instructions', name, 'forms', chosen, 'inline'] })}
          >
            Let nothing follow
          </Button>
        </Hint>
      )}
    </Card>
  );
}

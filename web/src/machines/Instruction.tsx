/** One instruction whole: how it is written, how it is encoded, what it does tick by tick; and what it does with values. */
import { Box, chakra, Flex, Table } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { memo, useMemo, useState } from 'react';
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
import { plainAt, textAt, useDefined, useDefinedSame, useDefining } from './defining';
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
  const at = useDefined((state) => state.form);
  const forms = useDefinedSame((state) => formsIn(state.look?.document, name).map((each) => textAt(each, ['write'])));
  const chosen = Math.min(at, forms.length - 1);
  return (
    <>
      <Head name={name} />
      <Forms {...{ name, forms, chosen }} />
      {chosen >= 0 && (
        <Box key={`${name} ${chosen}`}>
          <Written {...{ name, chosen }} />
          <Encoded {...{ name, chosen }} />
          <DoneInTicks {...{ name, chosen }} />
          <Working {...{ name, chosen }} />
        </Box>
      )}
    </>
  );
}

/** The form that is chosen, of the newest machine that could be drawn. */
function useForm(name: string, chosen: number): { readonly machine: Machine | undefined; readonly form: Form | undefined } {
  const machine = useDefined((state) => state.sound?.machine ?? state.sound?.clashing);
  const form = useMemo(() => machine?.forms.filter((each) => each.mnemonic === name)[chosen], [machine, name, chosen]);
  return { machine, form };
}

/** What it does with values; where the machine has errors, as it did when it had none. */
function Working({ name, chosen }: FormProps) {
  const { machine, form } = useForm(name, chosen);
  const old = useDefined((state) => state.sound !== state.look);
  const clashing = useDefined((state) => state.sound?.clashing !== undefined);
  const text = useDefined((state) => state.sound?.text ?? '');
  if (machine && form && !clashing)
    return (
      <>
        <TryIt {...{ name, at: chosen, form, machine, old }} />
        <Cases {...{ name, at: chosen, machine, form, old, text }} />
      </>
    );
  return (
    <Card>
      <header>
        <h3>Try it now</h3>
      </header>
      <Hint>
        {clashing
          ? 'Its encoding means two things: give it one of its own, and it runs here.'
          : 'It runs here as soon as the machine has no errors.'}
      </Hint>
    </Card>
  );
}

const Head = memo(function Head({ name }: { name: string }) {
  const path = ['instructions', name];
  const title = useTyped(
    [...path, 'title'],
    useDefined((state) => textAt(state.look?.document, [...path, 'title'])),
  );
  const family = useTyped(
    [...path, 'family'],
    useDefined((state) => textAt(state.look?.document, [...path, 'family'])),
  );
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
});

/** One a line, so that it is equal as long as they are. */
const familiesOf = (document: Plain | undefined): string => {
  const all = plainAt(document, ['instructions']);
  const list = typeof all === 'object' && !Array.isArray(all) ? Object.values(all) : [];
  return [...new Set(list.map((each) => textAt(each as Plain, ['family'])).filter((each) => each !== ''))].join('\n');
};

const Forms = memo(function Forms({ name, forms, chosen }: { name: string; forms: readonly string[]; chosen: number }) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms'];
  const go = (made: unknown, at: number): void => void (made && defining.choose(['instructions', name], at));
  const add = async (): Promise<void> => {
    const last = formsIn(defining.state.look?.document, name).at(chosen);
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
          {each.replace(/[{}]/g, '') || '(not written yet)'}
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
});

interface FormProps {
  readonly name: string;
  readonly chosen: number;
}

const Written = memo(function Written({ name, chosen }: FormProps) {
  const path = ['instructions', name, 'forms', chosen, 'write'];
  const said = useDefined((state) => textAt(state.look?.document, path));
  const line = useDefined((state) => (state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen])?.line);
  const { value, type, leave } = useTyped(path, said, { optional: false });
  return (
    <Card>
      <header>
        <h3>Written as</h3>
        {line && (
          <Hint>
            for example <chakra.b fontFamily="mono">{line}</chakra.b>
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
});

const Encoded = memo(function Encoded({ name, chosen }: FormProps) {
  const defining = useDefining();
  const decimal = useDefined((state) => (state.sound?.machine ?? state.sound?.clashing)?.radix === 10);
  const cell = useDefined((state) => cellOf(state.sound?.machine ?? state.sound?.clashing, state.look?.document));
  const path = ['instructions', name, 'forms', chosen, 'code'];
  const said = useDefined((state) => textAt(state.look?.document, path));
  const code = readCode(said) ?? { format: '', fixed: [] };
  const { path: formatPath, text } = useFormat(code.format);
  const format = readFormat(text);
  const written = useDefined((state) => textAt(state.look?.document, ['instructions', name, 'forms', chosen, 'write']));
  const names = [...new Set((format?.items ?? []).map((each) => each.name))].filter(
    (each) => each !== 'zero' && each !== 'any' && !written.includes(`{${each}}`),
  );
  const digits = useMemo(() => fixedDigits(said, text, decimal), [said, text, decimal]);
  const formats = useDefinedSame((state) => Object.keys((plainAt(state.look?.document, ['formats']) as object | undefined) ?? {}));
  const users = useDefined((state) => usersOf(state.look?.document, code.format));
  const example = useDefinedSame((state) => {
    const tried = state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen];
    return tried && { line: tried.line, cells: tried.cells };
  });
  const choose = (to: string): void => {
    const items = new Set(readFormat(formatText(defining.state.look?.document, to))?.items.map((each) => each.name) ?? []);
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
        {example && (
          <Hint>
            <chakra.b fontFamily="mono">{example.line}</chakra.b> is{' '}
            <chakra.b fontFamily="mono" color="data" data-testid="example-cells">
              {example.cells.join(' ')}
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
});

/** Digits of a cell of the memory that programs run in. */
function cellOf(machine: Machine | undefined, document: Plain | undefined): number {
  if (machine) return programSpaceOf(machine).width;
  return Number(textAt(document, ['word', 'bits']) || textAt(document, ['word', 'digits'])) || 8;
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

/** How many ticks a form has, and which flags they set. */
function factsOf(
  machine: Machine | undefined,
  name: string,
  at: number,
): { readonly ticks: number; readonly flags: readonly string[] } | undefined {
  const form = machine?.forms.filter((each) => each.mnemonic === name)[at];
  return machine && form && { ticks: form.schedule.length, flags: flagsSetBy(form).map((flag) => machine.flags[flag]?.name ?? '') };
}

const DoneInTicks = memo(function DoneInTicks({ name, chosen }: FormProps) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms', chosen, 'execute'];
  const said = useDefined((state) => textAt(state.look?.document, path));
  const ticks = useDefinedSame((state) => (state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen])?.ticks);
  const inline = useDefined((state) => textAt(state.look?.document, ['instructions', name, 'forms', chosen, 'inline']));
  const facts = useDefinedSame((state) => factsOf(state.sound?.machine ?? state.sound?.clashing, name, chosen));
  const [whole, setWhole] = useState(false);
  const own = ticks?.findIndex((each) => each.part === 'execute' || each.part === 'enter') ?? 0;
  const shared = ticks?.slice(0, Math.max(0, own)) ?? [];
  const sentence = ['words', 'instructions', name];
  const reworded = useTyped(
    sentence,
    useDefined((state) => textAt(state.look?.document, sentence)),
  );
  return (
    <Card>
      <header>
        <h3>What it does, tick by tick</h3>
        {facts && (
          <Hint data-testid="tick-count">{`${facts.ticks} ticks in all · ${facts.flags.length > 0 ? `sets ${facts.flags.join(' ')}` : 'leaves the flags alone'}`}</Hint>
        )}
      </header>
      <TicksEditor path={path} said={said} label={`Ticks of ${name}`} form={{ name, at: chosen }} />
      {ticks && (
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
            {ticks.map((each, at) =>
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
      {inline !== '' && (
        <Hint as="p" pt="4px">
          Behind it in memory follow {inline === 'string' ? 'a text' : 'values'}.{' '}
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
});

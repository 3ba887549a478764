/** How a form is encoded: its format on the ruler, and the values of the fields that it fixes. */
import { chakra } from '@chakra-ui/react';
import { memo, useEffect, useMemo, useState } from 'react';
import { readCode, readFormat, writeCode } from '@zettak/core/machine/document/codeText';
import type { Plain } from '@zettak/core/machine/document/tree';
import { programSpaceOf, type Machine } from '@zettak/core/machine/model/machine';
import { readNumber, shownDigits } from '@zettak/core/text/number';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { Card } from './Card';
import { plainAt, textAt, useDefined, useDefinedSame, useDefining } from './defining';
import { Wrong } from './Fields';
import { FormatRuler, useFormat } from './FormatRuler';
import type { FormProps } from './forms';

export const Encoded = memo(function Encoded({ name, chosen }: FormProps) {
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
  const [local, setLocal] = useState<string>();
  useEffect(() => setLocal(undefined), [turned]);
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

/** Of a document, how many forms each format has; asked for at every change of anything. */
const counted = new WeakMap<object, ReadonlyMap<string, number>>();

function usersOf(document: Plain | undefined, format: string): number {
  if (typeof document !== 'object') return 0;
  const known = counted.get(document) ?? countedIn(document);
  counted.set(document, known);
  return known.get(format) ?? 0;
}

function countedIn(document: Plain): Map<string, number> {
  const all = plainAt(document, ['instructions']);
  const list = typeof all === 'object' && !Array.isArray(all) ? Object.values(all as Readonly<Record<string, Plain>>) : [];
  const counts = new Map<string, number>();
  for (const used of list.flatMap(formatsOf)) counts.set(used, (counts.get(used) ?? 0) + 1);
  return counts;
}

/** Instructions that have not changed are the very ones of before. */
const formatsUsed = new WeakMap<object, readonly string[]>();

/** The formats of an instruction's written forms. */
function formatsOf(instruction: Plain): readonly string[] {
  if (typeof instruction === 'string') return [];
  const forms = plainAt(instruction, ['forms']);
  const known =
    formatsUsed.get(instruction) ??
    (Array.isArray(forms) ? (forms as readonly Plain[]) : []).map((each) => readCode(textAt(each, ['code']))?.format ?? '');
  formatsUsed.set(instruction, known);
  return known;
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

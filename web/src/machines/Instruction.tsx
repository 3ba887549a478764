/** One instruction whole: how it is written, how it is encoded, what it does tick by tick; and what it does with values. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { memo } from 'react';
import { flagsSetBy } from '@zettak/core/machine/model/card';
import type { Plain } from '@zettak/core/machine/document/tree';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { Card } from './Card';
import { Cases } from './Cases';
import { machineIn, plainAt, textAt, useDefined, useDefinedSame, useDefining } from './defining';
import { DoneInTicks } from './DoneInTicks';
import { Encoded } from './Encoded';
import { Wrong } from './Fields';
import { formsIn, type FormProps } from './forms';
import { TryIt } from './TryIt';
import { useTyped } from './typed';

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

/** What it does with values; where the machine has errors, as it did when it had none. */
function Working({ name, chosen }: FormProps) {
  const form = useDefined((state) => machineIn(state)?.forms.filter((each) => each.mnemonic === name)[chosen]);
  const old = useDefined((state) => state.sound !== state.look);
  const clashing = useDefined((state) => state.sound?.clashing !== undefined);
  if (form && !clashing)
    return (
      <>
        <TryIt {...{ name, at: chosen, operands: form.operands, old }} />
        <Cases {...{ name, at: chosen, old }} sets={flagsSetBy(form).length > 0} />
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

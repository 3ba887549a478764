/** What a form does, tick by tick, in an editor and in words. */
import { chakra, Table } from '@chakra-ui/react';
import { memo, useMemo, useState } from 'react';
import type { SampleTick } from '@zettak/core/engine/sample/sample';
import { flagsSetBy } from '@zettak/core/machine/model/card';
import { namesForExamples } from '@zettak/core/machine/model/examples';
import type { Machine } from '@zettak/core/machine/model/machine';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { Card } from './Card';
import { machineIn, textAt, useDefined, useDefinedSame, useDefining } from './defining';
import { Wrong } from './Fields';
import type { FormProps } from './forms';
import { TicksEditor } from './TicksEditor';
import { useTyped } from './typed';

/** How many ticks a form has, and which flags they set. */
function factsOf(
  machine: Machine | undefined,
  name: string,
  at: number,
): { readonly ticks: number; readonly flags: readonly string[] } | undefined {
  const form = machine?.forms.filter((each) => each.mnemonic === name)[at];
  return machine && form && { ticks: form.schedule.length, flags: flagsSetBy(form).map((flag) => machine.flags[flag]?.name ?? '') };
}

export const DoneInTicks = memo(function DoneInTicks({ name, chosen }: FormProps) {
  const facts = useDefinedSame((state) => factsOf(machineIn(state), name, chosen));
  return (
    <Card>
      <header>
        <h3>What it does, tick by tick</h3>
        {facts && (
          <Hint data-testid="tick-count">{`${facts.ticks} ticks in all · ${facts.flags.length > 0 ? `sets ${facts.flags.join(' ')}` : 'leaves the flags alone'}`}</Hint>
        )}
      </header>
      <Written {...{ name, chosen }} />
      <Sentences chosen={chosen} />
      <Reworded name={name} />
      <Inline {...{ name, chosen }} />
    </Card>
  );
});

const Written = memo(function Written({ name, chosen }: FormProps) {
  const path = useMemo(() => ['instructions', name, 'forms', chosen, 'execute'], [name, chosen]);
  const form = useMemo(() => ({ name, at: chosen }), [name, chosen]);
  const said = useDefined((state) => textAt(state.look?.document, path));
  return <TicksEditor {...{ path, said, form }} label={`Ticks of ${name}`} />;
});

const isOwn = ({ part }: SampleTick): boolean => part === 'execute' || part === 'enter';

/** Each tick in words, with the values that are tried. */
const Sentences = memo(function Sentences({ chosen }: { chosen: number }) {
  const ticks = useDefined((state) => (state.look?.tried?.[chosen] ?? state.sound?.tried?.[chosen])?.ticks);
  const [whole, setWhole] = useState(false);
  if (!ticks) return null;
  const shared = ticks.slice(0, Math.max(0, ticks.findIndex(isOwn)));
  return (
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
        {ticks.map((tick, at) => (at < shared.length && !whole ? null : <TickRow key={at} {...{ tick, at }} />))}
      </Table.Body>
    </Table.Root>
  );
});

const TickRow = memo(function TickRow({ tick, at }: { tick: SampleTick; at: number }) {
  return (
    <Table.Row color={isOwn(tick) ? 'ink' : 'ink3'}>
      <Table.Cell width="26px">{at + 1}</Table.Cell>
      <Table.Cell width="76px">{tick.phase}</Table.Cell>
      <Table.Cell fontFamily="mono" whiteSpace="pre-wrap" width="40%">
        {tick.text.replaceAll('<-', '←')}
      </Table.Cell>
      <Table.Cell>{tick.sentence}</Table.Cell>
    </Table.Row>
  );
});

/** The sentence of its last tick in words of the teacher's own. */
const Reworded = memo(function Reworded({ name }: { name: string }) {
  const sentence = ['words', 'instructions', name];
  const reworded = useTyped(
    sentence,
    useDefined((state) => textAt(state.look?.document, sentence)),
  );
  const register = useDefined((state) => {
    const machine = machineIn(state);
    return machine && namesForExamples(machine).register;
  });
  const example = register === undefined ? '' : `${register} is {${register}} now; before it was {${register}.old}.`;
  return (
    <>
      <chakra.label display="flex" gap="8px" alignItems="baseline" fontSize="13px" color="ink2" mt="8px">
        Reworded
        <Entry
          flex="1"
          placeholder={example}
          value={reworded.value}
          onChange={(event) => reworded.type(event.target.value)}
          onBlur={reworded.leave}
          aria-label="The sentence of its last tick, reworded; places in braces"
          data-field="reworded"
        />
      </chakra.label>
      <Wrong path={sentence} />
    </>
  );
});

/** What follows the instruction in memory, where something does. */
const Inline = memo(function Inline({ name, chosen }: FormProps) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms', chosen, 'inline'];
  const inline = useDefined((state) => textAt(state.look?.document, path));
  if (inline === '') return null;
  return (
    <Hint as="p" pt="4px">
      Behind it in memory follow {inline === 'string' ? 'a text' : 'values'}.{' '}
      <Button look="link" onClick={() => void defining.act({ kind: 'remove', path })}>
        Let nothing follow
      </Button>
    </Hint>
  );
});

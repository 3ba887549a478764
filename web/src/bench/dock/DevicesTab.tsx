/** What stands outside: how ready it is, how often it was asked; and the script by which it changes. */
import { useMemo, useState } from 'react';
import { engine } from '../../session/engine';
import { kept, keep } from '../../app/preferences';
import type { ShownDevice } from '@zettak/core/session/protocol';
import { Lines } from '../Lines';
import { useDocument } from '../document';
import { startOver } from '../loading';
import { useRun } from '../run';
import { Table } from '@chakra-ui/react';
import { scriptForExamples } from '@zettak/core/machine/model/examples';
import { Button } from '../../ui/Button';
import { TextEntry } from '../../ui/Field';
import { Controls, Heading, Hint, List, Refusal } from '../../ui/Panel';

const lined = { variant: 'lined' } as object;

export function DevicesTab() {
  const devices = useRun((state) => state.view?.devices);
  if (!devices) return <Hint as="p">Load a program first.</Hint>;
  return (
    <div>
      <Heading>Devices</Heading>
      {devices.length === 0 && <Hint as="p">This machine has none; its traps read from the input queue.</Hint>}
      <Table.Root data-testid="devices" {...lined}>
        {devices.length > 0 && (
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader scope="col">device</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">state</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">asked, not ready</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">ready</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">data read</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
        )}
        <Table.Body>
          {devices.map((each) => (
            <DeviceRow key={each.name} device={each} />
          ))}
        </Table.Body>
      </Table.Root>
      <ScriptField />
    </div>
  );
}

function DeviceRow({ device }: { device: ShownDevice }) {
  const { name, title, ready, busyPolls, readyPolls, reads, plans, byHand } = device;
  return (
    <>
      <Table.Row data-device={name}>
        <Table.Cell as="th" scope="row" title={title}>
          {name}
        </Table.Cell>
        <Table.Cell>{ready ? 'ready' : 'not ready'}</Table.Cell>
        <Table.Cell>{busyPolls.toLocaleString('en-US')}</Table.Cell>
        <Table.Cell>{readyPolls.toLocaleString('en-US')}</Table.Cell>
        <Table.Cell>{reads.toLocaleString('en-US')}</Table.Cell>
      </Table.Row>
      {(device.kind === 'switches' || plans.length > 0) && (
        <Table.Row>
          <Table.Cell colSpan={5}>
            <Lines device={device} />
            {plans.map((each) => (
              <p key={each}>{each}</p>
            ))}
            {byHand && (
              <Button onClick={() => void engine.hand.release(name)} data-testid={`release-${name}`}>
                Now
              </Button>
            )}
          </Table.Cell>
        </Table.Row>
      )}
    </>
  );
}

function ScriptField() {
  const machine = useDocument((state) => state.machine);
  const example = useMemo(() => machine && scriptForExamples(machine), [machine]);
  const program = useDocument((state) => state.program?.id ?? '');
  const [text, setText] = useState(() => kept(`script.${program}`));
  const [problems, setProblems] = useState<readonly { readonly line: number; readonly sentence: string }[]>();
  const use = async (): Promise<void> => {
    const found = await engine.run.setScript(text);
    setProblems(found);
    if (found.length > 0) return;
    keep(`script.${program}`, text);
    await startOver('data');
  };
  return (
    <>
      <Heading>Script of the run</Heading>
      <Hint as="p">What the run is given and when: inputs, devices that change by themselves, what hands do.</Hint>
      <TextEntry
        value={text}
        rows={6}
        placeholder={example}
        spellCheck={false}
        aria-label="Script of the run"
        aria-invalid={(problems?.length ?? 0) > 0}
        onChange={(event) => setText(event.target.value)}
        data-testid="script"
      />
      <List role="alert" data-testid="script-problems">
        {problems?.map((each) => (
          <Refusal as="li" key={each.line}>
            Line {each.line}: {each.sentence}
          </Refusal>
        ))}
      </List>
      <Controls>
        <Button onClick={() => void use()} data-testid="use-script">
          Start over with this script
        </Button>
        <Hint>The run so far is forgotten; memory outside the program stays.</Hint>
      </Controls>
    </>
  );
}

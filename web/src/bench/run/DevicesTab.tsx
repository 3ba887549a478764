/** What stands outside: how ready it is, how often it was asked; and the script by which it changes. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import { kept, keep } from '../../app/preferences';
import type { ShownDevice } from '@zettak/core/session/protocol';
import { Lines } from '../Lines';
import { useDocument } from '../document';
import { startOver } from '../loading';
import { useRun } from '../run';

const HINT = `input 12 5
KEYS is not ready until 5 reads, then as it is
gate.open is 0 until tick 200, then 1
at 120: ACC = 3`;

export function DevicesTab() {
  const devices = useRun((state) => state.view?.devices);
  if (!devices) return <p className="hint pad">Load a program first.</p>;
  return (
    <div className="devices-tool">
      <h3>Devices</h3>
      {devices.length === 0 && <p className="hint">This machine has none; its traps read from the input queue.</p>}
      <table data-testid="devices">
        {devices.length > 0 && (
          <thead>
            <tr>
              <th scope="col">device</th>
              <th scope="col">state</th>
              <th scope="col">asked, not ready</th>
              <th scope="col">ready</th>
              <th scope="col">data read</th>
            </tr>
          </thead>
        )}
        <tbody>
          {devices.map((each) => (
            <DeviceRow key={each.name} device={each} />
          ))}
        </tbody>
      </table>
      <ScriptField />
    </div>
  );
}

function DeviceRow({ device }: { device: ShownDevice }) {
  const { name, title, ready, busyPolls, readyPolls, reads, plans, byHand } = device;
  return (
    <>
      <tr data-device={name}>
        <th scope="row" title={title}>
          {name}
        </th>
        <td>{ready ? 'ready' : 'not ready'}</td>
        <td>{busyPolls.toLocaleString('en-US')}</td>
        <td>{readyPolls.toLocaleString('en-US')}</td>
        <td>{reads.toLocaleString('en-US')}</td>
      </tr>
      {(device.kind === 'switches' || plans.length > 0) && (
        <tr>
          <td colSpan={5} className="plans">
            <Lines device={device} />
            {plans.map((each) => (
              <p key={each}>{each}</p>
            ))}
            {byHand && (
              <button type="button" className="plain" onClick={() => void engine.hand.release(name)} data-testid={`release-${name}`}>
                Now
              </button>
            )}
          </td>
        </tr>
      )}
    </>
  );
}

function ScriptField() {
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
      <h3>Script of the run</h3>
      <p className="hint">What the run is given and when: inputs, devices that change by themselves, what hands do.</p>
      <textarea
        value={text}
        rows={6}
        placeholder={HINT}
        spellCheck={false}
        aria-label="Script of the run"
        aria-invalid={(problems?.length ?? 0) > 0}
        onChange={(event) => setText(event.target.value)}
        data-testid="script"
      />
      <ul className="script-problems" role="alert" data-testid="script-problems">
        {problems?.map((each) => (
          <li key={each.line} className="refused">
            Line {each.line}: {each.sentence}
          </li>
        ))}
      </ul>
      <p className="choices">
        <button type="button" className="plain" onClick={() => void use()} data-testid="use-script">
          Start over with this script
        </button>
        <span className="hint">The run so far is forgotten; memory outside the program stays.</span>
      </p>
    </>
  );
}

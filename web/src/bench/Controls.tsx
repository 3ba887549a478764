/** The bench's bar: which program on which machine, how the run stands, and the commands. */
import { Play, Pause } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { isRunning, SPEEDS, type Command, type Speed } from '@zettak/core/session/protocol';
import { createProgram, keepProgramVersion, useDocument } from './document';
import { load } from './loading';
import { setStartingOver } from './looks';
import { command, runOrPause, setSpeed, useRun } from './run';
import { say } from './text';

const speedName = (speed: Speed): string => (speed === 'full' ? 'full speed' : `${speed} ${speed === 1 ? 'tick' : 'ticks'}/s`);

export function Controls({ openHelp }: { openHelp: () => void }) {
  const status = useRun((state) => state.view?.status ?? 'empty');
  const sentence = useRun((state) => state.view?.sentence ?? 'Nothing is loaded yet');
  const speed = useRun((state) => state.speed);
  const running = isRunning(status);
  return (
    <>
      <ProgramChoice />
      <div className="status" data-status={status} data-testid="status" title={sentence}>
        {sentence}
      </div>
      <div className="commands" role="toolbar" aria-label="Run">
        <button
          type="button"
          data-bench
          disabled={status === 'empty'}
          onClick={() => setStartingOver(true)}
          data-testid="start-over-button"
          title="Start over, in one of several ways (⇧Home)"
        >
          start …
        </button>
        <CommandButton name="instructionBack" words="◂ step" shown="←" disabled={status === 'empty'} />
        <CommandButton name="back" words="◂ tick" shown="," disabled={status === 'empty'} />
        <CommandButton name="tick" words="tick ▸" shown="." disabled={status === 'empty'} />
        <CommandButton name="instruction" words="step ▸" shown="→" disabled={status === 'empty'} />
        <CommandButton name="over" words="over" shown="⇧→" disabled={status === 'empty'} />
        <CommandButton name="out" words="out" shown="⇧↑" disabled={status === 'empty'} />
        <button
          type="button"
          className="run"
          data-bench
          onClick={() => runOrPause()}
          disabled={status === 'empty'}
          data-testid="run"
          title={running ? 'Pause (space)' : 'Run (space)'}
        >
          {running ? <Pause size={13} aria-hidden fill="currentColor" /> : <Play size={13} aria-hidden fill="currentColor" />}
          {running ? 'Pause' : 'Run'}
        </button>
        <select
          aria-label="Speed"
          data-testid="speed"
          value={String(speed)}
          onChange={(event) => {
            setSpeed(event.target.value === 'full' ? 'full' : Number(event.target.value));
            event.target.blur();
          }}
        >
          {SPEEDS.map((each) => (
            <option key={each} value={String(each)}>
              {speedName(each)}
            </option>
          ))}
        </select>
      </div>
      <button type="button" className="bar-icon" onClick={openHelp} aria-label="Keys" title="Keys (?)" data-testid="help">
        ?
      </button>
    </>
  );
}

function CommandButton({ name, words, shown, disabled }: { name: Command; words: string; shown: string; disabled: boolean }) {
  return (
    <button
      type="button"
      data-bench
      disabled={disabled}
      onClick={() => command(name)}
      data-testid={`command-${name}`}
      title={`${words.replace(/[◂▸]/g, '').trim()} (${shown})`}
    >
      {words} <kbd>{shown}</kbd>
    </button>
  );
}

/** Programs of the course, and what can be done with the one on the bench. */
function ProgramChoice() {
  const programs = useDocument((state) => state.programs);
  const program = useDocument((state) => state.program);
  const name = useDocument((state) => state.machineName);
  const version = useDocument((state) => state.machineVersion);
  const [naming, setNaming] = useState(false);
  const navigate = useNavigate();
  const choose = async (value: string): Promise<void> => {
    if (value === '+new') setNaming(true);
    else if (value === '+keep') say(await keepProgramVersion());
    else if (value === '+clear') await load({ clear: true });
    else await navigate(`/bench/${value}`);
  };
  const create = async (wanted: string): Promise<void> => {
    setNaming(false);
    const id = wanted.trim() && (await createProgram(wanted.trim(), `; ${wanted.trim()}\n\nstart   HALT\n`));
    if (id) await navigate(`/bench/${id}`);
  };
  if (naming) return <NameField take={(wanted) => void create(wanted)} />;
  return (
    <label className="choice">
      <span data-testid="machine-name">{name ? `${name} ${version} /` : ''}</span>
      <select
        aria-label="Program"
        data-testid="program-choice"
        value={program?.id ?? ''}
        onChange={(event) => {
          void choose(event.target.value).catch((error: Error) => say(error.message));
          event.target.blur();
        }}
      >
        {!program && <option value="">choose a program</option>}
        {programs.map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
        <hr />
        <option value="+new">New program …</option>
        <option value="+keep">Keep this as a version</option>
        <option value="+clear">Clear memory and load</option>
      </select>
    </label>
  );
}

function NameField({ take }: { take: (name: string) => void }) {
  const [name, setName] = useState('');
  return (
    <form
      className="choice"
      onSubmit={(event) => {
        event.preventDefault();
        take(name);
      }}
    >
      <input
        autoFocus
        aria-label="Name of the new program"
        placeholder="name, then Enter"
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && take('')}
        onBlur={() => take('')}
      />
    </form>
  );
}

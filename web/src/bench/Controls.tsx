/** The bench's bar: which program on which machine, how the run stands, and the commands. */
import { Box, Flex } from '@chakra-ui/react';
import { Ellipsis, Pause, Play } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { firstProgram } from '@zettak/core/assembler/assist/firstProgram';
import { isRunning, SPEEDS, type Command, type Speed } from '@zettak/core/session/protocol';
import { mode } from '../app/mode';
import { ActionMenu } from '../ui/ActionMenu';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { copyDrawing, saveControlTable, saveDrawing } from './pictures';
import { createProgram, keepProgramVersion, useDocument } from './document';
import { load, proceed, runOrPause } from './loading';
import { setStartingOver } from './looks';
import { setSpeed, useRun } from './run';
import { share } from './sharing/share';
import { say, sayError, useText } from './text';

const speedName = (speed: Speed): string => (speed === 'full' ? 'full speed' : `${speed} ${speed === 1 ? 'tick' : 'ticks'}/s`);

export function Controls({ openHelp }: { openHelp: () => void }) {
  return (
    <>
      <ProgramChoice />
      <Status />
      <Commands />
      <Button look="barIcon" onClick={openHelp} aria-label="Keys" tip="Keys (?)" data-testid="help">
        ?
      </Button>
    </>
  );
}

const LOUD: Readonly<Record<string, string>> = { waiting: 'now', fault: 'problem', 'never halts': 'problem' };

function Status() {
  const status = useRun((state) => state.view?.status ?? 'empty');
  const empty = status === 'empty';
  const loud = LOUD[status];
  return (
    <Box
      flex="1"
      hideBelow="xl"
      minWidth="0"
      textAlign="center"
      borderRadius="16px"
      px="12px"
      py="5px"
      fontWeight="600"
      fontSize="13px"
      truncate
      bg={loud ?? (empty ? 'transparent' : 'paper')}
      color={loud ? 'onTone' : empty ? 'onBar2' : 'ink'}
      data-status={status}
      data-testid="status"
    >
      <StatusWords />
    </Box>
  );
}

function StatusWords() {
  const told = useRun((state) => state.told?.sentence ?? 'Nothing is loaded yet');
  const held = useRun((state) => (state.view?.status === 'ready' ? state.view.loaded : undefined));
  const isChanged = useText((state) => held !== undefined && held !== state.source);
  const sentence = isChanged ? 'The source has changed: stepping loads it first' : told;
  return <span title={sentence}>{sentence}</span>;
}

const STEPS: readonly { readonly name: Command; readonly words: string; readonly shown: string }[] = [
  { name: 'instructionBack', words: '◂ step', shown: '←' },
  { name: 'back', words: '◂ tick', shown: ',' },
  { name: 'tick', words: 'tick ▸', shown: '.' },
  { name: 'instruction', words: 'step ▸', shown: '→' },
  { name: 'over', words: 'over', shown: '⇧→' },
  { name: 'out', words: 'out', shown: '⇧↑' },
];

function Commands() {
  const disabled = useRun((state) => (state.view?.status ?? 'empty') === 'empty');
  const running = useRun((state) => isRunning(state.view?.status));
  const speed = useRun((state) => state.speed);
  const Icon = running ? Pause : Play;
  return (
    <Flex gap="1px" flexShrink="0" role="toolbar" aria-label="Run">
      <Button
        look="bar"
        borderRadius="6px 0 0 6px"
        data-bench
        disabled={disabled}
        onClick={() => setStartingOver(true)}
        data-testid="start-over-button"
        tip="Start over, in one of several ways (⇧Home)"
      >
        start …
      </Button>
      {STEPS.map(({ name, words, shown }) => (
        <Button
          key={name}
          look="bar"
          data-bench
          disabled={disabled}
          onClick={() => void proceed(name)}
          data-testid={`command-${name}`}
          tip={`${words.replace(/[◂▸]/g, '').trim()} (${shown})`}
        >
          {words} <kbd>{shown}</kbd>
        </Button>
      ))}
      <Button
        look="go"
        data-bench
        onClick={() => runOrPause()}
        disabled={disabled}
        data-testid="run"
        tip={running ? 'Pause (space)' : 'Run (space)'}
      >
        <Icon size={13} aria-hidden fill="currentColor" />
        {running ? 'Pause' : 'Run'}
      </Button>
      <Choice
        look="barEnd"
        label="Speed"
        testId="speed"
        value={String(speed)}
        choose={(value) => {
          setSpeed(value === 'full' ? 'full' : Number(value));
          leaveField();
        }}
        options={SPEEDS.map((each) => ({ value: String(each), says: speedName(each) }))}
      />
    </Flex>
  );
}

/** The keys belong to the bench again. */
const leaveField = (): void => (document.activeElement as HTMLElement | null)?.blur();

/** Programs of the course, and what can be done with the one on the bench. */
function ProgramChoice() {
  const programs = useDocument((state) => state.programs);
  const program = useDocument((state) => state.program);
  const name = useDocument((state) => state.machineName);
  const version = useDocument((state) => state.machineVersion);
  const machine = useDocument((state) => state.machine);
  const [naming, setNaming] = useState(false);
  const navigate = useNavigate();
  const create = async (wanted: string): Promise<void> => {
    setNaming(false);
    const id = wanted.trim() && (await createProgram(wanted.trim(), firstProgram(machine, wanted.trim())));
    if (id) await navigate(`/bench/${id}`);
  };
  if (naming) return <NameField take={(wanted) => void create(wanted).catch(sayError)} />;
  const actions = [
    { id: 'new', says: 'New program …', act: () => setNaming(true) },
    { id: 'keep', says: 'Keep this as a version', act: () => void keepProgramVersion().then(say, sayError) },
    { id: 'clear', says: 'Clear memory and load', act: () => void load({ clear: true }) },
    ...(mode().shares ? [{ id: 'share', says: 'Share this bench with a class', act: () => void share() }] : []),
    { id: 'save-drawing', says: 'Save the drawing (SVG)', act: saveDrawing },
    { id: 'copy-drawing', says: 'Copy the drawing (SVG)', act: () => void copyDrawing() },
    { id: 'control', says: 'Save the control table (CSV)', act: saveControlTable },
  ];
  return (
    <Flex align="center" gap="4px" color="onBar2" whiteSpace="nowrap" minWidth="0">
      <Box as="span" hideBelow="xl" data-testid="machine-name">
        {name ? `${name} ${version} /` : ''}
      </Box>
      <Choice
        look="bar"
        label="Program"
        testId="program-choice"
        value={program?.id ?? ''}
        choose={(id) => {
          void Promise.resolve(navigate(`/bench/${id}`)).catch(sayError);
          leaveField();
        }}
        options={[
          ...(program ? [] : [{ value: '', says: 'choose a program' }]),
          ...programs.map((each) => ({ value: each.id, says: each.name })),
        ]}
      />
      <ActionMenu label="New program, keep, clear" look="barIcon" actions={actions} testId="program-actions">
        <Ellipsis size={16} aria-hidden />
      </ActionMenu>
    </Flex>
  );
}

function NameField({ take }: { take: (name: string) => void }) {
  const [name, setName] = useState('');
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        take(name);
      }}
    >
      <Entry
        look="bar"
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

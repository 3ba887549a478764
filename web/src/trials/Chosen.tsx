/** The chosen set: what differs in words, how it ended, what was remarked; its script; to the bench, and beside another run. */
import { Box } from '@chakra-ui/react';
import { Copy, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { sentencesOf } from '@zettak/core/trials/sets/csv';
import type { TrialSet } from '@zettak/core/trials/sets/table';
import { client } from '../documents/client';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Choice } from '../ui/Choice';
import { TextEntry } from '../ui/Field';
import { Controls, Hint, List, PanelHead, PanelTitle, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { addSet, changeSet, moveSet, removeSet } from './editing';
import { part, runSets, takeOver, type Other } from './running';
import { ontoBench } from './opening';
import { Parting } from './PartingView';
import { useTrials } from './state';

export function Chosen() {
  const table = useTrials((state) => state.table);
  const name = useTrials((state) => state.chosen);
  const at = table.sets.findIndex((each) => each.name === name);
  const one = table.sets[at];
  if (!one)
    return (
      <Box px="12px" py="10px">
        <Hint>Choose a set: what came of it stands here, and where its run parts from another’s.</Hint>
      </Box>
    );
  return <ChosenSet key={one.name} at={at} one={one} />;
}

function ChosenSet({ at, one }: { at: number; one: TrialSet }) {
  const [scripting, setScripting] = useState(false);
  const navigate = useNavigate();
  const row = useTrials((state) => state.rows.get(one.name)?.row);
  const problems = useTrials((state) => state.problems[at]) ?? [];
  const parted = useTrials((state) => state.parted);
  const runs = useTrials((state) => state.tried?.facts !== undefined);
  const onto = async (tick?: number): Promise<void> => {
    const path = await ontoBench(one.name, tick);
    if (path !== undefined) await navigate(path);
  };
  const said = row ? sentencesOf(row) : [];
  return (
    <Box as="section" aria-label={`Set ${one.name}`} data-testid="chosen-set">
      <PanelHead flexWrap="wrap">
        <PanelTitle>{one.name}</PanelTitle>
        <Button onClick={() => void runSets([at])} disabled={!runs}>
          Run it
        </Button>
        <Button onClick={() => void onto()} disabled={!runs || problems.length > 0} data-testid="onto-bench">
          Open on the bench
        </Button>
        <Button onClick={() => setScripting(true)} data-testid="edit-script">
          {one.script.trim() === '' ? 'Over time …' : 'Over time (set) …'}
        </Button>
        <Button
          onClick={() => takeOver(at)}
          disabled={!row || row.verdict === 'unread'}
          tip="What came is expected from now on, wherever something is expected or a column is open"
          data-testid="take-over"
        >
          Expect what came
        </Button>
        <Check on={one.hidden} change={(hidden) => changeSet(at, { hidden })} testId="hide-set">
          hidden from students
        </Check>
        <Box flex="1" />
        <Button look="bare" aria-label="Move up" tip="Move up" onClick={() => moveSet(at, -1)}>
          ↑
        </Button>
        <Button look="bare" aria-label="Move down" tip="Move down" onClick={() => moveSet(at, 1)}>
          ↓
        </Button>
        <Button look="bare" aria-label="Make a copy" tip="Make a copy" onClick={() => addSet(one.name, one)} data-testid="copy-set">
          <Copy size={14} aria-hidden />
        </Button>
        <Button look="bare" aria-label="Take the set out" tip="Take the set out" onClick={() => removeSet(at)} data-testid="remove-set">
          <Trash2 size={14} aria-hidden />
        </Button>
      </PanelHead>
      <Box px="12px" py="6px">
        {problems.map(({ where, place, sentence }) => (
          <Refusal key={`${where} ${place}`} role="alert">
            {where === 'script' ? `Over time, line ${place}` : `${place} (${where})`}: {sentence}
          </Refusal>
        ))}
        {row && row.verdict !== 'unread' && (
          <List data-testid="row-said">
            {said.map((each) => (
              <Box as="li" key={each} color="problem" fontSize="14px">
                {each}
              </Box>
            ))}
            {!row.shouldHalt && (
              <Box as="li" fontSize="13px" color="ink2">
                {row.ending}
              </Box>
            )}
            {row.remarks.map((each) => (
              <Box as="li" key={each} fontSize="13px">
                ! {each}
              </Box>
            ))}
          </List>
        )}
        <Beside one={one} />
      </Box>
      {parted && (parted.left.set === one.name || parted.right.set === one.name) && <Parting parted={parted} />}
      <ScriptWindow open={scripting} close={() => setScripting(false)} at={at} one={one} />
    </Box>
  );
}

/** Another run to compare with: of another set, an earlier version of the program, or another program. */
function Beside({ one }: { one: TrialSet }) {
  const sets = useTrials((state) => state.table.sets);
  const program = useTrials((state) => state.program);
  const programs = useTrials((state) => state.programs);
  const runs = useTrials((state) => state.tried?.facts !== undefined);
  const others = programs.filter((each) => each.machine === program?.machine && each.id !== program?.id);
  const choose = async (value: string): Promise<void> => {
    const [kind, id = ''] = [value.slice(0, value.indexOf(' ')), value.slice(value.indexOf(' ') + 1)];
    let right: Other = { set: id, says: id };
    if (kind === 'version' && program)
      right = { set: one.name, says: `version ${id}`, source: (await client.version('program', program.id, Number(id))).text };
    if (kind === 'program')
      right = {
        set: one.name,
        says: programs.find((each) => each.id === id)?.name ?? id,
        source: (await client.get('program', id)).draft,
        program: id,
      };
    await part(one.name, right);
  };
  return (
    <Controls>
      <span>Where it parts from</span>
      <Choice
        label="Another run to compare with"
        value=""
        choose={(value) => void (runs && choose(value))}
        testId="beside"
        options={[
          { value: '', says: 'another run …' },
          ...sets.filter((each) => each.name !== one.name).map((each) => ({ value: `set ${each.name}`, says: `the set “${each.name}”` })),
          ...(program?.versions ?? []).map(({ number }) => ({ value: `version ${number}`, says: `version ${number} of the program` })),
          ...others.map((each) => ({ value: `program ${each.id}`, says: `the program “${each.name}”` })),
        ]}
      />
    </Controls>
  );
}

function ScriptWindow({ open, close, at, one }: { open: boolean; close: () => void; at: number; one: TrialSet }) {
  const [text, setText] = useState(one.script);
  const problems = (useTrials((state) => state.problems[at]) ?? []).filter((each) => each.where === 'script');
  const take = (): void => {
    if (text !== one.script) changeSet(at, { script: text });
  };
  return (
    <Window
      title={`What happens over time: ${one.name}`}
      open={open}
      close={() => {
        take();
        close();
      }}
      testId="script-window"
      closes="Done"
    >
      <Hint as="p">
        A line for each: “input 12 5”, “at 120: input 7”, “at 200: level = 3”, “keys is not ready until 5 reads, then as it is”, “lamps is a
        digit row”.
      </Hint>
      <TextEntry
        value={text}
        rows={8}
        maxLength={20_000}
        fontFamily="mono"
        fontSize="14px"
        spellCheck={false}
        aria-label="Lines over time"
        data-testid="script-text"
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
      />
      {problems.map(({ place, sentence }) => (
        <Refusal key={place} role="alert">
          Line {place}: {sentence}
        </Refusal>
      ))}
    </Window>
  );
}

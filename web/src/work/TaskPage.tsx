/** A student's page of an assignment: the problem, the shown sets, handing in, receipts. */
import { Box, Flex } from '@chakra-ui/react';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import type { Receipt } from '@zettak/api/work';
import { placesOf, readTable } from '@zettak/core/trials/sets/table';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import { sentencesOf } from '@zettak/core/trials/sets/csv';
import { isFrozen } from '@zettak/core/trials/handIns/frozen';
import { Shell } from '../app/Shell';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry, Label } from '../ui/Field';
import { Hint, Notice, Panel, PanelHead, PanelTitle, Refusal } from '../ui/Panel';
import { chooseTask, handIn, lookAtProgram, nameLabel, saveHandIn, saveReceipt, tryShown } from './acts';
import { machineOf, programOf, useWork } from './state';

const timeText = (at: string): string =>
  new Date(at).toLocaleString([], { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

export function TaskPage() {
  const assignment = useWork((state) => state.assignment);
  const failure = useWork((state) => state.failure);
  useEffect(() => {
    void lookAtProgram();
    const look = (): void => void lookAtProgram();
    window.addEventListener('focus', look);
    return () => window.removeEventListener('focus', look);
  }, []);
  return (
    <Shell title={assignment?.name ?? 'Task'} controls={<Tasks />}>
      <Flex direction="column" height="100%">
        <Messages />
        {assignment && !assignment.content && <NotOpen name={assignment.name} at={assignment.opensAt} />}
        {assignment?.content && (
          <Flex flex="1" minHeight="0">
            <Panel label="The task" width="46%" height="100%" overflow="auto" tabIndex={0} borderRight="1px solid" borderColor="line">
              <Problem />
            </Panel>
            <Panel label="Your work" flex="1" height="100%" overflow="auto" tabIndex={0}>
              <ShownSets />
              <HandIn />
              <Receipts />
            </Panel>
          </Flex>
        )}
        {!assignment && failure === undefined && <Hint p="20px">One moment …</Hint>}
      </Flex>
    </Shell>
  );
}

/** The tasks of a lesson in a folder. */
function Tasks() {
  const choices = useWork((state) => state.choices);
  const lesson = useWork((state) => state.lesson);
  const id = useWork((state) => state.assignment?.id);
  if (lesson === undefined) return null;
  return (
    <Flex align="center" gap="8px" color="onBar2" flex="1">
      {lesson}
      <Choice
        look="bar"
        label="Task"
        testId="choose-task"
        maxWidth="260px"
        value={id ?? ''}
        choose={chooseTask}
        options={choices.map((each) => ({ value: each.id, says: each.name }))}
      />
    </Flex>
  );
}

function Messages() {
  const failure = useWork((state) => state.failure);
  const said = useWork((state) => state.said);
  const away = useWork((state) => state.away);
  return (
    <>
      {failure !== undefined && (
        <Notice tone="problem" role="alert" data-testid="work-failure">
          {failure}
        </Notice>
      )}
      {away && (
        <Notice role="status" data-testid="away">
          The server cannot be reached. You can go on: your work is kept in this browser, and a hand-in becomes a file.
        </Notice>
      )}
      {!window.isSecureContext && (
        <Notice role="note" data-testid="plain-http">
          This page comes over plain HTTP, so the browser does not keep it for times without the server. Your work is kept in this browser
          all the same.
        </Notice>
      )}
      {said !== undefined && (
        <Notice role="status" data-testid="work-said">
          {said}
        </Notice>
      )}
    </>
  );
}

const NotOpen = ({ name, at }: { name: string; at: string | null }) => (
  <Box p="24px" fontSize="17px" data-testid="not-open">
    {name} opens {at === null ? 'later' : timeText(at)}.
  </Box>
);

function Problem() {
  const { id, name, opensAt, closesAt, state, content } = useWork((each) => each.assignment!);
  const navigate = useNavigate();
  const { problem, machineName, machineVersion, frame, mostTicks, mostCells, hidden } = content!;
  const frozen = frame.split('\n').filter(isFrozen).length;
  return (
    <>
      <PanelHead>
        <PanelTitle>{name}</PanelTitle>
        <Hint>
          {machineName}, version {machineVersion}
        </Hint>
      </PanelHead>
      <Box px="14px" py="10px" fontSize="16px" lineHeight="24px" data-testid="task">
        <Box whiteSpace="pre-wrap">{problem || 'There are no words to this task.'}</Box>
        <Box as="ul" mt="10px" pl="20px" fontSize="14px" color="ink2" listStyleType="disc">
          {frozen > 0 && <li>{frozen} lines of the program are given and stay as they are.</li>}
          {mostTicks !== null && <li>A run takes at most {mostTicks.toLocaleString('en-US')} ticks.</li>}
          {mostCells !== null && <li>The program takes at most {mostCells.toLocaleString('en-US')} cells.</li>}
          {hidden > 0 && (
            <li>
              It is checked with {hidden} more {hidden === 1 ? 'set' : 'sets'} that you do not see.
            </li>
          )}
          {opensAt !== null && <li>Opened {timeText(opensAt)}.</li>}
          {closesAt !== null && (
            <li>
              {state === 'after' ? 'Closed' : 'Closes'} {timeText(closesAt)}
              {state === 'after' ? '; what comes now is late.' : '.'}
            </li>
          )}
        </Box>
        <Flex gap="8px" mt="14px" wrap="wrap">
          <Button look="strong" onClick={() => void navigate(`/bench/${programOf(id)}`)} data-testid="to-bench">
            Write and run it on the bench
          </Button>
          <Button onClick={() => void navigate(`/machines/${machineOf(id)}/card`)}>Reference card of {machineName}</Button>
        </Flex>
      </Box>
    </>
  );
}

function ShownSets() {
  const content = useWork((state) => state.assignment!.content!);
  const rows = useWork((state) => state.rows);
  const wrong = useWork((state) => state.wrong);
  const busy = useWork((state) => state.busy);
  const read = readTable(content.sets);
  const table = 'table' in read ? read.table : undefined;
  const given = table ? placesOf(table.sets, 'given') : [];
  return (
    <Box as="section" aria-label="Sets to try">
      <PanelHead>
        <PanelTitle>Sets to try</PanelTitle>
        <Box flex="1" />
        <Button onClick={() => void tryShown()} disabled={busy || !table || table.sets.length === 0} data-testid="try-shown">
          Try them
        </Button>
      </PanelHead>
      {wrong !== undefined && (
        <Box px="12px" py="6px">
          <Refusal data-testid="work-wrong">It does not assemble. {wrong}</Refusal>
        </Box>
      )}
      <Box as="ul" px="12px" py="6px" fontSize="14px" lineHeight="22px" data-testid="shown-sets">
        {table?.sets.map((each) => (
          <li key={each.name}>
            <Verdict row={rows?.find((row) => row.name === each.name)} /> <b>{each.name}</b>
            {each.purpose === '' ? '' : `: ${each.purpose}`}
            <Hint display="block" pl="22px">
              {given.flatMap((place) => each.given.filter((one) => one.place === place).map((one) => `${place} ${one.text}`)).join(', ')}
              {each.expected.length > 0 ? ` → ${each.expected.map((one) => `${one.place} ${one.text}`).join(', ')}` : ''}
            </Hint>
            {(rows?.find((row) => row.name === each.name)?.verdict ?? 'holds') !== 'holds' && (
              <Refusal pl="22px">{sentencesOf(rows!.find((row) => row.name === each.name)!).join(' ')}</Refusal>
            )}
          </li>
        ))}
        {table?.sets.length === 0 && <Hint>No set is shown.</Hint>}
      </Box>
    </Box>
  );
}

function Verdict({ row }: { row: TrialRow | undefined }) {
  if (!row) return <Hint aria-label="not tried">…</Hint>;
  const well = row.verdict === 'holds' || row.verdict === 'ran';
  return (
    <Box as="span" fontWeight="700" color={well ? 'ok' : 'problem'} role="img" aria-label={well ? 'holds' : 'differs'}>
      {well ? '✓' : '✗'}
    </Box>
  );
}

function HandIn() {
  const label = useWork((state) => state.label);
  const busy = useWork((state) => state.busy);
  const source = useWork((state) => state.source);
  const frame = useWork((state) => state.assignment!.content!.frame);
  const served = useWork((state) => state.tokens !== undefined);
  const empty = label.trim() === '';
  return (
    <Box as="section" aria-label="Hand in">
      <PanelHead>
        <PanelTitle>Hand in</PanelTitle>
      </PanelHead>
      <Box px="12px" py="8px" fontSize="14px">
        <Flex gap="10px" align="center" wrap="wrap">
          <Label>
            Your label
            <Entry
              room="value"
              placeholder="bench 07"
              value={label}
              maxLength={60}
              onChange={(event) => nameLabel(event.target.value)}
              data-testid="work-label"
            />
          </Label>
          {served && (
            <Button look="strong" onClick={() => void handIn()} disabled={busy || empty} data-testid="hand-in">
              {busy ? 'One moment …' : 'Hand in the program'}
            </Button>
          )}
          <Button
            {...(!served && { look: 'strong' })}
            onClick={() => void saveHandIn()}
            disabled={busy || empty}
            data-testid="save-hand-in"
          >
            {served ? 'Save it as a file' : 'Save the hand-in as a file'}
          </Button>
        </Flex>
        <Hint as="p" mt="6px">
          {source === frame
            ? 'The program is still as it was given.'
            : 'It hands in the program as it is now, your sets, and what this page noted of your work: when it was opened, edited, assembled, run and tried. You can hand in again; earlier ones are kept.'}
        </Hint>
      </Box>
    </Box>
  );
}

function Receipts() {
  const receipts = useWork((state) => state.receipts);
  if (receipts.length === 0) return null;
  return (
    <Box as="section" aria-label="Receipts">
      <PanelHead>
        <PanelTitle>Receipts</PanelTitle>
        <Hint>signed by the server</Hint>
      </PanelHead>
      <Box as="ul" px="12px" py="6px" fontSize="14px" data-testid="receipts">
        {[...receipts].reverse().map((each) => (
          <ReceiptLine key={each.signature} receipt={each} />
        ))}
      </Box>
    </Box>
  );
}

const ReceiptLine = ({ receipt }: { receipt: Receipt }) => (
  <Flex as="li" gap="10px" align="center" py="3px">
    <b>{receipt.label}</b>
    <span>
      no. {receipt.number}, {timeText(receipt.arrivedAt)}
      {receipt.late ? ', late' : ''}
    </span>
    <Hint fontFamily="mono">{receipt.hash.slice(0, 12)}</Hint>
    <Button look="link" onClick={() => saveReceipt(receipt)}>
      Save
    </Button>
  </Flex>
);

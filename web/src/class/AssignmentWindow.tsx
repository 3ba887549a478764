/** Settings of an assignment: words, limits, times, points. */
import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { MarkRule } from '@zettak/core/trials/handIns/marks';
import { benchFor, wordsOf } from '../documents/lessonBench';
import { Button } from '../ui/Button';
import { Entry, Label, TextEntry } from '../ui/Field';
import { Heading, Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { changeAssignment } from './acts';
import { sayHere, useClass } from './state';

/** As a field for dates has it, in the time of this computer. */
function localTime(at: string | null): string {
  if (at === null) return '';
  const date = new Date(at);
  return new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

const timeOf = (text: string): string | null => (text === '' ? null : new Date(text).toISOString());
const countOf = (text: string): number | null => (/^\d{1,9}$/.test(text.trim()) && Number(text) > 0 ? Number(text) : null);

export function AssignmentWindow({ close }: { close: () => void }) {
  const assignment = useClass((state) => state.matrix!.assignment);
  const sets = useClass((state) => state.matrix!.sets);
  const failure = useClass((state) => state.failure);
  const [name, setName] = useState(assignment.name);
  const [problem, setProblem] = useState(assignment.problem);
  const [frame, setFrame] = useState(assignment.frame);
  const [ticks, setTicks] = useState(String(assignment.mostTicks ?? ''));
  const [cells, setCells] = useState(String(assignment.mostCells ?? ''));
  const [opens, setOpens] = useState(localTime(assignment.opensAt));
  const [closes, setCloses] = useState(localTime(assignment.closesAt));
  const [marks, setMarks] = useState<MarkRule>(assignment.marks);
  const [bench, setBench] = useState(assignment.bench);
  const own = assignment.program === null ? undefined : benchFor(assignment.program, assignment.machine);
  const wrong = [
    ticks.trim() !== '' && countOf(ticks) === null && 'Ticks: a whole number of at least 1, or nothing.',
    cells.trim() !== '' && countOf(cells) === null && 'Cells: a whole number of at least 1, or nothing.',
    name.trim() === '' && 'A name is needed.',
  ].find((each) => each !== false);
  const save = async (): Promise<void> => {
    const change = {
      name,
      problem,
      frame,
      mostTicks: countOf(ticks),
      mostCells: countOf(cells),
      opensAt: timeOf(opens),
      closesAt: timeOf(closes),
      marks,
      bench,
    };
    if (await changeAssignment({ ...change, renew: false })) close();
  };
  const renew = async (): Promise<void> => {
    if (await changeAssignment({ renew: true })) {
      sayHere('Solution, sets and machine are those of the program as it is now; everything is checked anew.');
      close();
    }
  };
  return (
    <Window title={`Settings of ${assignment.name}`} open close={close} closes="Change nothing" testId="assignment-settings" wide>
      <Flex direction="column" gap="8px">
        <Label>
          Name
          <Entry room="wide" value={name} maxLength={80} onChange={(event) => setName(event.target.value)} data-testid="setting-name" />
        </Label>
        <TextEntry aria-label="The problem in words" rows={3} value={problem} onChange={(event) => setProblem(event.target.value)} />
        <TextEntry
          aria-label="Frame: lines that end in ;! stay as they are"
          placeholder="Frame: what students begin with; lines that end in ;! stay as they are"
          fontFamily="mono"
          rows={4}
          value={frame}
          onChange={(event) => setFrame(event.target.value)}
        />
        <Flex gap="16px" wrap="wrap">
          <Label>
            Most ticks of a run
            <Entry room="count" value={ticks} onChange={(event) => setTicks(event.target.value)} data-testid="setting-ticks" />
          </Label>
          <Label>
            Most cells
            <Entry room="count" value={cells} onChange={(event) => setCells(event.target.value)} data-testid="setting-cells" />
          </Label>
          <Label>
            Opens
            <Entry type="datetime-local" width="200px" value={opens} onChange={(event) => setOpens(event.target.value)} />
          </Label>
          <Label>
            Closes
            <Entry
              type="datetime-local"
              width="200px"
              value={closes}
              onChange={(event) => setCloses(event.target.value)}
              data-testid="setting-closes"
            />
          </Label>
        </Flex>
        <Flex gap="8px" align="center" wrap="wrap" data-testid="setting-bench">
          <span>On their bench students get: {bench ? wordsOf(bench) : 'nothing of mine'}.</span>
          {own && JSON.stringify(own) !== JSON.stringify(bench) && (
            <Button onClick={() => setBench(own)} data-testid="take-bench">
              Take what is on mine: {wordsOf(own)}
            </Button>
          )}
          {bench && (
            <Button onClick={() => setBench(null)} data-testid="no-bench">
              Give nothing
            </Button>
          )}
        </Flex>
        <Box>
          <Heading>Points</Heading>
          <Rule rule={marks} change={setMarks} sets={sets.map((each) => each.name)} />
        </Box>
        {wrong !== undefined && <Refusal>{wrong}</Refusal>}
        {failure !== undefined && <Refusal role="alert">{failure}</Refusal>}
        <Flex gap="8px" wrap="wrap" align="center">
          <Button look="strong" onClick={() => void save()} disabled={wrong !== undefined} data-testid="save-settings">
            Keep these settings
          </Button>
          <Button onClick={() => void renew()} disabled={assignment.program === null} data-testid="renew">
            Take program, sets and machine anew
          </Button>
          <Hint>What decides over verdicts is checked anew when it changes.</Hint>
        </Flex>
      </Flex>
    </Window>
  );
}

interface RuleProps {
  readonly rule: MarkRule;
  readonly change: (rule: MarkRule) => void;
  readonly sets: readonly string[];
}

function Rule({ rule, change, sets }: RuleProps) {
  const worth = (set: string): number => rule.sets[set] ?? rule.each;
  const limit = (of: 'ticks' | 'cells', part: 'most' | 'points', text: string): void => {
    const value = Number(text);
    const before = rule[of] ?? { most: 1, points: 0 };
    const next = { ...before, [part]: part === 'most' ? Math.max(1, Math.round(value) || 1) : points(text) };
    const { [of]: _, ...rest } = rule;
    change(next.points > 0 ? { ...rule, [of]: next } : rest);
  };
  return (
    <Flex gap="10px 16px" wrap="wrap" fontSize="13px" align="center">
      <Points says="each set" value={rule.each} change={(value) => change({ ...rule, each: value })} />
      <Points says="a program that assembles" value={rule.assembles} change={(value) => change({ ...rule, assembles: value })} />
      {(['ticks', 'cells'] as const).map((of) => (
        <Flex key={of} align="center" gap="6px">
          <Points
            says={`everything holds in at most`}
            value={rule[of]?.points ?? 0}
            change={(value) => limit(of, 'points', String(value))}
          />
          <Entry
            room="count"
            type="number"
            min={1}
            aria-label={`Most ${of} for these points`}
            value={rule[of]?.most ?? ''}
            disabled={!rule[of]}
            onChange={(event) => limit(of, 'most', event.target.value)}
          />
          {of}
        </Flex>
      ))}
      {sets.map((each) => (
        <Points key={each} says={each} value={worth(each)} change={(value) => change({ ...rule, sets: { ...rule.sets, [each]: value } })} />
      ))}
    </Flex>
  );
}

const points = (text: string): number => Math.min(1000, Math.max(0, Number(text) || 0));

const Points = ({ says, value, change }: { says: string; value: number; change: (value: number) => void }) => (
  <Label>
    <Entry
      room="word"
      width="64px"
      type="number"
      min={0}
      max={1000}
      step="any"
      value={value}
      onChange={(event) => change(points(event.target.value))}
    />
    for {says}
  </Label>
);

/** One hand-in: what is wrong with it in words, its text, remarks, what came before. */
import { Box, Flex } from '@chakra-ui/react';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { HandInRow, Matrix } from '@zettak/api/matrix';
import { Button } from '../ui/Button';
import { TextEntry } from '../ui/Field';
import { Hint, PanelHead, PanelTitle, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { courseClient } from '../documents/courseClient';
import { countThis, ontoBench, remark, removeHandIn } from './acts';
import { timeText } from './AssignmentFacts';
import { Sure } from './Sure';
import { membersOf, useClass } from './state';

const SideBySide = lazy(() => import('../editor/SideBySide').then((each) => ({ default: each.SideBySide })));

export function FirstDifference() {
  const matrix = useClass((state) => state.matrix);
  const chosen = useClass((state) => state.chosen);
  const row = matrix?.rows.find((each) => each.id === chosen);
  if (!matrix) return null;
  if (!row)
    return (
      <PanelHead>
        <PanelTitle>First difference</PanelTitle>
      </PanelHead>
    );
  return (
    <Box data-testid="first-difference">
      <RowHead row={row} />
      {row.beside && <Beside row={row} />}
      <Box px="12px" py="9px" fontSize="15px" lineHeight="22px">
        <Words row={row} />
      </Box>
      <Text row={row} />
      <AlikeWith matrix={matrix} row={row} />
      <Remarks key={`${row.label} ${row.checked?.mistake?.key ?? ''}`} matrix={matrix} row={row} />
      <History row={row} />
    </Box>
  );
}

/** A hand-in under a label that already came from somewhere else: it does not count until the teacher says so. */
function Beside({ row }: { row: HandInRow }) {
  const from = row.origin === 'teacher' ? 'the files that you brought in' : 'another browser';
  return (
    <Box px="12px" pt="9px" fontSize="14px">
      <p>
        {row.label} has hand-ins from two places. This one came from {from} and does not count.
      </p>
      <Button mt="6px" onClick={() => void countThis(row)} data-testid="count-this">
        Count this one instead
      </Button>
    </Box>
  );
}

function RowHead({ row }: { row: HandInRow }) {
  const navigate = useNavigate();
  const detail = useClass((state) => state.detail);
  const parts = row.checked?.first?.parts;
  const open = (side: 'hand-in' | 'teacher') => async (): Promise<void> => {
    const path = await ontoBench(side);
    if (path !== undefined) await navigate(path);
  };
  const ready = detail?.id === row.id && row.checked !== undefined && !row.checked.errors;
  return (
    <PanelHead flexWrap="wrap">
      <Box fontWeight="700">{row.label}</Box>
      <Box flex="1" />
      <Button
        onClick={() => void open('hand-in')()}
        disabled={!ready}
        data-testid="onto-bench"
        tip="Its run, where it parts from the teacher’s (Enter)"
      >
        On the bench
      </Button>
      {parts && (
        <Button onClick={() => void open('teacher')()} disabled={!ready}>
          The teacher’s
        </Button>
      )}
    </PanelHead>
  );
}

function Words({ row: { checked, state, sentence, broken } }: { row: HandInRow }) {
  if (!checked)
    return <p>{state === 'failed' ? sentence : state === 'called off' ? 'It has not been checked.' : 'It is being checked.'}</p>;
  const { errors, first, mistake, frame, holds, rows } = checked;
  return (
    <>
      {state === 'failed' && <Refusal>{sentence}</Refusal>}
      {checked.open && state !== 'failed' && <p>It fails. Why is being looked for.</p>}
      {broken.map((each) => (
        <Refusal key={each}>{each}</Refusal>
      ))}
      {errors?.map((each) => (
        <p key={`${each.line} ${each.sentence}`}>
          <b>Line {each.line}:</b> {each.sentence}
        </p>
      ))}
      {first && <p data-testid="difference">{first.sentence}</p>}
      {mistake && !errors && !first?.sentence.includes(mistake.here) && (
        <Box as="p" mt="6px" fontWeight="600" data-testid="mistake">
          {mistake.here}
        </Box>
      )}
      {first?.parts && (
        <Box as="p" mt="6px" fontSize="14px" lineHeight="20px" color="ink2" data-testid="parts">
          {first.parts.sentence}
        </Box>
      )}
      {frame.length > 0 && <Refusal>Given lines are gone or changed: {frame.map((each) => `“${each}”`).join(', ')}.</Refusal>}
      {!errors && !first && !mistake && !checked.open && rows.length > 0 && (
        <p>
          All {holds} sets hold, in at most {checked.ticks.toLocaleString('en-US')} ticks and {checked.cells} cells.
        </p>
      )}
    </>
  );
}

function Text({ row }: { row: HandInRow }) {
  const detail = useClass((state) => state.detail);
  const room = useRef<HTMLDivElement>(null);
  const { checked } = row;
  const wrong = new Set([
    ...(checked?.errors?.map((each) => each.line) ?? []),
    checked?.mistake?.line,
    checked?.mistake ? undefined : checked?.first?.parts?.line,
  ]);
  const here = detail?.id === row.id;
  useEffect(() => {
    const line = room.current?.querySelector<HTMLElement>('.here');
    if (line && room.current) room.current.scrollTop = line.offsetTop - room.current.offsetTop - room.current.clientHeight / 2;
  }, [here, checked]);
  return (
    <div
      ref={room}
      className="hand-in-text"
      role="region"
      aria-label={`The program of ${row.label}`}
      tabIndex={0}
      data-testid="hand-in-text"
    >
      {(here ? detail.source.split('\n') : []).map((line, at) => (
        <div key={at} className={wrong.has(at + 1) ? 'here' : ''}>
          <span>{at + 1}</span>
          <span>{line || ' '}</span>
        </div>
      ))}
    </div>
  );
}

/** Programs that are this one, told as a fact. */
function AlikeWith({ matrix, row }: { matrix: Matrix; row: HandInRow }) {
  const [differing, setDiffering] = useState<{ readonly label: string; readonly text: string }>();
  const detail = useClass((state) => state.detail);
  const found = matrix.alike.filter((each) => each.members.includes(row.id));
  const others = [...new Set(found.flatMap((each) => each.members))].filter((each) => each !== row.id);
  if (others.length === 0 || detail?.id !== row.id) return null;
  const labelOf = (id: number): string => matrix.rows.find((each) => each.id === id)?.label ?? '';
  const beside = async (id: number): Promise<void> => {
    const theirs = await courseClient.handIn(id);
    setDiffering({ label: theirs.label, text: theirs.source });
  };
  return (
    <Box px="12px" py="8px" fontSize="13px" data-testid="alike-with">
      The same program, but for names, order of data, remarks and blank lines:{' '}
      {others.slice(0, 12).map((each) => (
        <Button key={each} look="link" onClick={() => void beside(each)}>
          {labelOf(each)}, side by side
        </Button>
      ))}
      {differing && (
        <Suspense fallback={null}>
          <Window
            title={`Alike after renaming: ${row.label} beside ${differing.label}`}
            open
            close={() => setDiffering(undefined)}
            testId="alike-window"
            wide
          >
            <SideBySide left={{ name: row.label, text: detail.source }} right={{ name: differing.label, text: differing.text }} />
          </Window>
        </Suspense>
      )}
    </Box>
  );
}

function Remarks({ matrix, row }: { matrix: Matrix; row: HandInRow }) {
  const key = row.checked?.mistake?.key;
  const count = key === undefined ? 0 : membersOf(matrix, key).length;
  const said = (of: 'group' | 'label', about: string | undefined): string =>
    matrix.remarks.find((each) => each.of === of && each.about === about)?.text ?? '';
  const own = said('label', row.label);
  const [text, setText] = useState(key === undefined ? own : said('group', key) || own);
  return (
    <Box as="section" aria-label="Remark">
      <PanelHead>
        <PanelTitle>{count > 1 ? `Said to all ${count} with this mistake` : `Said to ${row.label}`}</PanelTitle>
      </PanelHead>
      <Box px="12px" py="8px">
        <TextEntry
          aria-label="Remark"
          rows={3}
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder="A hint, a question, a line to look at"
          data-testid="remark"
        />
        <Flex gap="8px" mt="6px" wrap="wrap" align="center">
          {key !== undefined && (
            <Button
              look="strong"
              onClick={() => void remark('group', key, text)}
              disabled={text === said('group', key)}
              data-testid="remark-group"
            >
              {count > 1 ? `Keep it for all ${count}` : 'Keep the remark'}
            </Button>
          )}
          <Button onClick={() => void remark('label', row.label, text)} disabled={text === own} data-testid="remark-label">
            Only {row.label}
          </Button>
        </Flex>
        {own !== '' && own !== text && (
          <Hint as="p" mt="6px">
            Only {row.label}: {own}
          </Hint>
        )}
      </Box>
    </Box>
  );
}

function History({ row }: { row: HandInRow }) {
  const detail = useClass((state) => state.detail);
  const [sure, setSure] = useState(false);
  if (detail?.id !== row.id) return null;
  return (
    <Box as="section" aria-label="History">
      <PanelHead>
        <PanelTitle>History</PanelTitle>
        <Box flex="1" />
        <Button look="plain" onClick={() => setSure(true)} data-testid="delete-hand-in">
          Delete …
        </Button>
      </PanelHead>
      <Box as="table" width="100%" fontSize="13px" data-testid="history">
        <tbody>
          {detail.history.map((each) => (
            <tr key={each.id}>
              <Box as="td" px="12px" py="4px" whiteSpace="nowrap">
                {timeText(each.arrivedAt)}
              </Box>
              <Box as="td" py="4px">
                {each.file ? `as ${each.file}` : 'handed in'}
                {each.holds === undefined ? '' : `, ${each.holds} of ${each.sets}`}
                {each.late ? ', late' : ''}
              </Box>
            </tr>
          ))}
        </tbody>
      </Box>
      <Sure
        open={sure}
        close={() => setSure(false)}
        title={`Delete the newest hand-in of ${row.label}?`}
        does="Delete for good"
        act={() => removeHandIn(row.id, row.label)}
      >
        It is deleted with its verdicts and cannot be brought back. An earlier one of this label, where there is one, is shown in its place.
      </Sure>
    </Box>
  );
}

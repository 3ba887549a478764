/** A page for each hand-in, to print: verdicts, points, what went wrong, remarks, the program. */
import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { HandInDetail, HandInRow, Matrix } from '@zettak/api/matrix';
import { marksOf } from '@zettak/core/trials/handIns/marks';
import { textOf } from '../app/textOf';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { courseClient } from '../documents/courseClient';
import { Button } from '../ui/Button';
import { Hint, Plain } from '../ui/Panel';
import { signOf } from './Matrix';
import { timeText } from './AssignmentFacts';
import './pages.css';

interface Held {
  readonly matrix: Matrix;
  readonly details: ReadonlyMap<number, HandInDetail>;
}

export function PagesPage() {
  const { assignment = '' } = useParams();
  const navigate = useNavigate();
  const [held, setHeld] = useState<Held>();
  const [failure, setFailure] = useState<string>();
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    setFailure(undefined);
    const load = async (): Promise<void> => {
      const matrix = await courseClient.matrix(assignment);
      const details = await Promise.all(matrix.rows.map((each) => courseClient.handIn(each.id)));
      setHeld({ matrix, details: new Map(details.map((each) => [each.id, each])) });
    };
    load().catch((error: unknown) => setFailure(textOf(error)));
  }, [assignment, turn]);
  return (
    <Shell
      title="Pages to print"
      controls={
        <Flex flex="1" justify="flex-end" gap="8px">
          <Button look="barLine" onClick={() => void navigate(`/class/${assignment}`)}>
            Back to the class
          </Button>
          <Button look="go" onClick={() => window.print()}>
            Print
          </Button>
        </Flex>
      }
    >
      <Box className="pages" tabIndex={0} role="region" aria-label="Pages">
        <Failure failure={failure} again={() => setTurn(turn + 1)} />
        {held?.matrix.rows.length === 0 && <Hint>Nothing has come in yet.</Hint>}
        {held?.matrix.rows.map((row) => (
          <HandInPage key={row.id} matrix={held.matrix} row={row} detail={held.details.get(row.id)} />
        ))}
      </Box>
    </Shell>
  );
}

function HandInPage({ matrix, row, detail }: { matrix: Matrix; row: HandInRow; detail: HandInDetail | undefined }) {
  const { assignment, sets, remarks } = matrix;
  const { checked } = row;
  const marks = marksOf(
    assignment.marks,
    sets.map((each) => each.name),
    checked ?? { rows: [], errors: [], ticks: 0, cells: 0 },
  );
  const said = remarks.filter((each) => (each.of === 'group' ? each.about === checked?.mistake?.key : each.about === row.label));
  const shown = checked?.rows.filter((each) => !each.hidden) ?? [];
  const hidden = checked?.rows.filter((each) => each.hidden) ?? [];
  const hold = hidden.filter((each) => each.verdict === 'holds' || each.verdict === 'ran').length;
  return (
    <article className="page" data-page={row.label}>
      <Flex align="baseline" gap="12px">
        <Box as="h2" fontSize="19px" fontWeight="700">
          {row.label}
        </Box>
        <Box flex="1">{assignment.name}</Box>
        <b>
          {marks.points} of {marks.of} points
        </b>
      </Flex>
      <Hint as="p">
        came {timeText(row.arrivedAt)}
        {row.late ? ', late' : ''}; {assignment.machineName}, version {assignment.machineVersion}
      </Hint>
      {checked?.errors?.map((each) => (
        <p key={`${each.line} ${each.sentence}`}>
          Line {each.line}: {each.sentence}
        </p>
      ))}
      <ul>
        {shown.map((each) => (
          <li key={each.set}>
            {signOf(each).sign} {each.set}: {signOf(each).says}
          </li>
        ))}
      </ul>
      {hidden.length > 0 && (
        <p>
          {hold} of {hidden.length} hidden sets hold.
        </p>
      )}
      {said.map((each) => (
        <Box as="p" key={each.of} mt="8px" fontWeight="600">
          {each.text}
        </Box>
      ))}
      <Plain maxHeight="none" mt="10px" whiteSpace="pre-wrap">
        {detail?.source ?? ''}
      </Plain>
    </article>
  );
}

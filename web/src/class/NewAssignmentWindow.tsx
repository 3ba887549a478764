/** A new assignment, made of a program. */
import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentSummary } from '@zettak/api/documents';
import { textOf } from '../app/textOf';
import { client } from '../documents/client';
import { benchFor, wordsOf } from '../documents/lessonBench';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Choice } from '../ui/Choice';
import { Entry, Label, TextEntry } from '../ui/Field';
import { FileButton } from '../ui/FileButton';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { makeAssignment, takeCourse } from './acts';
import { useClass } from './state';

const NEW = '';

export function NewAssignmentWindow({ close }: { close: () => void }) {
  const courses = useClass((state) => state.courses);
  const failure = useClass((state) => state.failure);
  const navigate = useNavigate();
  const [programs, setPrograms] = useState<readonly DocumentSummary[]>([]);
  const [frames, setFrames] = useState<readonly DocumentSummary[]>([]);
  const [withSets, setWithSets] = useState<ReadonlySet<string>>(new Set());
  const [course, setCourse] = useState(courses[0]?.id ?? NEW);
  const [courseName, setCourseName] = useState('My course');
  const [program, setProgram] = useState('');
  const [name, setName] = useState('');
  const [problem, setProblem] = useState('');
  const [frame, setFrame] = useState('');
  const [withBench, setWithBench] = useState(true);
  useEffect(() => {
    void Promise.all([client.list('program'), client.list('frame'), client.list('trial')])
      .then(([own, given, sets]) => {
        setPrograms(own);
        setFrames(given);
        setWithSets(new Set(sets.flatMap((each) => each.program ?? [])));
      })
      .catch((error: unknown) => useClass.setState({ failure: textOf(error) }));
  }, []);
  const chosen = programs.find((each) => each.id === program);
  const bench = chosen && benchFor(chosen.id, chosen.machine ?? '');
  const take = async (file: File): Promise<void> => {
    const id = await takeCourse(file);
    if (id === undefined) return;
    close();
    await navigate(`/class/${id}`);
  };
  const make = async (): Promise<void> => {
    const text = frame === '' ? '' : (await client.get('frame', frame)).draft;
    const id = await makeAssignment(course === NEW ? undefined : course, courseName, {
      ...{ name, program, problem, frame: text },
      ...(bench && withBench && { bench }),
    });
    if (id === undefined) return;
    close();
    await navigate(`/class/${id}`);
  };
  return (
    <Window title="New assignment" open close={close} closes="Make none" testId="new-assignment">
      <Flex direction="column" gap="10px">
        <Label>
          Course
          <Choice
            label="Course"
            testId="new-course"
            value={course}
            choose={setCourse}
            options={[...courses.map((each) => ({ value: each.id, says: each.name })), { value: NEW, says: 'a new one …' }]}
          />
          {course === NEW && (
            <Entry
              aria-label="Name of the course"
              value={courseName}
              maxLength={80}
              onChange={(event) => setCourseName(event.target.value)}
            />
          )}
        </Label>
        <Label>
          Made of the program
          <Choice
            label="Program"
            testId="new-program"
            value={program}
            choose={(id) => {
              setProgram(id);
              setFrame('');
              if (name === '') setName(programs.find((each) => each.id === id)?.name ?? '');
            }}
            options={[{ value: '', says: 'choose one' }, ...programs.map((each) => ({ value: each.id, says: each.name }))]}
          />
        </Label>
        <Hint as="p">
          {chosen && !withSets.has(chosen.id)
            ? 'It has no sets yet: write some on the Trials screen, so that there is something to check with.'
            : 'Its sets are what hand-ins are checked with; hidden ones are never shown to students. It is itself what their runs are compared with.'}
        </Hint>
        <Label>
          Name
          <Entry room="wide" value={name} maxLength={80} onChange={(event) => setName(event.target.value)} data-testid="new-name" />
        </Label>
        <Box>
          <TextEntry
            aria-label="The problem in words"
            placeholder="The problem in words"
            rows={4}
            value={problem}
            onChange={(event) => setProblem(event.target.value)}
            data-testid="new-problem"
          />
        </Box>
        <Label>
          Frame
          <Choice
            label="Frame"
            value={frame}
            choose={setFrame}
            options={[
              { value: '', says: 'none' },
              ...frames.filter((each) => each.machine === chosen?.machine).map((each) => ({ value: each.id, says: each.name })),
            ]}
          />
        </Label>
        {bench && (
          <Check on={withBench} change={setWithBench} testId="new-bench">
            Students get what is on my bench for it: {wordsOf(bench)}
          </Check>
        )}
        {failure !== undefined && <Refusal role="alert">{failure}</Refusal>}
        <Box>
          <Button look="strong" onClick={() => void make()} disabled={program === '' || name.trim() === ''} data-testid="make-assignment">
            Make the assignment
          </Button>
        </Box>
        <Flex align="center" gap="8px" color="ink2">
          Or take in a course that was saved:
          <FileButton
            words="Choose its ZIP …"
            label="A course as a ZIP"
            accept=".zip"
            testId="take-course"
            take={(file) => void take(file)}
          />
        </Flex>
      </Flex>
    </Window>
  );
}

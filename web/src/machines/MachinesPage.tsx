/** One machine of the course, open to be defined; another can be chosen above. */
import { Flex } from '@chakra-ui/react';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { DocumentDetail, DocumentSummary } from '@zettak/api/documents';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { client } from '../documents/client';
import { addMachine } from '../documents/shelf/files';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Workshop } from './Workshop';

export function MachinesPage() {
  const { machine: id = '' } = useParams();
  const [machines, setMachines] = useState<readonly DocumentSummary[]>();
  const [document, setDocument] = useState<DocumentDetail>();
  const [failure, setFailure] = useState<string>();
  const navigate = useNavigate();

  const list = useCallback((): void => {
    client.list('machine').then(setMachines, (error: Error) => setFailure(error.message));
  }, []);
  const [turn, setTurn] = useState(0);
  useEffect(list, [list, id, turn]);
  useEffect(() => {
    let live = true;
    setDocument(undefined);
    setFailure(undefined);
    client.get('machine', id).then(
      (found) => live && setDocument(found),
      (error: Error) => live && setFailure(error.message),
    );
    return () => {
      live = false;
    };
  }, [id, turn]);

  /** A machine that is open stays as it is, with all that can be undone. */
  const again = (): void => {
    if (!document) return setTurn(turn + 1);
    setFailure(undefined);
    list();
  };

  /** Lists call a machine as its document does, so a name that is taken gets a number in the document too. */
  const duplicate = async (text: string): Promise<void> => {
    try {
      await navigate(`/machines/${(await addMachine(text, machines ?? [])).id}`);
    } catch (error) {
      setFailure((error as Error).message);
    }
  };

  return (
    <Shell
      title="Machines"
      controls={
        <Flex flex="1" gap="12px" align="center">
          <Choice
            look="bar"
            label="Machine"
            testId="machine-choice"
            value={id}
            choose={(chosen) => void navigate(`/machines/${chosen}`)}
            options={(machines ?? []).map((each) => ({ value: each.id, says: each.name }))}
          />
          <Button look="barLine" ms="auto" data-testid="new-machine" onClick={() => void navigate('/machines/new')}>
            New machine
          </Button>
        </Flex>
      }
    >
      <Failure failure={failure} again={again}>
        <Button onClick={() => void navigate('/machines')}>All machines</Button>
      </Failure>
      {document && <Workshop key={document.id} document={document} duplicate={duplicate} saved={list} />}
    </Shell>
  );
}

/** The machines of the course, one of them open as its document. */
import { Box, Flex } from '@chakra-ui/react';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { DocumentDetail, DocumentSummary } from '@zettak/api/documents';
import { starter } from '@zettak/core/machine/document/starter';
import { Shell } from '../app/Shell';
import { client } from '../documents/client';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Empty } from '../ui/Empty';
import { Notice } from '../ui/Panel';
import { Workshop } from './Workshop';
import { documentName, freeName, withDocumentName } from '@zettak/core/machine/document/name';

export function MachinesPage() {
  const { machine: wanted } = useParams();
  const [machines, setMachines] = useState<readonly DocumentSummary[]>();
  const [document, setDocument] = useState<DocumentDetail>();
  const [failure, setFailure] = useState<string>();
  const navigate = useNavigate();
  const id = wanted ?? machines?.[0]?.id;

  const list = useCallback((): void => {
    client.list('machine').then(setMachines, (error: Error) => setFailure(error.message));
  }, []);
  useEffect(list, [list, wanted]);
  useEffect(() => {
    setDocument(undefined);
    setFailure(undefined);
    if (id) client.get('machine', id).then(setDocument, (error: Error) => setFailure(error.message));
  }, [id]);

  /** Lists call a machine as its document does, so a name that is taken gets a number in the document too. */
  const create = async (text: string): Promise<void> => {
    try {
      const name = freeName(
        documentName(text) ?? 'New-machine',
        (machines ?? []).map((each) => each.name),
      );
      const created = await client.create('machine', { name, text: withDocumentName(text, name) });
      await navigate(`/machines/${created.id}`);
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
            value={id ?? ''}
            choose={(chosen) => void navigate(`/machines/${chosen}`)}
            options={(machines ?? []).map((each) => ({ value: each.id, says: each.name }))}
          />
          <Button look="barLine" ms="auto" data-testid="new-machine" onClick={() => void create(starter)}>
            New machine
          </Button>
        </Flex>
      }
    >
      {failure && (
        <Notice tone="problem" role="alert">
          {failure}
        </Notice>
      )}
      {document && <Workshop key={document.id} document={document} duplicate={create} saved={list} />}
      {machines?.length === 0 && (
        <Box p="20px">
          <Empty title="There is no machine yet.">
            Press “New machine” above: it begins with a small one that is complete and explained.
          </Empty>
        </Box>
      )}
    </Shell>
  );
}

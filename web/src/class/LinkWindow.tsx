/** The link by which students reach an assignment; it is told once, and kept nowhere but as its hash. */
import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Receipt } from '@zettak/api/work';
import { textOf } from '../app/textOf';
import { courseClient } from '../documents/courseClient';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { FileButton } from '../ui/FileButton';
import { Heading, Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { refresh } from './acts';
import { useClass } from './state';

const LOCAL = /^(localhost|127\.|\[::1\])/;

export function LinkWindow({ close }: { close: () => void }) {
  const assignment = useClass((state) => state.matrix!.assignment);
  const [link, setLink] = useState<string>();
  const [failure, setFailure] = useState<string>();
  const [copied, setCopied] = useState(false);
  const run = (act: () => Promise<void>) => () => void act().catch((error: unknown) => setFailure(textOf(error)));
  const make = async (): Promise<void> => {
    const { token } = await courseClient.link(assignment.id);
    setLink(`${location.origin}/w/${assignment.id}#${token}`);
    setCopied(false);
    await refresh();
  };
  const end = async (): Promise<void> => {
    await courseClient.unlink(assignment.id);
    setLink(undefined);
    await refresh();
  };
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(link ?? '');
    setCopied(true);
  };
  return (
    <Window title={`Hand-in link of ${assignment.name}`} open close={close} testId="link-window">
      <Box mb="10px">
        Whoever has the link sees the problem, the frame and the shown sets, writes the program on the bench, and hands it in. Hidden sets
        and your solution never leave the server.
      </Box>
      {link !== undefined ? (
        <>
          <Entry aria-label="The link" readOnly value={link} room="wide" onFocus={(event) => event.target.select()} data-testid="link" />
          <Flex gap="8px" mt="8px" align="center">
            {window.isSecureContext && (
              <Button look="strong" onClick={run(copy)}>
                {copied ? 'Copied' : 'Copy it'}
              </Button>
            )}
            <Hint>It is shown this once; a new one ends it.</Hint>
          </Flex>
          {LOCAL.test(location.host) && (
            <Hint as="p" mt="8px">
              This server listens on this computer only. For a class start it with ZETTAK_HOST=0.0.0.0, and make the link at the address
              that students use.
            </Hint>
          )}
        </>
      ) : (
        <Flex gap="8px" align="center" wrap="wrap">
          <Button look="strong" onClick={run(make)} data-testid="make-link">
            {assignment.linked ? 'Make a new link, and end the present one' : 'Make the link'}
          </Button>
          {assignment.linked && <Button onClick={run(end)}>End the present one</Button>}
        </Flex>
      )}
      {failure !== undefined && <Refusal role="alert">{failure}</Refusal>}
      <ReceiptCheck />
    </Window>
  );
}

function ReceiptCheck() {
  const [said, setSaid] = useState<string>();
  const check = async (file: File): Promise<void> => {
    try {
      const receipt = JSON.parse(await file.text()) as Receipt;
      const { ours } = await courseClient.isOurs(receipt);
      setSaid(
        ours
          ? `It is signed by this server: ${receipt.label}, no. ${receipt.number}, arrived ${new Date(receipt.arrivedAt).toLocaleString()}${receipt.late ? ', late' : ''}.`
          : 'It is not as this server signed it.',
      );
    } catch {
      setSaid('This is no receipt.');
    }
  };
  return (
    <Box mt="14px">
      <Heading>A student shows a receipt?</Heading>
      <FileButton words="Check a receipt …" label="A receipt" accept=".json" take={(file) => void check(file)} testId="check-receipt" />
      {said !== undefined && (
        <Box as="p" mt="6px" role="status" data-testid="receipt-said">
          {said}
        </Box>
      )}
    </Box>
  );
}

/** Asks for the teacher's passphrase, where the server has one. */
import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { textOf } from '../app/textOf';
import { Shell } from '../app/Shell';
import { sessionClient } from '../documents/workClient';
import { Button } from '../ui/Button';
import { Entry, Label } from '../ui/Field';
import { Refusal } from '../ui/Panel';

export function SignIn() {
  const [passphrase, setPassphrase] = useState('');
  const [failure, setFailure] = useState<string>();
  const enter = (event: React.FormEvent): void => {
    event.preventDefault();
    sessionClient
      .open(passphrase)
      .then(() => location.reload())
      .catch((error: unknown) => setFailure(textOf(error)));
  };
  return (
    <Shell title="The teacher’s passphrase">
      <Flex as="form" direction="column" gap="12px" maxWidth="420px" mx="auto" mt="12vh" p="20px" onSubmit={enter} data-testid="sign-in">
        <Box fontSize="17px" fontWeight="700">
          Zettak is open to this network.
        </Box>
        <Box>Students reach their tasks by their links. Everything else asks for the teacher’s passphrase.</Box>
        <Label>
          Passphrase
          <Entry
            type="password"
            autoComplete="current-password"
            value={passphrase}
            onChange={(event) => setPassphrase(event.target.value)}
            data-testid="passphrase"
          />
        </Label>
        {failure !== undefined && <Refusal role="alert">{failure}</Refusal>}
        <Box>
          <Button look="strong" type="submit" disabled={passphrase === ''} data-testid="enter">
            Enter
          </Button>
        </Box>
      </Flex>
    </Shell>
  );
}

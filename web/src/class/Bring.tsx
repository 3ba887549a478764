/** Hand-ins brought in as files: chosen or dropped, with a table of the labels that their names do not make clear. */
import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { FileButton } from '../ui/FileButton';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { bringFiles, dropBrought, sendBrought } from './acts';
import type { Brought } from './files';
import { useClass } from './state';

export const BringButton = () => (
  <FileButton
    words="Bring in files …"
    label="Hand-ins: programs, bundles or a ZIP of them"
    accept=".zip,.asm,.s,.txt,.json"
    testId="bring-files"
    look="barLine"
    several
    take={(files) => void bringFiles(files.map((file) => ({ path: file.webkitRelativePath || file.name, file })))}
  />
);

export function BringWindow() {
  const brought = useClass((state) => state.brought);
  return brought ? <Labels key={brought.files.length} brought={brought} /> : null;
}

/** Refused files that are told one by one. */
const MOST_TOLD = 12;

function Labels({ brought: { files, refused } }: { brought: Brought }) {
  const [labels, setLabels] = useState(() => files.map((each) => each.label));
  const [sending, setSending] = useState(false);
  const unclear = files.flatMap((each, at) => (each.clear ? [] : [at]));
  const empty = labels.some((each) => each.trim() === '');
  const shown = unclear.length > 0 ? unclear : [];
  const twice = new Set(labels.filter((each, at) => labels.indexOf(each) !== at));
  const send = async (): Promise<void> => {
    setSending(true);
    await sendBrought(labels.map((each) => each.trim()));
    setSending(false);
  };
  return (
    <Window title="Hand-ins from files" open close={dropBrought} closes="Bring in nothing" testId="bring" wide>
      <Box mb="8px" data-testid="bring-summary">
        {files.length === 0
          ? 'There is no hand-in among these files.'
          : files.length === 1
            ? 'One hand-in was found.'
            : `${files.length} hand-ins were found.`}{' '}
        {files.length > unclear.length &&
          `The labels of ${files.length - unclear.length} are clear: ${files
            .filter((each) => each.clear)
            .slice(0, 4)
            .map((each) => each.label)
            .join(', ')}${files.length - unclear.length > 4 ? ', …' : '.'}`}
      </Box>
      {shown.length > 0 && (
        <>
          <Box mb="4px">{shown.length === 1 ? 'One name does' : `${shown.length} names do`} not say whose it is. Type the labels:</Box>
          <Box maxHeight="300px" overflow="auto" borderBlock="1px solid" borderColor="line">
            <Box as="table" width="100%" fontSize="13px" data-testid="labels">
              <tbody>
                {shown.map((at) => (
                  <tr key={at}>
                    <Box as="td" py="2px" pr="10px">
                      <Entry
                        aria-label={`Label of ${files[at]!.file}`}
                        value={labels[at]!}
                        maxLength={60}
                        onChange={(event) => setLabels(labels.with(at, event.target.value))}
                      />
                    </Box>
                    <Box as="td" py="2px" color="ink2" wordBreak="break-all">
                      {files[at]!.file}
                      {twice.has(labels[at]!) && <Hint> (a second one of this label: the later counts as the newer)</Hint>}
                    </Box>
                  </tr>
                ))}
              </tbody>
            </Box>
          </Box>
        </>
      )}
      {refused.slice(0, MOST_TOLD).map((each) => (
        <Refusal key={each}>{each}</Refusal>
      ))}
      {refused.length > MOST_TOLD && <Refusal>{refused.length - MOST_TOLD} more files were passed over.</Refusal>}
      {files.length > 0 && (
        <Box mt="10px">
          <Button look="strong" onClick={() => void send()} disabled={empty || sending} data-testid="bring-send">
            {sending ? 'Taking them …' : files.length === 1 ? 'Take it and check it' : `Take all ${files.length} and check them`}
          </Button>
        </Box>
      )}
    </Window>
  );
}

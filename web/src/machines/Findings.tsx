/** Beside a machine that is being defined: its opcode map and what is wrong with it, whichever face is open. */
import { Box, Flex } from '@chakra-ui/react';
import { memo } from 'react';
import { ProblemList } from '../editor/ProblemList';
import { Button } from '../ui/Button';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { useDefined, useDefinedSame, useDefining } from './defining';
import { OpcodeMap } from './OpcodeMap';

export const Findings = memo(function Findings() {
  const defining = useDefining();
  const look = useDefined((state) => state.look);
  const sound = useDefined((state) => state.sound);
  const machine = sound?.machine ?? sound?.clashing;
  const problems = look?.problems ?? [];
  const errors = problems.filter((each) => each.grade === 'error').length;
  return (
    <Fresh>
      <Box flex="1" minHeight="0" overflow="auto">
        {machine && <OpcodeMap machine={machine} old={sound !== look} />}
      </Box>
      {look && (
        <Flex direction="column" maxHeight="46%" flexShrink="0">
          <PanelHead borderTop="1px solid" borderColor="line">
            <PanelTitle>Problems</PanelTitle>
            <Hint ms="auto" role="status" data-testid="problem-count">
              {problems.length === 0 ? 'none' : `${errors} ${errors === 1 ? 'error' : 'errors'}, ${problems.length - errors} other`}
            </Hint>
          </PanelHead>
          <Box px="10px" py="4px" overflow="auto" flex="1" minHeight="0" tabIndex={problems.length > 0 ? 0 : undefined}>
            <ProblemList
              problems={problems}
              editor={defining.editor}
              goTo={(at) => problems[at] && defining.goTo(problems[at])}
              testId="machine-problems"
            />
          </Box>
          <BrokenExamples />
          {errors > 0 && (
            <Hint as="p" px="12px" py="8px">
              The bench keeps the last version without errors. This draft is kept too, errors and all.
            </Hint>
          )}
        </Flex>
      )}
    </Fresh>
  );
});

/** Says whether what stands in it is of the newest text, without drawing it anew. */
function Fresh({ children }: { children: React.ReactNode }) {
  const busy = useDefined((state) => state.typing || state.look?.text !== state.text);
  return (
    <Panel label="Opcode map and problems" as="aside" data-testid="findings" aria-busy={busy}>
      {children}
    </Panel>
  );
}

/** Examples that no longer hold, wherever they are pinned. */
function BrokenExamples() {
  const defining = useDefining();
  const pinned = useDefinedSame((state) => state.sound?.pinned ?? []);
  const broken = pinned.filter((each) => !each.holds);
  if (pinned.length === 0) return null;
  return (
    <Box px="12px" py="6px" fontSize="13px" borderTop="1px solid" borderColor="line" data-testid="broken-examples">
      <Hint>{`${pinned.length} pinned ${pinned.length === 1 ? 'example' : 'examples'}, ${broken.length === 0 ? 'all hold' : `${broken.length} no longer ${broken.length === 1 ? 'holds' : 'hold'}`}`}</Hint>
      {broken.slice(0, 8).map((each) => (
        <Button
          key={`${each.mnemonic} ${each.form} ${each.at}`}
          look="row"
          onClick={() => defining.choose(['instructions', each.mnemonic], each.form)}
        >
          <span>
            <b>{each.mnemonic}</b> {each.says}
          </span>
        </Button>
      ))}
    </Box>
  );
}

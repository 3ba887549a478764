/** Under the program: facts of a text that assembles, problems of one that does not, and what was said last. */
import { Box, Text } from '@chakra-ui/react';
import type { Facts } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { Problem } from '@zettak/core/text/diagnostic';
import { addressText } from '@zettak/core/engine/tell/names';
import { SaveMark } from '../documents/SaveMark';
import { useEditor } from '../editor/handle';
import { ProblemList } from '../editor/ProblemList';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { useDocument } from './document';
import { runFinishedPart } from './loading';
import { useText } from './text';
import { itemAt } from '@zettak/core/text/itemAt';

/** A text without an operation is greeted, not blamed. */
export function Outcome() {
  const { problems, facts } = useText((state) => state.listing);
  const message = useText((state) => state.message);
  const note = useText((state) => state.note);
  const offersPart = useText((state) => state.offersPart);
  const saveState = useDocument((state) => state.saveState);
  const machine = useDocument((state) => state.machine);
  const editor = useEditor();
  const nothingYet = isNothingYet(problems);
  return (
    <Box
      flexShrink="0"
      maxHeight="34%"
      overflow="auto"
      px="12px"
      py="6px"
      borderTop="1px solid"
      borderColor="line"
      fontSize="13px"
      color="ink2"
      data-testid="outcome"
    >
      <Box float="right" marginInlineStart="10px">
        <SaveMark state={saveState} />
      </Box>
      {message && (
        <Text role="alert" color="problem" fontWeight="650" mb="4px">
          {message}
        </Text>
      )}
      {note && (
        <Text role="status" fontWeight="650" mb="4px">
          {note}
        </Text>
      )}
      {offersPart && (
        <Button onClick={() => void runFinishedPart()} data-testid="load-part">
          Run the finished part, up to the first error
        </Button>
      )}
      {facts && machine && <p data-testid="facts">{factsText(machine, facts)}</p>}
      {nothingYet ? (
        <Hint as="p">Nothing is written yet. Write an operation, or press Ctrl and space for what may stand here.</Hint>
      ) : (
        problems.length > 0 && <ProblemList problems={problems} editor={editor} testId="problems" />
      )}
    </Box>
  );
}

/** A text without an operation is no mistake. */
export const isNothingYet = (problems: readonly Problem[]): boolean =>
  problems.length === 1 && itemAt(problems, 0).code === 'nothing-to-run';

function factsText(machine: Machine, facts: Facts): string {
  const cell = (address: number): string => addressText(machine, address);
  const unused = facts.unusedNames.length > 0 ? `; never used: ${facts.unusedNames.slice(0, 4).join(', ')}.` : '.';
  return [
    `Starts at ${cell(facts.start)}, last cell ${cell(facts.last)}.`,
    `${facts.used} cells used, ${facts.free} free, ${facts.names} names${unused}`,
    facts.services.length > 0 && `Services: ${facts.services.join(', ')}.`,
    facts.outside.length > 0 && `Goes outside to ${facts.outside.map(cell).join(', ')}.`,
    facts.warnings > 0 && `${facts.warnings} ${facts.warnings === 1 ? 'warning' : 'warnings'}.`,
    facts.base !== 10 && `Unmarked numbers are read in base ${facts.base}.`,
  ]
    .filter((each) => each !== false)
    .join(' ');
}

/** A value typed over where it stands: how it is read is said before it is taken. */
import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, numberReader } from '@zettak/core/machine/model/numbers';
import { BASE_WORDS, shownDigits } from '@zettak/core/text/number';
import { engine } from '../../session/engine';

interface EntryProps {
  readonly machine: Machine;
  /** As the notation calls it. */
  readonly place: string;
  readonly width: number;
  readonly value: number;
  /** It was taken, or given up. */
  readonly done: () => void;
}

export function ValueEntry({ machine, place, width, value, done }: EntryProps) {
  const [text, setText] = useState(() => shownDigits(value, width, machine));
  const [refused, setRefused] = useState<string>();
  const { base } = machine;
  const read = numberReader(machine, base)(text.trim());
  const reading = read === undefined ? undefined : entryReading(machine, width, { text, value: read, base });
  const give = async (): Promise<void> => {
    const answer = await engine.hand.setPlace(place, text, base);
    if (answer) setRefused(answer.refused);
    else done();
  };
  return (
    <Box as="span" position="relative" data-testid={`entry-${place}`}>
      <Box
        asChild
        width={`${Math.max(4, text.length + 1)}ch`}
        font="inherit"
        border="1px solid"
        borderColor="address"
        borderRadius="3px"
        bg="paper"
      >
        <input
          value={text}
          maxLength={60}
          autoFocus
          spellCheck={false}
          aria-label={`Value of ${place}`}
          aria-invalid={refused !== undefined}
          onFocus={(event) => event.target.select()}
          onChange={(event) => {
            setText(event.target.value);
            setRefused(undefined);
          }}
          onBlur={done}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') void give();
            if (event.key === 'Escape') done();
          }}
        />
      </Box>
      <Box
        as="span"
        role="status"
        position="absolute"
        insetInlineStart="0"
        top="100%"
        zIndex="popover"
        px="6px"
        bg="ink"
        color="paper"
        borderRadius="4px"
        fontFamily="body"
        fontSize="13px"
        whiteSpace="normal"
        width="max-content"
        maxWidth="220px"
      >
        {refused ?? (reading ? `is ${reading.reads}${reading.remark ? `. ${reading.remark}` : ''}` : `read as ${BASE_WORDS[base]}`)}
      </Box>
    </Box>
  );
}

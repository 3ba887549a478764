/** Two programs beside each other. */
import { Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { DocumentSummary } from '@zettak/api/documents';
import { client } from '../documents/client';
import { SideBySide } from '../editor/SideBySide';
import { Choice } from '../ui/Choice';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';

interface CompareProps {
  readonly one: DocumentSummary;
  readonly other: DocumentSummary | undefined;
  readonly programs: readonly DocumentSummary[];
  readonly close: () => void;
}

export function Compare({ one, other, programs, close }: CompareProps) {
  const others = programs.filter((each) => each.id !== one.id);
  const [chosen, setChosen] = useState(other?.id ?? others[0]?.id ?? '');
  const [said, setSaid] = useState('');
  const [texts, setTexts] = useState<readonly [left: string, right: string]>();
  useEffect(() => {
    let live = true;
    setSaid('');
    if (chosen !== '')
      Promise.all([client.get('program', chosen), client.get('program', one.id)]).then(
        ([left, right]) => live && setTexts([left.draft, right.draft]),
        (error: Error) => live && setSaid(error.message),
      );
    return () => {
      live = false;
    };
  }, [chosen, one.id]);
  const name = others.find((each) => each.id === chosen)?.name ?? '';
  return (
    <Window title="Two programs beside each other" open close={close} testId="compare" wide>
      <Flex gap="10px" align="center" pb="8px">
        <Choice
          label="Left"
          value={chosen}
          choose={setChosen}
          options={others.map((each) => ({ value: each.id, says: each.name }))}
          testId="compare-with"
        />
        <Hint>left, and right:</Hint>
        <b>{one.name}</b>
        {texts && texts[0] === texts[1] && <Hint role="status">They say the same.</Hint>}
      </Flex>
      {said && <Refusal role="alert">{said}</Refusal>}
      {others.length === 0 && <p>There is no other program.</p>}
      {texts && <SideBySide left={{ name, text: texts[0] }} right={{ name: one.name, text: texts[1] }} />}
    </Window>
  );
}

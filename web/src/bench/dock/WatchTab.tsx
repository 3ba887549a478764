/** Values that are watched: how each reads now, and how it read before the last command. */
import { Box, Table } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { Button } from '../../ui/Button';
import { Entry } from '../../ui/Field';
import { Controls, Hint, Refusal } from '../../ui/Panel';
import { usePlaceExamples } from '../placeExamples';
import { setWatches, useRun } from '../run';

export function WatchTab() {
  const watched = useRun((state) => state.watched);
  const shown = useRun((state) => state.view?.watches);
  return (
    <Box data-testid="watches" maxWidth="900px" columns="auto">
      {watched.length === 0 && (
        <Hint as="p">
          Nothing is watched yet. A register, a flag, a name of the program, a cell, or anything computed from them can be.
        </Hint>
      )}
      {watched.length > 0 && (
        <Table.Root css={{ '& tr': { borderBottom: '1px solid', borderColor: 'line' } }}>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader>watched</Table.ColumnHeader>
              <Table.ColumnHeader>now</Table.ColumnHeader>
              <Table.ColumnHeader>before the last command</Table.ColumnHeader>
              <Table.ColumnHeader />
            </Table.Row>
          </Table.Header>
          <Table.Body css={{ '& td': { fontFamily: 'mono', fontSize: '15px' } }}>
            {watched.map((text, at) => {
              const found = shown?.[at]?.text === text ? shown[at] : undefined;
              const changed = found !== undefined && found.now !== found.before;
              return (
                <Table.Row key={`${at} ${text}`} data-watch={text}>
                  <Table.Cell>{text}</Table.Cell>
                  <Table.Cell color={changed ? 'data' : undefined} fontWeight={changed ? '700' : undefined}>
                    {found?.refused ? <Refusal as="span">{found.refused}</Refusal> : (found?.now ?? '')}
                  </Table.Cell>
                  <Table.Cell color="ink2">{changed ? found.before : found && !found.refused ? 'the same' : ''}</Table.Cell>
                  <Table.Cell textAlign="right">
                    <Button onClick={() => setWatches(watched.toSpliced(at, 1))} aria-label={`Watch ${text} no more`}>
                      ×
                    </Button>
                  </Table.Cell>
                </Table.Row>
              );
            })}
          </Table.Body>
        </Table.Root>
      )}
      <AddWatch />
    </Box>
  );
}

function AddWatch() {
  const { places, condition } = usePlaceExamples();
  const [text, setText] = useState('');
  const add = (event: FormEvent): void => {
    event.preventDefault();
    const wanted = text.trim();
    const { watched } = useRun.getState();
    if (wanted !== '' && !watched.includes(wanted)) setWatches([...watched, wanted]);
    setText('');
  };
  return (
    <Controls as="form" onSubmit={add}>
      <Entry
        fontFamily="mono"
        value={text}
        maxLength={200}
        placeholder={`${places}, ${condition}`}
        width="260px"
        aria-label="What is to be watched"
        onChange={(event) => setText(event.target.value)}
        data-testid="watch-text"
      />
      <Button type="submit" disabled={text.trim() === ''} data-testid="watch-add">
        Watch
      </Button>
    </Controls>
  );
}

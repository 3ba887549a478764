/** Mistakes in groups, largest first; and programs that are one program. */
import { Box } from '@chakra-ui/react';
import { PlainButton } from '../ui/Button';
import { Button } from '../ui/Button';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { choose } from './acts';
import { membersOf, useClass } from './state';

export function Groups() {
  const matrix = useClass((state) => state.matrix);
  const group = useClass((state) => state.group);
  if (!matrix) return null;
  const labels = new Map(matrix.rows.map((each) => [each.id, each.label]));
  const pick = (key: string): void => {
    const next = group === key ? undefined : key;
    useClass.setState({ group: next });
    if (next !== undefined) choose(membersOf(matrix, next)[0]);
  };
  const named = (members: readonly number[]): string => members.map((each) => labels.get(each) ?? '').join(', ');
  return (
    <Box as="section" aria-label="Mistakes, grouped" data-testid="groups">
      <PanelHead>
        <PanelTitle>Mistakes, grouped</PanelTitle>
        {group !== undefined && (
          <Button look="link" onClick={() => useClass.setState({ group: undefined })} data-testid="all-groups">
            Show all
          </Button>
        )}
      </PanelHead>
      <div className="mistakes">
        {matrix.groups.map((each) => (
          <Row key={each.key} id={each.key} count={each.members.length} on={group === each.key} pick={pick} title={named(each.members)}>
            {each.sentence}
          </Row>
        ))}
        {matrix.alike.map((each, at) => (
          <Row key={`alike ${at}`} id={`alike ${at}`} count={each.members.length} on={group === `alike ${at}`} pick={pick}>
            {each.kind === 'same' ? 'one and the same text: ' : 'alike after renaming: '}
            {named(each.members)}
          </Row>
        ))}
      </div>
      {matrix.groups.length === 0 && (
        <Hint as="p" px="12px" py="8px">
          {matrix.rows.length === 0 ? 'Nothing has come in yet.' : 'None so far.'}
        </Hint>
      )}
    </Box>
  );
}

interface RowProps {
  readonly id: string;
  readonly count: number;
  readonly on: boolean;
  readonly pick: (key: string) => void;
  readonly title?: string;
  readonly children: React.ReactNode;
}

const Row = ({ id, count, on, pick, title, children }: RowProps) => (
  <PlainButton aria-pressed={on} onClick={() => pick(id)} data-group={id} title={title}>
    <b>{count}</b>
    <span>{children}</span>
  </PlainButton>
);

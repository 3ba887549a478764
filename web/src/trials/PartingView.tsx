/** Two runs side by side from the instruction on where they part. */
import { Box } from '@chakra-ui/react';
import { useNavigate } from 'react-router';
import type { SideAt } from '@zettak/core/trials/reach/parting';
import { Button } from '../ui/Button';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { ontoBench } from './opening';
import { useTrials, type Parted } from './state';

export function Parting({ parted: { found, left, right } }: { parted: Parted }) {
  return (
    <Box data-testid="parting">
      <PanelHead>
        <PanelTitle>Where the runs part</PanelTitle>
        <Hint role="status">
          “{left.says}” beside {right.source === undefined ? `“${right.says}”` : right.says}: {found.sentence}
        </Hint>
      </PanelHead>
      <div className="sides" style={{ padding: '6px 12px' }}>
        <SideView says={left.says} set={left.set} side={found.left} other={found.right} at={found.same + 1} parts={found.parts} />
        <SideView
          says={right.says}
          set={right.set}
          other={found.left}
          side={found.right}
          at={found.same + 1}
          parts={found.parts}
          {...(right.source !== undefined && { of: { source: right.source, program: right.program } })}
        />
      </div>
    </Box>
  );
}

interface SideProps {
  readonly says: string;
  readonly set: string;
  /** Of another text: its program, undefined of an earlier version of this one. */
  readonly of?: { readonly source: string; readonly program: string | undefined };
  readonly side: SideAt;
  readonly other: SideAt;
  readonly at: number;
  readonly parts: boolean;
}

function SideView({ says, set, of, side, other, at, parts }: SideProps) {
  const navigate = useNavigate();
  const onto = async (): Promise<void> => {
    const other = of && { source: of.source, program: of.program ?? useTrials.getState().program?.id ?? '' };
    const path = await ontoBench(set, side.tick, other);
    if (path !== undefined) await navigate(path);
  };
  const differing = side.before.filter((each) => other.before.find((one) => one.name === each.name)?.value !== each.value);
  return (
    <div data-side={says}>
      <b>{says}</b> <Hint>instruction {at.toLocaleString('en-US')}</Hint>{' '}
      <Button look="link" onClick={() => void onto()}>
        to the bench here
      </Button>
      <table>
        <tbody>
          <tr className={parts ? 'parts' : ''}>
            <td>{side.address}</td>
            <td>{side.text}</td>
            <td>{side.did}</td>
          </tr>
          {side.after.map((each, index) => (
            <tr key={index}>
              <td>{each.address}</td>
              <td>{each.text}</td>
              <td>{each.did}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Hint as="p" mt="4px">
        before it:{' '}
        {differing.length === 0
          ? 'all registers and flags as on the other side'
          : differing.map(({ name, value }) => `${name} ${value}`).join(', ')}
      </Hint>
    </div>
  );
}

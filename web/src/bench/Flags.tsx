/** The flags, and why one of them is as it is, as worked columns. */
import { Box, chakra, Table } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { View } from '@zettak/core/session/protocol';
import { Button } from '../ui/Button';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { askAbout } from './looks';
import { boxOf } from './PlaceMenu';
import { selectFlag } from './run';

interface FlagsProps {
  readonly machine: Machine;
  readonly view: View;
  /** The tick just done, whose marks are shown. */
  readonly last: TickReport | undefined;
}

const FlagRow = chakra('div', {
  base: {
    display: 'flex',
    gap: '8px',
    px: '12px',
    pt: '7px',
    pb: '5px',
    '& button': {
      flex: '1',
      maxWidth: '62px',
      display: 'block',
      border: '1.5px solid',
      borderColor: 'edge',
      borderRadius: '7px',
      pt: '2px',
      pb: '4px',
      textAlign: 'center',
      fontSize: '14px',
      lineHeight: '18px',
      fontWeight: '600',
      textDecoration: 'none',
    },
    '& b': { display: 'block', fontFamily: 'mono', fontSize: '20px', lineHeight: '24px' },
    '& .set': { bg: 'ink', color: 'paper', borderColor: 'ink' },
    '& .changed': { boxShadow: 'inset 0 -5px 0 var(--z-colors-data)' },
    '& [aria-pressed=true]': { outline: '2px solid', outlineColor: 'address', outlineOffset: '2px' },
  },
});

/** Nothing where the machine has no flags. */
export function Flags({ machine, view, last }: FlagsProps) {
  const { why } = view;
  if (machine.flags.length === 0) return null;
  return (
    <Box flexShrink="0">
      <PanelHead>
        <PanelTitle>Flags</PanelTitle>
        <Hint ms="auto">click one: why?</Hint>
      </PanelHead>
      <FlagRow data-testid="flags">
        {machine.flags.map(({ name, title }, flag) => {
          const value = view.flags[flag]!;
          const change = last?.flags.find((each) => each.flag === flag);
          const changed = change !== undefined && change.before !== change.after;
          return (
            <Button
              key={name}
              look="bare"
              data-bench
              className={[value === 1 ? 'set' : '', changed ? 'changed' : ''].join(' ').trim()}
              aria-pressed={why?.flag === flag}
              aria-label={`${title}: ${value}${changed ? ', just changed' : ''}`}
              title={`${title}. Why is it ${value}?`}
              onClick={() => selectFlag(flag)}
              data-flag={name}
            >
              <b>{value}</b>
              {name}
            </Button>
          );
        })}
      </FlagRow>
      {why && (
        <Why reason={why.reason}>
          <Button
            data-bench
            onClick={(event) => {
              const { name } = machine.flags[why.flag]!;
              askAbout({ place: name, name, cell: false, at: boxOf(event.currentTarget) });
            }}
            data-testid="flag-menu"
          >
            Set or stop at {machine.flags[why.flag]!.name}
          </Button>
        </Why>
      )}
    </Box>
  );
}

const worked = {
  width: 'auto',
  fontFamily: 'mono',
  fontSize: '14px',
  mb: '3px',
  '& td': { px: '0', py: '0', paddingInlineEnd: '7px', textAlign: 'right', whiteSpace: 'pre', lineHeight: '19px' },
  '& .carry td': { color: 'ink3', fontSize: '13px' },
  '& .carry .binary': { fontSize: '14px' },
  '& .result td': { borderTop: '1.5px solid', borderColor: 'ink', fontWeight: '700' },
};
/** Columns of more digits than this stand closer. */
const CLOSE = 12;
/** And above these the binary ones are left out. */
const MOST_BINARY = 24;

function Why({ reason, children }: { reason: NonNullable<View['why']>['reason']; children: ReactNode }) {
  const digits = Math.max(0, ...reason.columns.map((each) => each.binary.length));
  const close = digits > CLOSE;
  return (
    <Box
      mx="12px"
      mt="3px"
      mb="8px"
      px="10px"
      py="6px"
      border="1px solid"
      borderColor="line"
      borderRadius="7px"
      fontSize="14px"
      data-testid="why"
    >
      {reason.columns.length > 0 && (
        <Table.Root css={worked} {...(close && { fontSize: '12.5px' })}>
          <Table.Body>
            {reason.columns.map((each, at) => (
              <Table.Row key={at} className={each.role}>
                <Table.Cell>{each.sign}</Table.Cell>
                {digits <= MOST_BINARY && <Table.Cell className="binary">{each.binary}</Table.Cell>}
                <Table.Cell>{each.hex}</Table.Cell>
                {(!close || digits > MOST_BINARY) && <Table.Cell>{each.decimal}</Table.Cell>}
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <p>
        {reason.sentence} {children}
      </p>
    </Box>
  );
}

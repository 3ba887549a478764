/** The flags, and why one of them is as it is, as worked columns. */
import { Box, chakra, Table } from '@chakra-ui/react';
import { memo, useEffect, useRef, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { View } from '@zettak/core/session/protocol';
import { Button, PlainButton } from '../../ui/Button';
import { withNextPaint } from '../../ui/follow';
import { Hint, PanelHead, PanelTitle } from '../../ui/Panel';
import { askAbout } from '../looks';
import { PanelNotes } from '../PinnedNotes';
import { boxOf } from '../PlaceMenu';
import { selectFlag, useLast, useRun, useTold, useValued } from '../run';
import { itemAt } from '@zettak/core/text/itemAt';
import { useHeading } from '../document';

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
    '& .unseen': { position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)', whiteSpace: 'nowrap' },
    '& b': { display: 'block', fontFamily: 'mono', fontSize: '20px', lineHeight: '24px' },
    '& .set': { bg: 'ink', color: 'paper', borderColor: 'ink' },
    '& .changed': { boxShadow: 'inset 0 -5px 0 var(--z-colors-data)' },
    '& [aria-pressed=true]': { outline: '2px solid', outlineColor: 'address', outlineOffset: '2px' },
  },
});

/** Nothing where the machine has no flags. Its frame stays as it is from view to view. */
export function Flags({ machine }: { machine: Machine }) {
  const heading = useHeading('flags', 'Flags');
  const [asked, setAsked] = useState(0);
  if (machine.flags.length === 0) return null;
  return (
    <Box flexShrink="0" containerType="inline-size">
      <PanelHead>
        <PanelTitle>{heading}</PanelTitle>
        <Hint ms="auto">click one: why?</Hint>
      </PanelHead>
      <PanelNotes panel="flags" />
      <FlagRow data-testid="flags" onClick={() => setAsked(asked + 1)}>
        <FlagButtons machine={machine} />
      </FlagRow>
      <WhyShown {...{ machine, asked }} />
    </Box>
  );
}

function FlagButtons({ machine }: { machine: Machine }) {
  const { flags } = useValued();
  const asked = useRun((state) => state.told?.why?.flag);
  const last = useLast();
  return machine.flags.map(({ name, title }, flag) => {
    const change = last?.flags.find((each) => each.flag === flag);
    const changed = change !== undefined && change.before !== change.after;
    return <FlagButton key={name} {...{ name, title, flag, changed }} value={itemAt(flags, flag)} asked={asked === flag} />;
  });
}

interface FlagButtonProps {
  readonly name: string;
  readonly title: string;
  readonly flag: number;
  readonly value: number;
  readonly changed: boolean;
  /** It is explained below. */
  readonly asked: boolean;
}

const FlagButton = memo(function FlagButton({ name, title, flag, value, changed, asked }: FlagButtonProps) {
  return (
    <PlainButton
      data-bench
      className={[value === 1 ? 'set' : '', changed ? 'changed' : ''].join(' ').trim()}
      aria-pressed={asked}
      title={`${title}. Why is it ${value}?`}
      onClick={() => selectFlag(flag)}
      data-flag={name}
    >
      <b>{value}</b>
      {name}
      <span className="unseen">{`, ${title}${changed ? ', just changed' : ''}`}</span>
    </PlainButton>
  );
});

/** `asked`: how often somebody has; the answer comes into sight then. */
function WhyShown({ machine, asked }: { machine: Machine; asked: number }) {
  const { why } = useTold();
  const place = useRef<HTMLDivElement>(null);
  const flag = why?.flag;
  useEffect(() => {
    if (asked > 0 && flag !== undefined) withNextPaint(() => place.current?.scrollIntoView({ block: 'nearest' }));
  }, [asked, flag]);
  return <div ref={place}>{why && <Why reason={why.reason} name={itemAt(machine.flags, why.flag).name} />}</div>;
}

const worked = {
  width: 'auto',
  fontFamily: 'mono',
  fontSize: '14px',
  mb: '3px',
  '& td': { px: '0', py: '0', paddingInlineEnd: '7px', textAlign: 'right', whiteSpace: 'pre', lineHeight: '19px' },
  '& .carry td': { color: 'ink3', fontSize: '13px' },
  '& .carry .binary': { fontSize: '14px' },
  // Where there is little room the decimal readings give way: the sentence below has what counts.
  '@container (max-width: 264px)': {
    fontSize: '13px',
    '& td': { paddingInlineEnd: '5px' },
    '& td:nth-of-type(4)': { display: 'none' },
  },
  '& .result td': { borderTop: '1.5px solid', borderColor: 'ink', fontWeight: '700' },
};
/** Columns of more digits than this stand closer. */
const CLOSE = 12;
/** And above these the binary ones are left out. */
const MOST_BINARY = 24;

interface WhyProps {
  readonly reason: NonNullable<View['why']>['reason'];
  readonly name: string;
}

/** Views bring every reason anew; one that says the same is left alone. */
const sameReason = (one: WhyProps, other: WhyProps): boolean =>
  one.name === other.name && JSON.stringify(one.reason) === JSON.stringify(other.reason);

const Why = memo(function Why({ reason, name }: WhyProps) {
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
              <tr key={at} className={each.role}>
                <td>{each.sign}</td>
                {digits <= MOST_BINARY && <td className="binary">{each.binary}</td>}
                <td>{each.shown}</td>
                {(!close || digits > MOST_BINARY) && <td>{each.decimal}</td>}
              </tr>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <p>
        {reason.sentence}{' '}
        <Button
          data-bench
          onClick={(event) => askAbout({ place: name, name, cell: false, at: boxOf(event.currentTarget) })}
          data-testid="flag-menu"
        >
          Set or stop at {name}
        </Button>
      </p>
    </Box>
  );
}, sameReason);

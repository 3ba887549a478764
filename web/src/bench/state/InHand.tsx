/** The instruction in hand: the fields of what lies in the instruction register, each with its digits, its name and what it says. */
import type { RefObject } from 'react';
import { chakra } from '@chakra-ui/react';
import type { HandField, InHand as InHandOf } from '@zettak/core/session/inHand';
import { unitOf } from '@zettak/core/text/number';
import { useDocument } from '../document';
import { useKeptHeight } from '../../ui/keptHeight';
import { useRun } from '../run';

const Ruler = chakra('dl', {
  base: {
    display: 'flex',
    gap: '2px',
    px: '12px',
    py: '4px',
    borderBottom: '1px solid',
    borderColor: 'line',
    '& div': { minWidth: 'min-content', flex: 'var(--width) 1 0', textAlign: 'center' },
    '& dt': {
      position: 'relative',
      fontFamily: 'mono',
      fontSize: '15px',
      fontWeight: '700',
      lineHeight: '22px',
      borderBottom: '3px solid',
      px: '4px',
      whiteSpace: 'nowrap',
    },
    '& dt small': { display: 'block', fontWeight: '400', fontSize: '13px', lineHeight: '15px' },
    '& dd': { fontSize: '13px', lineHeight: '16px' },
    '& .code dt': { bg: 'sand2', borderColor: 'wire' },
    '& .operand dt': { bg: 'addressPale', borderColor: 'address' },
    '& .unused dt': { bg: 'sea', borderColor: 'edge' },
    '& .gap dt': { borderStyle: 'dashed', borderColor: 'edge', color: 'ink3' },
  },
});

const NONE: InHandOf = { text: '', fields: [] };

/** Bits of more digits than this stand on two lines, or not at all. */
const MOST_BITS = 18;

/** Its room stays as it is from view to view: fields of one line each, and more from where that was needed. */
export function InHand() {
  const hand = useRun((state) => state.marked?.inHand) ?? NONE;
  const room = useKeptHeight<HTMLDListElement>(66, 98);
  return <FieldRuler hand={hand} room={room} label={`Instruction in hand: ${hand.text || 'not decoded yet'}`} testId="in-hand" />;
}

interface RulerProps {
  readonly hand: InHandOf;
  readonly label?: string;
  readonly testId?: string;
  readonly room?: RefObject<HTMLDListElement | null>;
}

/** The fields of any instruction. */
export function FieldRuler({ hand, label, testId, room }: RulerProps) {
  const radix = useDocument((state) => state.machine?.radix ?? 2);
  const all = hand.fields.reduce((sum, each) => sum + each.width, 0);
  return (
    <Ruler ref={room} aria-label={label ?? hand.text} data-testid={testId}>
      {hand.fields.map((field, at) => (
        <Field key={at} field={field} unit={unitOf(radix)} bits={radix === 2 && all <= MOST_BITS} />
      ))}
    </Ruler>
  );
}

function Field({ field, unit, bits }: { field: HandField; unit: 'bits' | 'digits'; bits: boolean }) {
  const { name, kind, width, says } = field;
  const shown = kind === 'gap' ? '··' : field.digits;
  return (
    <div
      className={kind}
      style={{ '--width': width } as React.CSSProperties}
      title={`${name}, ${width} ${width === 1 ? unit.slice(0, -1) : unit}${field.bits ? `: ${field.bits}` : ''}`}
      data-field={name}
    >
      <dt>
        {shown}
        {/* What has not come takes its room already. */}
        {bits && (field.bits || kind === 'gap') && <small>{field.bits || '\u00a0'}</small>}
      </dt>
      <dd>{says || name}</dd>
    </div>
  );
}

/** Which code stands for which character. */
import { chakra } from '@chakra-ui/react';
import { hexDigits } from '@zettak/core/text/number';
import { Window } from '../../ui/Window';
import { characterNamed } from './cells';

const Chart = chakra('ol', {
  base: {
    listStyle: 'none',
    display: 'grid',
    gridAutoFlow: 'column',
    gridTemplateRows: 'repeat(16, auto)',
    columnGap: '14px',
    fontFamily: 'mono',
    fontSize: '14px',
    lineHeight: '21px',
    '& li': { display: 'flex', gap: '7px', whiteSpace: 'pre' },
    '& .code': { color: 'ink3' },
    '& .sign': { fontWeight: '700', minWidth: '28px' },
    '& small': { fontSize: '11px', fontWeight: '700' },
  },
});

export const CodeChart = ({ open, close }: { open: boolean; close: () => void }) => (
  <Window title="Codes of characters (ASCII)" testId="code-chart" wide {...{ open, close }}>
    <Chart tabIndex={0} aria-label="Codes in hex and decimal, with their characters">
      {Array.from({ length: 128 }, (_, code) => {
        const { text, small } = characterNamed(code);
        return (
          <li key={code}>
            <span className="code">{`${hexDigits(code, 8)} ${String(code).padStart(3)}`}</span>
            <span className="sign">{small ? <small>{text}</small> : code === 32 ? <small>space</small> : text}</span>
          </li>
        );
      })}
    </Chart>
  </Window>
);

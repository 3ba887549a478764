/** The ALU with what goes in at its two ports, what it is told to do, and what comes out. */
import { operationWord } from '@zettak/core/engine/tell/control';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import type { Machine } from '@zettak/core/machine/model/machine';
import { shownDigits } from '@zettak/core/text/number';
import type { Box } from './layout';

const SIGNS: Readonly<Record<string, string>> = { negate: '−', value: '=', '-': '−', '*': '×', '/': '÷' };

/** Characters of an operand that stand at its port; more are in smaller print. */
const ROOM = 5;

export function AluPicture({ machine, box, report }: { machine: Machine; box: Box; report: TickReport | undefined }) {
  const { x, y, width, height } = box;
  const compares = report?.compared !== undefined;
  const worked = report?.compared ?? report?.transfers.find((each) => each.route === 'alu')?.worked;
  const middle = x + width / 2;
  const shape = `M${x} ${y} h${width / 2 - 12} l12 13 l12 -13 h${width / 2 - 12} l-20 ${height} h${40 - width} z`;
  if (!worked)
    return (
      <g role="img" aria-label="ALU">
        <path d={shape} className="alu" />
        <text x={middle} y={y + 44} textAnchor="middle" className="title">
          ALU
        </text>
      </g>
    );
  const [a, b] = [
    shownDigits(worked.a, worked.widths[0], machine),
    worked.b === undefined ? '' : shownDigits(worked.b, worked.widths[1], machine),
  ];
  const result = shownDigits(worked.wide ?? worked.result, worked.width, machine);
  const size = (digits: string): string => (digits.length > ROOM ? 'operand tight' : 'operand');
  const word = compares ? 'compare' : operationWord(worked.operator);
  return (
    <g role="img" aria-label={`ALU: ${word}`}>
      <path d={shape} className="alu data" />
      <text x={x + 32} y={y + 19} textAnchor="middle" className={size(a)}>
        {a}
      </text>
      <text x={x + width - 32} y={y + 19} textAnchor="middle" className={size(b)}>
        {b}
      </text>
      <text x={middle} y={y + 38} textAnchor="middle" className="control" data-control="alu">
        {`${SIGNS[worked.operator] ?? worked.operator} ${word}`
          .replace(/^(\w+) \1$/, '$1')
          .replace(/^(asr|rot[lr]|~|%|[&|^]|[<>]{2}) /, '')}
      </text>
      <text x={middle} y={y + 59} textAnchor="middle" className={`${size(result)} result`}>
        {result}
      </text>
    </g>
  );
}

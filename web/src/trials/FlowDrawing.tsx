/** A program's flow as a drawing that prints: blocks from top to bottom, ways forward at the right, ways back at the left. */
import type { FlowBlock, FlowChart, FlowWay } from '@zettak/core/assembler/assist/flowChart';
import { itemAt } from '@zettak/core/text/itemAt';

const [LINE, PAD, GAP, LANE, LETTER] = [17, 8, 26, 14, 7.6];

interface Placed {
  readonly block: FlowBlock;
  readonly top: number;
  readonly height: number;
}

const ENDS: Readonly<Record<FlowBlock['ends'], string>> = { halts: 'end', returns: 'back to its caller', decides: '', 'goes on': '' };

export function FlowDrawing({ chart }: { chart: FlowChart }) {
  const { blocks, ways } = chart;
  const letters = Math.max(
    14,
    ...blocks.flatMap((each) => [...each.lines.map((line) => line.address.length + line.text.length + 2), (each.label?.length ?? 0) + 2]),
  );
  const width = letters * LETTER + 2 * PAD;
  const lanes = (back: boolean): number =>
    Math.max(0, ...ways.filter((each) => each.kind !== 'next' && each.to > each.from !== back).map((each) => each.lane + 1));
  const left = 12 + lanes(true) * LANE;
  let top = 6;
  const placed: Placed[] = blocks.map((block) => {
    const height = (block.lines.length + (block.label === undefined ? 0 : 1)) * LINE + 2 * PAD + (ENDS[block.ends] === '' ? 0 : LINE);
    const here = { block, top, height };
    top += height + GAP;
    return here;
  });
  const whole = left + width + 30 + lanes(false) * LANE;
  const says = `Flow of the program: ${blocks.length} blocks, ${ways.filter((each) => each.kind === 'jump').length} branches`;
  return (
    <svg role="img" aria-label={says} className="flow" width={whole} height={top} viewBox={`0 0 ${whole} ${top}`} data-testid="flow">
      <defs>
        <marker id="flow-tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" orient="auto">
          <path d="M0 0 L8 4 L0 8 z" fill="currentColor" />
        </marker>
      </defs>
      {ways.map((way, at) => (
        <path
          key={at}
          d={wayPath(way, placed, left, width)}
          className={`way ${way.kind}`}
          fill="none"
          stroke="currentColor"
          strokeWidth={1.5}
          strokeDasharray={way.kind === 'call' ? '2 3' : way.kind === 'jump' ? '6 3' : undefined}
          markerEnd="url(#flow-tip)"
        />
      ))}
      {placed.map((each, at) => (
        <Block key={at} {...each} left={left} width={width} />
      ))}
    </svg>
  );
}

function wayPath({ from, to, kind, lane }: FlowWay, placed: readonly Placed[], left: number, width: number): string {
  const [a, b] = [itemAt(placed, from), itemAt(placed, to)];
  if (kind === 'next' && to === from + 1) {
    const x = left + width / 2;
    return `M${x} ${a.top + a.height} V${b.top - 1}`;
  }
  const forward = to > from;
  const x = forward ? left + width + 16 + lane * LANE : left - 10 - lane * LANE;
  const side = forward ? left + width : left;
  const y = a.top + a.height - PAD - 4 - (lane % 3) * 3;
  const end = b.top + PAD + 4 + (lane % 3) * 4;
  return `M${side} ${y} H${x} V${end} H${side + (forward ? 1 : -1)}`;
}

function Block({ block, top, height, left, width }: Placed & { left: number; width: number }) {
  const decides = block.ends === 'decides';
  let y = top + PAD + 12;
  const next = (): number => (y += LINE) - LINE;
  return (
    <g className={decides ? 'block decides' : 'block'}>
      <rect
        x={left}
        y={top}
        width={width}
        height={height}
        rx={block.ends === 'goes on' ? 4 : decides ? 0 : 14}
        fill="none"
        stroke="currentColor"
        strokeWidth={decides ? 2.5 : 1.25}
      />
      {block.label !== undefined && (
        <text x={left + PAD} y={next()} className="label" fontSize="13">
          {block.label}
        </text>
      )}
      {block.lines.map((each) => (
        <text key={each.address} x={left + PAD} y={next()} fontSize="12.5" className="mono">
          <tspan className="address">{each.address}</tspan>
          <tspan dx={LETTER}>{each.text}</tspan>
        </text>
      ))}
      {ENDS[block.ends] !== '' && (
        <text x={left + PAD} y={next()} fontSize="12.5" fontStyle="italic">
          {ENDS[block.ends]}
        </text>
      )}
    </g>
  );
}

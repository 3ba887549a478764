/** Ticks against the size of what a set is given, of this program and of an earlier version. Loaded when it is first shown. */
import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';

export interface Point {
  readonly size: number;
  readonly ticks?: number | undefined;
  readonly before?: number | undefined;
  readonly name: string;
}

interface TicksChartProps {
  readonly points: readonly Point[];
  readonly across: string;
  readonly now: string;
  readonly before: string | undefined;
}

const AXIS = { fill: 'var(--z-colors-ink2)', fontSize: 13 };

export default function TicksChart({ points, across, now, before }: TicksChartProps) {
  const said = points.map(
    (each) =>
      `${each.name}: ${across} ${each.size}, ${each.ticks ?? '–'} ticks${before === undefined ? '' : `, ${before} ${each.before ?? '–'}`}`,
  );
  return (
    <figure role="img" aria-label={`Ticks by ${across}. ${said.join('; ')}`}>
      <ResponsiveContainer width="100%" height={190}>
        <LineChart data={[...points]} margin={{ top: 6, right: 12, bottom: 18, left: 0 }} accessibilityLayer={false}>
          <CartesianGrid stroke="var(--z-colors-line)" vertical={false} />
          <XAxis
            dataKey="size"
            type="number"
            domain={['dataMin', 'dataMax']}
            allowDecimals={false}
            tick={AXIS}
            label={{ value: across, position: 'bottom', offset: 2, ...AXIS }}
          />
          <YAxis tick={AXIS} width={46} />
          <Tooltip contentStyle={{ background: 'var(--z-colors-paper)', fontSize: 13 }} />
          {before !== undefined && <Legend verticalAlign="top" height={22} wrapperStyle={{ fontSize: 13 }} />}
          <Line
            dataKey="ticks"
            name={now}
            stroke="var(--z-colors-data)"
            strokeWidth={2.5}
            dot={{ r: 4 }}
            isAnimationActive={false}
            connectNulls
          />
          {before !== undefined && (
            <Line
              dataKey="before"
              name={before}
              stroke="var(--z-colors-address)"
              strokeWidth={2.5}
              strokeDasharray="5 4"
              dot={{ r: 4 }}
              isAnimationActive={false}
              connectNulls
            />
          )}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}

/** Numbers by name as bars beside each other; loaded when it is first shown. */
import { Bar, BarChart, LabelList, ResponsiveContainer, XAxis, YAxis } from 'recharts';

interface BarsProps {
  readonly label: string;
  readonly list: readonly { readonly name: string; readonly count: number }[];
}

const [ROW, LETTER] = [22, 8.2];

export default function Bars({ label, list }: BarsProps) {
  const names = Math.max(40, ...list.map((each) => each.name.length * LETTER + 10));
  const data = list.map(({ name, count }) => ({ name, count, shown: count.toLocaleString('en-US') }));
  return (
    <figure role="img" aria-label={`${label}: ${list.map(({ name, count }) => `${name} ${count}`).join(', ')}`}>
      <ResponsiveContainer width="100%" height={list.length * ROW + 6}>
        <BarChart
          layout="vertical"
          data={data}
          margin={{ top: 2, right: 56, bottom: 2, left: 0 }}
          barCategoryGap={3}
          accessibilityLayer={false}
        >
          <XAxis type="number" hide domain={[0, 'dataMax']} />
          <YAxis
            type="category"
            dataKey="name"
            width={names}
            interval={0}
            axisLine={false}
            tickLine={false}
            tick={{ fill: 'var(--z-colors-ink)', fontSize: 13, fontFamily: 'var(--z-fonts-mono)' }}
          />
          <Bar dataKey="count" fill="var(--z-colors-address)" isAnimationActive={false} minPointSize={2}>
            <LabelList dataKey="shown" position="right" fill="var(--z-colors-ink)" fontSize={13} />
          </Bar>
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}

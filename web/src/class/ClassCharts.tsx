/** A class at a glance: ticks against cells, holds of each set, hand-ins over time. Loaded when it is first shown. */
import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import { Bar, BarChart, CartesianGrid, Line, LineChart, ResponsiveContainer, Scatter, ScatterChart, Tooltip, XAxis, YAxis } from 'recharts';
import type { Matrix } from '@zettak/api/matrix';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { Segments } from '../ui/Segments';
import { choose } from './acts';
import { timeText } from './AssignmentFacts';
import { useClass } from './state';

const KINDS = ['ticks against cells', 'holds of each set', 'hand-ins over time'] as const;
type Kind = (typeof KINDS)[number];

const AXIS = { fill: 'var(--z-colors-ink2)', fontSize: 13 };
const HEIGHT = 170;
const TIP = { contentStyle: { background: 'var(--z-colors-paper)', fontSize: 13 } };

export default function ClassCharts() {
  const matrix = useClass((state) => state.matrix);
  const [kind, setKind] = useState<Kind>(KINDS[0]);
  if (!matrix) return null;
  return (
    <>
      <PanelHead>
        <PanelTitle>Charts</PanelTitle>
        <Segments label="Chart" value={kind} choose={setKind} options={KINDS} testId="chart-kind" />
      </PanelHead>
      <Box px="12px" py="6px">
        {kind === 'ticks against cells' ? (
          <TicksAndCells matrix={matrix} />
        ) : kind === 'holds of each set' ? (
          <Holds matrix={matrix} />
        ) : (
          <OverTime matrix={matrix} />
        )}
      </Box>
    </>
  );
}

interface ChartProps {
  readonly matrix: Matrix;
}

function TicksAndCells({ matrix: { rows, teacher } }: ChartProps) {
  const dots = rows.flatMap(({ id, label, checked }) =>
    checked && !checked.errors && !checked.mistake && !checked.open ? [{ id, label, ticks: checked.ticks, cells: checked.cells }] : [],
  );
  if (dots.length === 0) return <Hint>No hand-in holds everywhere yet.</Hint>;
  const said = dots.map((each) => `${each.label}: ${each.ticks} ticks, ${each.cells} cells`).join('; ');
  const ring = teacher ? [{ ...teacher, label: 'the teacher’s own' }] : [];
  return (
    <figure
      role="img"
      aria-label={`Ticks against cells. ${said}${teacher ? `; the teacher's own: ${teacher.ticks} ticks, ${teacher.cells} cells` : ''}`}
      data-testid="ticks-and-cells"
    >
      <Hint>each dot a hand-in that holds everywhere; the ring is the teacher’s own</Hint>
      <ResponsiveContainer width="100%" height={HEIGHT}>
        <ScatterChart margin={{ top: 8, right: 16, bottom: 20, left: 4 }} accessibilityLayer={false}>
          <CartesianGrid stroke="var(--z-colors-line)" vertical={false} />
          <XAxis
            dataKey="cells"
            name="cells"
            type="number"
            domain={['auto', 'auto']}
            tick={AXIS}
            allowDecimals={false}
            label={{ value: 'cells', position: 'bottom', offset: 2, ...AXIS }}
          />
          <YAxis dataKey="ticks" name="ticks" type="number" domain={['auto', 'auto']} allowDecimals={false} tick={AXIS} width={52} />
          <Tooltip {...TIP} content={({ payload }) => <Told of={payload?.[0]?.payload} />} />
          <Scatter
            data={dots}
            fill="var(--z-colors-address)"
            isAnimationActive={false}
            onClick={(dot) => choose((dot as unknown as { payload?: { id?: number } }).payload?.id)}
          />
          <Scatter
            data={ring}
            isAnimationActive={false}
            shape={({ cx, cy }: { cx?: number; cy?: number }) => (
              <circle cx={cx} cy={cy} r={8} fill="none" stroke="var(--z-colors-ink)" strokeWidth={2.5} />
            )}
          />
        </ScatterChart>
      </ResponsiveContainer>
    </figure>
  );
}

function Told({ of }: { of: unknown }) {
  const { label, ticks, cells } = (of ?? {}) as { label?: string; ticks?: number; cells?: number };
  if (label === undefined) return null;
  return (
    <Box bg="paper" border="1px solid" borderColor="line" borderRadius="5px" px="8px" py="3px" fontSize="13px">
      {label}: {ticks} ticks, {cells} cells
    </Box>
  );
}

function Holds({ matrix: { rows, sets } }: ChartProps) {
  const data = sets.map(({ name }, at) => ({
    name: String(at + 1),
    set: name,
    holds: rows.filter(({ checked }) => ['holds', 'ran'].includes(checked?.rows[at]?.verdict ?? '')).length,
  }));
  return (
    <figure
      role="img"
      aria-label={`Holds of each set, of ${rows.length} hand-ins. ${data.map((each) => `${each.set}: ${each.holds}`).join('; ')}`}
      data-testid="holds-chart"
    >
      <Hint>hand-ins that hold, of {rows.length}, by set</Hint>
      <ResponsiveContainer width="100%" height={HEIGHT}>
        <BarChart data={data} margin={{ top: 8, right: 16, bottom: 4, left: 4 }} accessibilityLayer={false}>
          <CartesianGrid stroke="var(--z-colors-line)" vertical={false} />
          <XAxis dataKey="name" tick={AXIS} />
          <YAxis tick={AXIS} width={40} domain={[0, rows.length]} allowDecimals={false} />
          <Tooltip {...TIP} labelFormatter={(_, items) => String((items[0]?.payload as { set?: string } | undefined)?.set ?? '')} />
          <Bar dataKey="holds" fill="var(--z-colors-ok)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}

function OverTime({ matrix: { rows } }: ChartProps) {
  const times = rows.map((each) => Date.parse(each.arrivedAt)).sort((a, b) => a - b);
  if (times.length === 0) return <Hint>Nothing has come in yet.</Hint>;
  const data = times.map((at, index) => ({ at, count: index + 1 }));
  const [first, last] = [times[0]!, times.at(-1)!];
  return (
    <figure
      role="img"
      aria-label={`Hand-ins over time: the first ${timeText(new Date(first).toISOString())}, the last ${timeText(new Date(last).toISOString())}, ${times.length} in all`}
      data-testid="time-chart"
    >
      <Hint>labels that have handed in, by the time of their newest hand-in</Hint>
      <ResponsiveContainer width="100%" height={HEIGHT}>
        <LineChart data={data} margin={{ top: 8, right: 16, bottom: 4, left: 4 }} accessibilityLayer={false}>
          <CartesianGrid stroke="var(--z-colors-line)" vertical={false} />
          <XAxis
            dataKey="at"
            type="number"
            domain={['dataMin', 'dataMax']}
            tick={AXIS}
            tickCount={4}
            tickFormatter={(at: number) => timeText(new Date(at).toISOString())}
          />
          <YAxis tick={AXIS} width={40} allowDecimals={false} />
          <Tooltip {...TIP} labelFormatter={(at) => timeText(new Date(Number(at)).toISOString())} />
          <Line
            type="stepAfter"
            dataKey="count"
            name="in"
            stroke="var(--z-colors-data)"
            strokeWidth={2.5}
            dot={false}
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}

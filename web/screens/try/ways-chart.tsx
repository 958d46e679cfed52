import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { timeAt } from '../../../core/ways/index.js';
import type { Measured } from './use-ways.js';

/** How each way is drawn: told apart by its dashes too. */
const LOOKS = {
  batch: { stroke: 'var(--selected)', dash: '' },
  join: { stroke: 'var(--to-many)', dash: '6 3' },
  json: { stroke: 'var(--to-one)', dash: '2 3' },
  row: { stroke: 'var(--harm)', dash: '10 3 2 3' },
} as const;

const WAYS = ['batch', 'join', 'json', 'row'] as const;

/** How the time of each way grows with the rows that others are loaded for; both axes by powers of ten. */
export function WaysChart({ growth, delay }: { readonly growth: readonly Measured[]; readonly delay: number }) {
  if (growth.length < 2)
    return <p className="text-small text-ink-2 italic">How each way grows is drawn as soon as two sizes are measured.</p>;
  const points = growth.map(({ parents, costs }) => ({
    parents,
    ...Object.fromEntries(
      costs.filter(({ problem }) => problem === null).map((cost) => [cost.way, Math.max(0.01, timeAt(cost, delay))]),
    ),
  }));
  return (
    <figure aria-label="Milliseconds by rows, for each way" className="h-52">
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={points} margin={{ top: 6, right: 12, bottom: 4, left: 0 }}>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis
            dataKey="parents"
            type="number"
            scale="log"
            domain={['dataMin', 'dataMax']}
            ticks={growth.map(({ parents }) => parents)}
            stroke="var(--ink-3)"
            tick={{ fontSize: 11 }}
          />
          <YAxis
            scale="log"
            domain={['auto', 'auto']}
            stroke="var(--ink-3)"
            tick={{ fontSize: 11 }}
            tickFormatter={shownTime}
            width={52}
          />
          <Tooltip
            contentStyle={{ background: 'var(--label)', border: '1px solid var(--line-2)', fontSize: 12 }}
            labelFormatter={(parents) => `${Number(parents).toLocaleString('en')} rows`}
            formatter={(value, name) => [`${Number(value).toFixed(1)} ms`, `by ${String(name)}`]}
          />
          <Legend formatter={(way: string) => `by ${way}`} wrapperStyle={{ fontSize: 12 }} />
          {WAYS.map((way) => (
            <Line
              key={way}
              dataKey={way}
              stroke={LOOKS[way].stroke}
              strokeDasharray={LOOKS[way].dash}
              strokeWidth={1.5}
              dot={{ r: 2.5 }}
              isAnimationActive={false}
              connectNulls
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}

function shownTime(milliseconds: number): string {
  return milliseconds >= 1 ? `${Math.round(milliseconds).toLocaleString('en')} ms` : `${milliseconds.toFixed(2)} ms`;
}

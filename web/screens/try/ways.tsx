import { lazy, Suspense, useState } from 'react';
import type { MeasuredWay, QueryRun } from '../../../contract/index.js';
import { adviceOn, timeAt } from '../../../core/ways/index.js';
import { Button } from '../../parts/button.js';
import { Sql } from '../../parts/sql.js';
import { type Measured, useWays } from './use-ways.js';

const WaysChart = lazy(() => import('./ways-chart.js').then(({ WaysChart: Chart }) => ({ default: Chart })));

/** The ways to load: the same loads all four ways, what each costs, and how each grows with the rows. */
export default function WaysPanel({ tree, run, onClose }: { readonly tree: string; readonly run: QueryRun; onClose(): void }) {
  const { whole, growth, running, problem, stop } = useWays(tree, run);
  const [delay, setDelay] = useState(0);
  const advice = whole === null ? null : adviceOn(whole.costs, delay);
  return (
    <section aria-label="Ways to load" className="max-h-[62%] shrink-0 overflow-auto border-b border-line-2 bg-label px-5 py-3">
      <header className="flex items-baseline gap-4">
        <h2 className="shrink-0 font-semibold">Ways to load</h2>
        <p role="status" aria-label="Which way to take" className="font-serif text-[16px]">
          {advice?.text ?? (running ? 'Each way is run five times, in turns…' : 'Nothing could be measured.')}
        </p>
        <span className="ml-auto flex shrink-0 items-center gap-2">
          {running && (
            <>
              <span className="text-small text-ink-2 italic">measuring…</span>
              <Button onClick={stop}>Stop measuring</Button>
            </>
          )}
          <Button onClick={onClose}>Close</Button>
        </span>
      </header>
      {problem !== null && <p className="mt-1 text-small text-harm">{problem}</p>}
      {whole !== null && (
        <>
          <label className="mt-2 flex items-center gap-3 text-small text-ink-2">
            Each statement is under way for
            <input
              type="range"
              min={0}
              max={100}
              value={delay}
              className="w-44 accent-(--selected)"
              aria-label="Milliseconds that each statement is under way"
              onChange={(event) => setDelay(Number(event.target.value))}
            />
            <output className="w-14 font-mono">{delay} ms</output>
          </label>
          <div className="mt-2 grid grid-cols-[minmax(0,1fr)_minmax(0,440px)] gap-6 max-[1000px]:grid-cols-1">
            <Costs whole={whole} delay={delay} taken={advice?.way ?? null} />
            <Suspense fallback={<p className="text-small text-ink-2 italic">The chart is fetched…</p>}>
              <WaysChart growth={growth} delay={delay} />
            </Suspense>
          </div>
          <Growth growth={growth} delay={delay} />
        </>
      )}
    </section>
  );
}

const CELL = 'border-b border-line py-1 pr-3 text-right font-mono whitespace-nowrap';
const HEAD = 'border-b border-line-2 py-1 pr-3 font-normal text-ink-2';
const NUMBER_HEAD = `${HEAD} text-right`;

function Costs({ whole, delay, taken }: { readonly whole: Measured; readonly delay: number; readonly taken: string | null }) {
  const [open, setOpen] = useState<string | null>(null);
  const shown = whole.costs.find(({ way }) => way === open);
  return (
    <div>
      <table className="w-full border-collapse text-small" aria-label="What each way costs">
        <thead>
          <tr>
            <th className={`${HEAD} text-left`}>way</th>
            <th className={NUMBER_HEAD}>statements</th>
            <th className={NUMBER_HEAD}>lines</th>
            <th className={NUMBER_HEAD}>values</th>
            <th className={NUMBER_HEAD}>kB</th>
            <th className={NUMBER_HEAD}>ms</th>
            {delay > 0 && <th className={NUMBER_HEAD}>from afar</th>}
            <th className={`${HEAD} text-left`}>answer</th>
          </tr>
        </thead>
        <tbody>
          {whole.costs.map((cost) => (
            <tr key={cost.way} className={cost.way === taken ? 'bg-wash font-semibold' : ''}>
              <th scope="row" className="border-b border-line py-1 pr-3 text-left font-mono font-normal">
                <button
                  type="button"
                  aria-expanded={open === cost.way}
                  className="underline decoration-dotted underline-offset-2"
                  onClick={() => setOpen(open === cost.way ? null : cost.way)}
                >
                  by {cost.way}
                </button>
              </th>
              <td className={CELL}>{cost.statements.toLocaleString('en')}</td>
              <td className={CELL}>{cost.rows.toLocaleString('en')}</td>
              <td className={CELL}>{cost.cells.toLocaleString('en')}</td>
              <td className={CELL}>{(cost.bytes / 1000).toFixed(1)}</td>
              <td className={CELL}>{cost.milliseconds.toFixed(1)}</td>
              {delay > 0 && <td className={CELL}>{timeAt(cost, delay).toFixed(1)}</td>}
              <td className="border-b border-line py-1">
                <Proof cost={cost} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-small text-ink-3">
        Over {whole.parents.toLocaleString('en')} rows; {whole.wanted.toLocaleString('en')} are wanted with all that is loaded
        below them. Times are the middle of five runs, in the database. A way opens its SQL.
      </p>
      {shown?.sql.map((sql, at) => (
        <Sql key={`${at} ${sql}`} text={sql} label={`by ${shown.way}, statement ${at + 1}`} />
      ))}
    </div>
  );
}

function Proof({ cost: { way, problem } }: { readonly cost: MeasuredWay }) {
  if (problem !== null) return <span className="text-harm">{problem}</span>;
  return <span className="text-fine">✓ {way === 'batch' ? 'compared with' : 'equal'}</span>;
}

/** The chart's figures, for those who read rather than look. */
function Growth({ growth, delay }: { readonly growth: readonly Measured[]; readonly delay: number }) {
  const [first] = growth;
  if (first === undefined || growth.length < 2) return null;
  return (
    <details className="mt-2 text-small">
      <summary className="cursor-pointer text-ink-2">The figures of the chart, in milliseconds</summary>
      <table className="mt-1 border-collapse" aria-label="How each way grows">
        <thead>
          <tr>
            <th className={`${HEAD} text-left`}>rows</th>
            {first.costs.map(({ way }) => (
              <th key={way} className={NUMBER_HEAD}>
                by {way}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {growth.map(({ parents, costs }) => (
            <tr key={parents}>
              <th scope="row" className="border-b border-line py-1 pr-3 text-left font-mono font-normal">
                {parents.toLocaleString('en')}
              </th>
              {costs.map((cost) => (
                <td key={cost.way} className={CELL}>
                  {cost.problem === null ? timeAt(cost, delay).toFixed(1) : '—'}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

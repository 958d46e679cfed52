import { useEffect, useRef, useState } from 'react';
import type { LogEntry, RunResult } from '../../../contract/index.js';
import { addedLines } from '../../../core/revisions/index.js';
import { Sql } from '../../parts/sql.js';
import { PlanTree } from './plan-tree.js';

type Answered = Extract<RunResult, { ok: true }>;

/** The log: every statement, its parameters, rows and time, how the engine answers it, and the line that asked for it. */
export function LogPane({
  entries,
  before,
  at,
  of = 'query',
  onGo,
  onMeasure,
}: {
  readonly entries: readonly LogEntry[];
  /** The run before this one, to mark what is new against it. */
  readonly before: Answered | null;
  /** Where the person is in the query: the statement of that line is marked. */
  readonly at: number | null;
  /** What a statement comes from: a line of a query, or a command. */
  readonly of?: 'query' | 'command';
  onGo(span: { start: number; end: number }): void;
  /** Runs it once more, and counts what each step of the plans finds; null where that cannot be. */
  readonly onMeasure: (() => void) | null;
}) {
  const marked = at === null ? -1 : statementAt(entries, at);
  const total = entries.reduce((sum, entry) => sum + entry.milliseconds, 0);
  const sent = entries.reduce((sum, entry) => sum + entry.times, 0);
  const scans = entries.filter((entry) => entry.steps.some(({ mark }) => mark === 'full scan')).length;
  return (
    <section aria-label="Log" className="flex h-full min-h-0 flex-col bg-label">
      <header className="flex shrink-0 items-center border-b border-line px-4 py-2">
        <h2 className="font-semibold">Log</h2>
        {entries.length > 0 && (
          <span className="ml-auto text-small text-ink-2">
            {sent.toLocaleString('en')} statement{sent === 1 ? '' : 's'} · {total.toFixed(1)} ms
            {scans > 0 && <span className="text-to-many"> · {scans} with a full scan</span>}
            {onMeasure !== null && (
              <button
                type="button"
                className="ml-3 underline decoration-dotted underline-offset-2 hover:text-ink"
                title="Runs each statement once more, and counts the rows of each step"
                onClick={onMeasure}
              >
                measure the plans
              </button>
            )}
          </span>
        )}
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard */}
      <ol tabIndex={0} aria-label="Statements" className="min-h-0 flex-1 overflow-auto">
        {entries.map((entry, index) => (
          <Statement
            key={`${index} ${entry.path}`}
            entry={entry}
            number={index + 1}
            marked={index === marked}
            of={of}
            earlier={before === null ? null : (before.log.find(({ path }) => path === entry.path)?.plain ?? '')}
            onGo={onGo}
          />
        ))}
      </ol>
    </section>
  );
}

/** Which statement the line at a place of the query asks for: of loads within each other the innermost. */
function statementAt(entries: readonly LogEntry[], at: number): number {
  const held = entries.flatMap(({ span }, index) =>
    span !== null && span.start <= at && at <= span.end ? [{ index, length: span.end - span.start }] : [],
  );
  return held.sort((one, other) => one.length - other.length)[0]?.index ?? -1;
}

function Statement({
  entry,
  number,
  marked,
  earlier,
  of,
  onGo,
}: {
  readonly entry: LogEntry;
  readonly number: number;
  /** The person is at the line of the query that it comes from. */
  readonly marked: boolean;
  /** The statement of the same load in the run before; null where none is compared with. */
  readonly earlier: string | null;
  readonly of: 'query' | 'command';
  onGo(span: { start: number; end: number }): void;
}) {
  const item = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (marked) item.current?.scrollIntoView({ block: 'nearest' });
  }, [marked]);
  const [sent, setSent] = useState(false);
  const measured = entry.steps.some(({ found }) => found !== null);
  const [planned, setPlanned] = useState(false);
  useEffect(() => {
    if (measured) setPlanned(true);
  }, [measured]);
  const { span, steps } = entry;
  const scans = steps.filter(({ mark }) => mark === 'full scan');
  const fresh = earlier === null ? [] : addedLines(earlier, entry.plain);
  return (
    <li
      ref={item}
      aria-label={`Statement ${number}`}
      aria-current={marked}
      className={`grid grid-cols-[26px_1fr] gap-2 border-b border-line px-4 py-2.5 ${marked ? 'bg-wash' : ''}`}
    >
      <span className="flex size-5 items-center justify-center rounded-full border border-line-2 text-small">{number}</span>
      <div className="min-w-0">
        <Sql text={sent ? entry.sent : entry.plain} label={`statement ${number}`} marked={sent ? [] : fresh} />
        {entry.parameters.length > 0 && (
          <ul className="mt-1 font-mono text-small text-ink-2">
            {entry.parameters.map(({ name, shown, count }) => (
              <li key={name} className="truncate" title={shown}>
                <span className="kin-parameter">:{name}</span> ={' '}
                {count === null ? shown : `${count} key${count === 1 ? '' : 's'}: ${shown}`}
              </li>
            ))}
          </ul>
        )}
        <p className="mt-1 flex flex-wrap gap-x-4 text-small text-ink-2">
          {entry.times > 1 && <span className="text-to-many">{entry.times.toLocaleString('en')} times, once for each owner</span>}
          <span>
            {entry.rows.toLocaleString('en')} row{entry.rows === 1 ? '' : 's'}
          </span>
          <span>{entry.milliseconds.toFixed(1)} ms</span>
          {steps.length > 0 && (
            <button
              type="button"
              aria-expanded={planned}
              className={`underline decoration-dotted underline-offset-2 hover:text-ink ${scans.length > 0 ? 'text-to-many' : ''}`}
              onClick={() => setPlanned(!planned)}
            >
              {scans.length > 0 ? '▲ plan: full scan' : 'plan'}
            </button>
          )}
          {entry.sent !== entry.plain && (
            <button
              type="button"
              className="underline decoration-dotted underline-offset-2 hover:text-ink"
              aria-pressed={sent}
              onClick={() => setSent(!sent)}
            >
              {sent || !entry.byColumns ? 'as sent' : 'by columns'}
            </button>
          )}
          {span !== null && (
            <button type="button" className="text-selected hover:underline" onClick={() => onGo({ ...span })}>
              {of === 'query' ? `load ${entry.path}` : of}
            </button>
          )}
        </p>
        {planned && <PlanTree steps={steps} label={`Plan of statement ${number}`} />}
      </div>
    </li>
  );
}

import { useState } from 'react';
import type { LogEntry, RunResult } from '../../../contract/index.js';
import { Sql } from '../../parts/sql.js';

/** The log: every statement, its parameters, rows and time, and which line of the query asked for it. */
export function LogPane({
  result,
  onGo,
}: {
  readonly result: RunResult | null;
  onGo(span: { start: number; end: number }): void;
}) {
  const entries = result?.ok === true ? result.log : [];
  const total = entries.reduce((sum, entry) => sum + entry.milliseconds, 0);
  return (
    <section aria-label="Log" className="flex h-full min-h-0 flex-col bg-label">
      <header className="flex shrink-0 items-center border-b border-line px-4 py-2">
        <h2 className="font-semibold">Log</h2>
        {entries.length > 0 && (
          <span className="ml-auto text-small text-ink-2">
            {entries.length} statement{entries.length === 1 ? '' : 's'} · {total.toFixed(1)} ms
          </span>
        )}
      </header>
      <ol className="min-h-0 flex-1 overflow-auto">
        {entries.map((entry, index) => (
          <Statement key={`${index} ${entry.path}`} entry={entry} number={index + 1} onGo={onGo} />
        ))}
      </ol>
    </section>
  );
}

function Statement({
  entry,
  number,
  onGo,
}: {
  readonly entry: LogEntry;
  readonly number: number;
  onGo(span: { start: number; end: number }): void;
}) {
  const [sent, setSent] = useState(false);
  const { span } = entry;
  return (
    <li aria-label={`Statement ${number}`} className="grid grid-cols-[26px_1fr] gap-2 border-b border-line px-4 py-2.5">
      <span className="flex size-5 items-center justify-center rounded-full border border-line-2 text-small">{number}</span>
      <div className="min-w-0">
        <Sql text={sent ? entry.sent : entry.plain} label={`statement ${number}`} />
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
          <span>
            {entry.rows.toLocaleString('en')} row{entry.rows === 1 ? '' : 's'}
          </span>
          <span>{entry.milliseconds.toFixed(1)} ms</span>
          <button
            type="button"
            className="underline decoration-dotted underline-offset-2 hover:text-ink"
            aria-pressed={sent}
            onClick={() => setSent(!sent)}
          >
            {sent ? 'as sent' : 'by columns'}
          </button>
          {span !== null && (
            <button type="button" className="text-selected hover:underline" onClick={() => onGo({ ...span })}>
              load {entry.path}
            </button>
          )}
        </p>
      </div>
    </li>
  );
}

import type { QueryView } from '../../../core/view-models/index.js';
import type { TriedRun } from './tried.js';

/** The queries that the text keeps, and what was tried lately. */
export function Queries({
  queries,
  saved,
  tried,
  onPick,
  onAgain,
  onLog,
  onSql,
  onCommands,
}: {
  readonly queries: readonly QueryView[];
  readonly saved: string | null;
  readonly tried: readonly TriedRun[];
  onPick(name: string): void;
  onAgain(run: TriedRun): void;
  /** Reads the statement log of an application. */
  onLog(): void;
  /** Goes over to SQL of the database. */
  onSql(): void;
  /** Puts a command in the place of the query. */
  onCommands(): void;
}) {
  return (
    <nav aria-label="Saved queries" className="overflow-auto border-r border-line py-2">
      <h2 className="px-4 pb-1 font-serif text-ink-2 italic">Kept in the text</h2>
      {queries.length === 0 && (
        <p className="px-4 text-small text-ink-2">None yet. Keep one below, or write a “query” in the text.</p>
      )}
      {queries.map((query) => (
        <button
          key={query.name}
          type="button"
          title={query.note ?? query.name}
          aria-current={query.name === saved}
          className={`block w-full truncate px-4 py-0.5 text-left font-mono text-small ${query.name === saved ? 'bg-wash' : 'hover:bg-ground'}`}
          onClick={() => onPick(query.name)}
        >
          {query.name}
        </button>
      ))}
      {tried.length > 0 && <h2 className="px-4 pt-3 pb-1 font-serif text-ink-2 italic">Tried</h2>}
      {tried.map((run) => (
        <button
          key={run.at}
          type="button"
          title={`${run.text}\n\n${run.outcome}`}
          className="block w-full truncate px-4 py-0.5 text-left text-small hover:bg-ground"
          onClick={() => onAgain(run)}
        >
          <span className="font-mono">{run.text.replace(/\s+/g, ' ')}</span>
        </button>
      ))}
      <button
        type="button"
        className="mt-3 block w-full px-4 py-0.5 text-left text-small text-selected hover:bg-ground"
        onClick={onCommands}
      >
        Rehearse commands…
      </button>
      <button
        type="button"
        className="block w-full px-4 py-0.5 text-left text-small text-selected hover:bg-ground"
        onClick={onSql}
      >
        Plain SQL, read-only…
      </button>
      <button
        type="button"
        className="block w-full px-4 py-0.5 text-left text-small text-selected hover:bg-ground"
        onClick={onLog}
      >
        Read a statement log…
      </button>
    </nav>
  );
}

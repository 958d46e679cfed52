import { useState } from 'react';
import { useClick } from '../../app/use-click.js';
import type { QueryView } from '../../workers/design-view.js';
import type { Tried } from './tried.js';

/** The queries that the text keeps, and what was tried lately. */
export function Queries({
  queries,
  saved,
  tried,
  onPick,
  onAgain,
}: {
  readonly queries: readonly QueryView[];
  readonly saved: string | null;
  readonly tried: readonly Tried[];
  onPick(name: string): void;
  onAgain(run: Tried): void;
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
    </nav>
  );
}

/** Keeps what was tried as a query of the text. */
export function Keep({
  text,
  head,
  changed,
  onKept,
}: {
  readonly text: string;
  readonly head: string;
  /** The query of the text that was changed here; null where it began with none. */
  readonly changed: string | null;
  onKept(name: string): void;
}) {
  const click = useClick();
  const [name, setName] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const change = async (query: string) => {
    const [first] = await click({ kind: 'change query', name: query, head, body: text }, `change query ${query}`);
    if (first === undefined) onKept(query);
    else setProblem(first);
  };
  const act = 'mt-2 block text-small text-selected hover:underline disabled:opacity-50';
  if (name === null)
    return (
      <>
        {changed !== null && (
          <button type="button" disabled={text.trim() === ''} className={act} onClick={() => void change(changed)}>
            Keep the change of {changed}
          </button>
        )}
        <button type="button" disabled={text.trim() === ''} className={act} onClick={() => setName('')}>
          {changed === null ? 'Keep it in the text' : 'Keep it as another query'}
        </button>
        {problem !== null && (
          <p role="alert" className="text-small text-harm">
            {problem}
          </p>
        )}
      </>
    );
  const keep = async () => {
    if (!/^[a-z_][a-z0-9_]*$/.test(name)) {
      setProblem('The name of a query is made of small letters, digits and _.');
      return;
    }
    const [first] = await click({ kind: 'add query', name, head, body: text }, `keep query ${name}`);
    if (first === undefined) onKept(name);
    else setProblem(first);
  };
  return (
    <form
      className="mt-2"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <label className="block text-small text-ink-2">
        Its name
        <input
          // biome-ignore lint/a11y/noAutofocus: the field was asked for to write in it
          autoFocus
          value={name}
          placeholder="late_loans"
          className="mt-0.5 block w-full rounded-sm border border-line-2 bg-label px-2 py-0.5 font-mono text-ink"
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') setName(null);
          }}
        />
      </label>
      {problem !== null && (
        <p role="alert" className="text-small text-harm">
          {problem}
        </p>
      )}
    </form>
  );
}

import { useState } from 'react';
import { useClick } from '../../app/use-click.js';
import { Input } from '../../parts/input.js';

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
        <Input
          autoFocus
          value={name}
          placeholder="late_loans"
          code
          className="mt-0.5 block w-full"
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

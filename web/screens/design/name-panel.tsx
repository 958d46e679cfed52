import { X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { applied } from '../../../core/edits/index.js';
import { positions, type Span } from '../../../core/notation/index.js';
import { askDesign } from '../../app/design-client.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import type { NameView } from '../../workers/asks.js';

/** A name of the text: where it is used, and another name for it everywhere. */
export function NamePanel({
  name,
  text,
  onGo,
  onClose,
  onRenamed,
}: {
  readonly name: NameView;
  readonly text: string;
  onGo(span: Span): void;
  onClose(): void;
  onRenamed(text: string): void;
}) {
  const [wish, setWish] = useState(name.thing.name);
  const [problem, setProblem] = useState<string | null>(null);
  const [kept, setKept] = useState<readonly string[]>([]);
  const [also, setAlso] = useState<string | null>(null);
  const attempt = async (next: string, apply: boolean) => {
    setWish(next);
    if (next === name.thing.name || next === '') {
      setProblem(null);
      setKept([]);
      return;
    }
    const outcome = await askDesign('rename', { text, thing: name.thing, name: next });
    setProblem(outcome.ok ? null : outcome.problem);
    setKept(outcome.ok ? outcome.kept : []);
    setAlso(outcome.ok ? outcome.also : null);
    if (outcome.ok && apply) onRenamed(applied(text, outcome.edits));
  };
  const { thing, uses } = name;
  return (
    <section
      aria-label={`Name ${thing.name}`}
      className="max-h-[40%] shrink-0 overflow-auto border-t border-line-2 bg-sheet px-4 py-2"
    >
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void attempt(wish, true);
        }}
      >
        <label className="flex min-w-0 flex-1 basis-56 items-center gap-2">
          <span className="min-w-0 truncate text-ink-2" title={thing.owner}>
            {thing.kind} {thing.owner === '' ? '' : `of ${thing.owner}`}
          </span>
          <Input
            autoFocus
            aria-label="New name"
            onFocus={(event) => event.target.select()}
            value={wish}
            code
            className="min-w-24 flex-1"
            onChange={(event) => void attempt(event.target.value, false)}
            onKeyDown={(event) => {
              if (event.key === 'Escape') onClose();
            }}
          />
        </label>
        <Button type="submit" disabled={wish === thing.name || problem !== null}>
          Rename {uses.length} {uses.length === 1 ? 'place' : 'places'}
        </Button>
        <button type="button" aria-label="Close" className="p-1 text-ink-2 hover:text-ink" onClick={onClose}>
          <X size={15} />
        </button>
      </form>
      {problem !== null && (
        <p role="alert" className="mt-1 text-small text-harm">
          {problem}
        </p>
      )}
      {kept.length > 0 && (
        <p className="mt-1 text-small text-ink-2">
          No data moves: {kept.join(', ')} {kept.length === 1 ? 'is' : 'are'} written out, since a convention had named{' '}
          {kept.length === 1 ? 'it' : 'them'}.
        </p>
      )}
      {also !== null && (
        <p className="mt-1 text-small text-ink-2">In the database {also} is called so, and gets the new name too.</p>
      )}
      <Uses uses={uses} text={text} onGo={onGo} />
    </section>
  );
}

/** The lines of the text where the name is used. */
function Uses({ uses, text, onGo }: { readonly uses: readonly Span[]; readonly text: string; onGo(span: Span): void }) {
  const positionOf = useMemo(() => positions(text), [text]);
  const lineOf = (offset: number) => {
    const start = text.lastIndexOf('\n', offset - 1) + 1;
    const end = text.indexOf('\n', offset);
    return text.slice(start, end < 0 ? text.length : end).trim();
  };
  return (
    <ul aria-label="Uses" className="mt-1.5">
      {uses.map((span) => (
        <li key={span.start}>
          <button
            type="button"
            className="flex w-full gap-3 py-0.5 text-left text-small hover:bg-wash"
            onClick={() => onGo(span)}
          >
            <span className="w-14 shrink-0 text-ink-3">line {positionOf(span.start).line}</span>
            <span className="truncate font-mono">{lineOf(span.start)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

import { X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { applied } from '../../../core/edits/index.js';
import { positions, type Span } from '../../../core/notation/index.js';
import { askDesign } from '../../app/design-client.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import type { NameView } from '../../workers/asks.js';

/** A name of the text: what uses it, and another name for it everywhere. */
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
      <Uses declared={name.definition} usedBy={name.usedBy} text={text} onGo={onGo} />
    </section>
  );
}

/** What uses the name, and below it what uses that in turn; each with its line of the text. */
function Uses({
  declared,
  usedBy,
  text,
  onGo,
}: {
  readonly declared: Span | null;
  readonly usedBy: NameView['usedBy'];
  readonly text: string;
  onGo(span: Span): void;
}) {
  const positionOf = useMemo(() => positions(text), [text]);
  const lineOf = (offset: number) => {
    const start = text.lastIndexOf('\n', offset - 1) + 1;
    const end = text.indexOf('\n', offset);
    return text.slice(start, end < 0 ? text.length : end).trim();
  };
  const all = [...(declared === null ? [] : [{ span: declared, by: 'declared', line: '', through: [] }]), ...usedBy];
  // A line that names it twice is one line.
  const rows = all.filter(
    ({ span, by }, index) =>
      index === all.findIndex((one) => one.by === by && positionOf(one.span.start).line === positionOf(span.start).line),
  );
  return (
    <>
      <h3 className="mt-1.5 text-small text-ink-2">
        {usedBy.length === 0
          ? 'Nothing uses it.'
          : `Used by ${new Set(usedBy.map(({ by }) => by)).size}, in ${usedBy.length} ${usedBy.length === 1 ? 'place' : 'places'}:`}
      </h3>
      <ul aria-label="Uses" className="mt-0.5">
        {rows.map(({ span, by, line, through }) => (
          <li key={`${span.start} ${through.join()}`}>
            <button
              type="button"
              className="flex w-full gap-3 py-0.5 text-left text-small hover:bg-wash"
              onClick={() => onGo(span)}
            >
              <span className="w-14 shrink-0 text-ink-3">line {positionOf(span.start).line}</span>
              <span className="w-56 shrink-0 truncate" title={through.length === 0 ? by : `${by}, through ${through.join(', ')}`}>
                {by}
                {line !== '' && <span className="text-ink-2"> {line}</span>}
                {through.length > 0 && <span className="text-ink-2 italic"> through {through.at(0)}</span>}
              </span>
              <span className="truncate font-mono">{lineOf(span.start)}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

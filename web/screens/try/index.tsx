import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { RunResult } from '../../../contract/index.js';
import { parseQuery } from '../../../core/notation/index.js';
import { failureMessage, useRunMutation } from '../../app/api.js';
import { untilSaved } from '../../app/saving.js';
import { store, useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { Editor, type Marked } from '../../parts/editor.js';
import { Panes } from '../../parts/panes.js';
import type { ParameterView } from '../../workers/design-view.js';
import { AnswerPane } from './answer.js';
import { headParameters } from './head.js';
import { LogPane } from './log.js';
import { Parameters } from './parameters.js';

type Shown =
  | { readonly kind: 'none' }
  | { readonly kind: 'failed'; readonly message: string }
  | { readonly kind: 'result'; readonly result: RunResult };

/** Try: a query on top, its answer below, and beside it the log of every statement. */
export function TryScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const saving = useAppSelector((state) => state.workspace.saving.kind);
  const [search, setSearch] = useSearchParams();
  const saved = search.get('query');
  const typed = search.get('text');
  const queries = view?.queries ?? [];
  const chosen = queries.find((query) => query.name === saved) ?? null;
  const [text, setText] = useState(typed ?? '');
  const [head, setHead] = useState(search.get('head') ?? '');
  const [values, setValues] = useState<Record<string, string>>(() =>
    Object.fromEntries(Array.from(search).flatMap(([name, value]) => (name.startsWith('p.') ? [[name.slice(2), value]] : []))),
  );
  const [shown, setShown] = useState<Shown>({ kind: 'none' });
  const [run, running] = useRunMutation();
  const [span, setSpan] = useState<{ start: number; end: number } | null>(null);
  const under = useRef<ReturnType<typeof run> | null>(null);

  const pick = useCallback(
    (name: string) => {
      const query = view?.queries.find((candidate) => candidate.name === name);
      if (query === undefined) return;
      setText(query.body);
      setHead(query.head);
      setValues({});
      setShown({ kind: 'none' });
      setSearch({ query: name }, { replace: true });
    },
    [view, setSearch],
  );

  const started = useRef(false);
  useEffect(() => {
    if (started.current || view === null) return;
    started.current = true;
    if (typed !== null) return;
    const first = view.queries.find((query) => query.name === saved) ?? view.queries[0];
    if (first !== undefined) pick(first.name);
    else if (view.entities[0] !== undefined) setText(`from ${view.entities[0].name}\nlimit 20`);
  }, [view, typed, saved, pick]);

  const syntax = useMemo(() => parseQuery(text), [text]);
  const parameters: readonly ParameterView[] = useMemo(
    () => (chosen !== null && chosen.head === head ? chosen.parameters : headParameters(head, view)),
    [chosen, head, view],
  );
  const findings: readonly Marked[] = shown.kind === 'result' && !shown.result.ok ? shown.result.findings : syntax.findings;

  const start = async () => {
    setSpan(null);
    const unchanged = chosen !== null && chosen.body === text && chosen.head === head;
    setSearch(
      {
        ...(unchanged ? { query: chosen.name } : { text, ...(head === '' ? {} : { head }) }),
        ...Object.fromEntries(Object.entries(values).map(([name, value]) => [`p.${name}`, value])),
      },
      { replace: true },
    );
    await untilSaved(() => store.getState().workspace);
    const asked = run({
      tree,
      run: {
        query: { kind: 'text', text, head },
        parameters: Object.fromEntries(parameters.map(({ name }) => [name, values[name] ?? null])),
      },
    });
    under.current = asked;
    const outcome = await asked;
    if (under.current !== asked) return;
    setShown(
      outcome.data === undefined
        ? { kind: 'failed', message: failureMessage(outcome.error) }
        : { kind: 'result', result: outcome.data },
    );
  };
  const stop = () => {
    under.current?.abort();
    under.current = null;
    setShown({ kind: 'failed', message: 'Stopped.' });
  };

  return (
    <Panes
      name="try"
      direction="vertical"
      share={30}
      first={
        <div className="grid h-full grid-cols-[180px_minmax(0,1fr)_264px]">
          <nav aria-label="Saved queries" className="overflow-auto border-r border-line py-2">
            <h2 className="px-4 pb-1 font-serif text-ink-2 italic">Saved in the text</h2>
            {queries.length === 0 && <p className="px-4 text-small text-ink-2">None yet. A “query” in the text stands here.</p>}
            {queries.map((query) => (
              <button
                key={query.name}
                type="button"
                title={query.note ?? undefined}
                aria-current={query.name === saved}
                className={`block w-full truncate px-4 py-1 text-left font-mono text-small ${query.name === saved ? 'bg-wash' : 'hover:bg-ground'}`}
                onClick={() => pick(query.name)}
              >
                {query.name}
              </button>
            ))}
          </nav>
          <Editor
            text={text}
            label="Query"
            colours={syntax.colours}
            findings={findings}
            selected={span}
            selectedKey={`${span?.start} ${span?.end}`}
            numbers={false}
            onChange={setText}
            onRun={() => void start()}
          />
          <div className="overflow-auto border-l border-line p-4">
            <Parameters
              tree={tree}
              parameters={parameters}
              head={head}
              values={values}
              onHead={setHead}
              onChange={(name, value) => setValues((before) => ({ ...before, [name]: value }))}
            />
            {running.isLoading ? (
              <Button className="mt-4 w-full" onClick={stop}>
                Stop
              </Button>
            ) : (
              <Button strong className="mt-4 w-full" disabled={text.trim() === ''} onClick={() => void start()}>
                Run <kbd className="ml-2 font-mono text-small opacity-80">Ctrl ↵</kbd>
              </Button>
            )}
            {saving !== 'saved' && (
              <p className="mt-2 text-small text-ink-2">The text is being saved; the run waits for its rows.</p>
            )}
          </div>
        </div>
      }
      second={
        <div className="flex h-full min-h-0 flex-col bg-sheet">
          <Summary shown={shown} loading={running.isLoading} />
          <div className="min-h-0 flex-1">
            <Panes
              name="answer"
              direction="horizontal"
              share={54}
              first={<AnswerPane result={shown.kind === 'result' ? shown.result : null} view={view} />}
              second={<LogPane result={shown.kind === 'result' ? shown.result : null} onGo={setSpan} />}
            />
          </div>
        </div>
      }
    />
  );
}

/** One sentence on top of it all. */
function Summary({ shown, loading }: { readonly shown: Shown; readonly loading: boolean }) {
  return (
    <div role="status" aria-label="Outcome" className="shrink-0 border-b border-line-2 px-5 py-2.5 font-serif text-[16px]">
      {loading ? 'Running…' : <Outcome shown={shown} />}
    </div>
  );
}

function Outcome({ shown }: { readonly shown: Shown }) {
  if (shown.kind === 'none')
    return <span className="text-ink-2 italic">Run the query to see its rows, and every statement that brought them.</span>;
  if (shown.kind === 'failed') return <span className="whitespace-pre-wrap text-harm">{shown.message}</span>;
  const { result } = shown;
  if (!result.ok) {
    const messages = [
      ...result.findings
        .filter((finding) => finding.weight === 'error' || result.findings.length === 1)
        .map((finding) => finding.message),
      ...result.problems,
    ];
    return (
      <span className="whitespace-pre-wrap text-harm">
        {messages.join('\n') || result.findings.map((finding) => finding.message).join('\n')}
      </span>
    );
  }
  const count = result.log.length;
  const loads = result.log.filter((entry) => entry.path !== '').reduce((sum, entry) => sum + entry.rows, 0);
  return (
    <>
      <strong>
        {count} statement{count === 1 ? '' : 's'}
      </strong>
      :{' '}
      {result.cardinality === 'count'
        ? 'a count'
        : `${result.rows.toLocaleString('en')} row${result.rows === 1 ? '' : 's'} of ${result.entity}`}
      {loads > 0 && (
        <>
          , and {loads.toLocaleString('en')} loaded with {result.rows === 1 ? 'it' : 'them'}
        </>
      )}
      .
      {result.cuts.map(({ path, limit }) => (
        <span key={path} className="ml-2 text-to-many">
          ▲ Cut at {limit.toLocaleString('en')} rows{path === '' ? '' : ` of ${path}`}; there are more.
        </span>
      ))}
    </>
  );
}

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { RunResult } from '../../../contract/index.js';
import { type Finding, parseQuery } from '../../../core/notation/index.js';
import { failureMessage, useRunMutation } from '../../app/api.js';
import { useCommands } from '../../app/commands.js';
import { askDesign } from '../../app/design-client.js';
import { untilSaved } from '../../app/saving.js';
import { store, useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { Editor } from '../../parts/editor.js';
import type { Marked } from '../../parts/editor-props.js';
import { Panes } from '../../parts/panes.js';
import type { ParameterView } from '../../workers/design-view.js';
import { AnswerPane } from './answer.js';
import { compare } from './compare.js';
import { headParameters } from './head.js';
import { LogPane } from './log.js';
import { type Shown, Summary } from './outcome.js';
import { Parameters } from './parameters.js';
import { Keep, Queries } from './queries.js';
import { remember, type Tried, triedOf } from './tried.js';

type Answered = Extract<RunResult, { ok: true }>;

const CALM = 250;
const NONE: readonly never[] = [];

/** Try: a query on top, its answer below, and beside it the log of every statement. */
export function TryScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const saving = useAppSelector((state) => state.workspace.saving.kind);
  const [search, setSearch] = useSearchParams();
  const saved = search.get('query');
  const typed = search.get('text');
  const queries = view?.queries ?? NONE;
  const chosen = queries.find((query) => query.name === saved) ?? null;
  const [text, setText] = useState(typed ?? '');
  const [head, setHead] = useState(search.get('head') ?? '');
  const [values, setValues] = useState<Record<string, string>>(() =>
    Object.fromEntries(Array.from(search).flatMap(([name, value]) => (name.startsWith('p.') ? [[name.slice(2), value]] : []))),
  );
  /** The query of the text that what stands here began with. */
  const [origin, setOrigin] = useState<string | null>(null);
  const [shown, setShown] = useState<Shown>({ kind: 'none' });
  const [before, setBefore] = useState<Answered | null>(null);
  const [tried, setTried] = useState<readonly Tried[]>(() => triedOf(tree));
  const [run, running] = useRunMutation();
  const [span, setSpan] = useState<{ start: number; end: number } | null>(null);
  const under = useRef<ReturnType<typeof run> | null>(null);

  const show = useCallback((nextText: string, nextHead: string, nextValues: Readonly<Record<string, string>>) => {
    setText(nextText);
    setHead(nextHead);
    setValues({ ...nextValues });
    setShown({ kind: 'none' });
    setBefore(null);
  }, []);
  const pick = useCallback(
    (name: string, given: Readonly<Record<string, string>> = {}) => {
      const query = view?.queries.find((candidate) => candidate.name === name);
      if (query === undefined) return;
      show(query.body, query.head, given);
      setOrigin(name);
      setSearch(
        (old) => {
          const params = new URLSearchParams(old);
          for (const name of Array.from(params.keys()))
            if (Object.keys(given).length === 0 || !name.startsWith('p.')) params.delete(name);
          params.set('query', name);
          return params;
        },
        { replace: true },
      );
    },
    [view, setSearch, show],
  );

  // The address is followed whenever it changes, unless what it asks for stands here already.
  const address = typed === null ? `query ${saved}` : `text ${typed}`;
  const followed = useRef<string | null>(null);
  useEffect(() => {
    if (view === null || followed.current === address) return;
    const first = followed.current === null;
    followed.current = address;
    if (typed !== null) {
      if (typed !== text) {
        show(typed, search.get('head') ?? '', {});
        setOrigin(null);
      }
      return;
    }
    const query = view.queries.find(({ name }) => name === saved) ?? (first ? view.queries[0] : undefined);
    if (query === undefined) {
      if (first && view.entities[0] !== undefined) setText(`from ${view.entities[0].name}\nlimit 20`);
    } else if (query.body !== text || query.head !== head) pick(query.name, first ? values : {});
  }, [view, address, typed, saved, pick, show, search, text, head, values]);

  const syntax = useMemo(() => parseQuery(text), [text]);
  const meant = useMeaning(text, head, view?.text ?? null);
  const parameters: readonly ParameterView[] = useMemo(
    () => (chosen !== null && chosen.head === head ? chosen.parameters : headParameters(head, view)),
    [chosen, head, view],
  );
  const findings: readonly Marked[] =
    shown.kind === 'result' && !shown.result.ok ? shown.result.findings : (meant ?? syntax.findings);

  const start = async () => {
    setSpan(null);
    const unchanged = chosen !== null && chosen.body === text && chosen.head === head;
    setSearch(
      {
        ...(unchanged ? { query: chosen.name } : { text, ...(head === '' ? {} : { head }) }),
        ...Object.fromEntries(
          parameters.flatMap(({ name }) => (values[name] === undefined ? [] : [[`p.${name}`, values[name]]])),
        ),
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
    if (shown.kind === 'result' && shown.result.ok) setBefore(shown.result);
    if (outcome.data === undefined) {
      setShown({ kind: 'failed', message: failureMessage(outcome.error) });
      return;
    }
    setShown({ kind: 'result', result: outcome.data });
    if (outcome.data.ok) {
      const said = `${outcome.data.rows} rows, ${outcome.data.log.length} statements`;
      setTried(remember(tree, { text, head, values, at: Date.now(), outcome: said }));
    }
  };
  const stop = () => {
    under.current?.abort();
    under.current = null;
    setShown({ kind: 'failed', message: 'Stopped. The statement was ended; nothing else was touched.' });
  };

  const latest = useRef({ start, stop });
  latest.current = { start, stop };
  const wantsRun = search.get('run') === '1';
  useEffect(() => {
    if (wantsRun && text !== '') void latest.current.start();
  }, [wantsRun, text]);
  const commands = useMemo(
    () => [
      {
        id: 'run',
        title: 'Run the query',
        group: 'Run' as const,
        words: 'execute try go',
        keys: 'Ctrl ↵',
        run: () => void latest.current.start(),
      },
      {
        id: 'stop',
        title: 'Stop what runs',
        group: 'Run' as const,
        words: 'cancel abort kill',
        run: () => latest.current.stop(),
      },
    ],
    [],
  );
  useCommands('try', commands);

  const answered = shown.kind === 'result' && shown.result.ok ? shown.result : null;
  const comparison = useMemo(
    () =>
      answered === null || before === null
        ? null
        : compare(before, answered, (entity) => view?.entities.find(({ name }) => name === entity)?.keyFields ?? null),
    [answered, before, view],
  );
  return (
    <Panes
      name="try"
      direction="vertical"
      share={33}
      first={
        <div className="grid h-full grid-cols-[196px_minmax(0,1fr)_264px]">
          <Queries
            queries={queries}
            saved={saved}
            tried={tried}
            onPick={(name) => pick(name)}
            onAgain={(again) => {
              show(again.text, again.head, again.values);
              setOrigin(null);
              setSearch({ text: again.text, ...(again.head === '' ? {} : { head: again.head }) }, { replace: true });
            }}
          />
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
            complete={(query, offset) => askDesign('complete query', { text: view?.text ?? '', query, head, offset })}
          />
          <div className="overflow-auto border-l border-line p-4">
            <Parameters
              tree={tree}
              parameters={parameters}
              head={head}
              values={values}
              onHead={setHead}
              onChange={(name, value) => setValues((old) => ({ ...old, [name]: value }))}
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
            {(chosen === null || chosen.body !== text || chosen.head !== head) && (
              <Keep
                key={tree}
                text={text}
                head={head}
                changed={
                  queries.find((query) => query.name === origin && (query.body !== text || query.head !== head))?.name ?? null
                }
                onKept={(name) => setSearch({ query: name }, { replace: true })}
              />
            )}
          </div>
        </div>
      }
      second={
        <div className="flex h-full min-h-0 flex-col bg-sheet">
          <Summary shown={shown} loading={running.isLoading} comparison={comparison} />
          <div className="min-h-0 flex-1">
            <Panes
              name="answer"
              direction="horizontal"
              share={54}
              first={<AnswerPane result={shown.kind === 'result' ? shown.result : null} view={view} />}
              second={<LogPane result={shown.kind === 'result' ? shown.result : null} before={before} onGo={setSpan} />}
            />
          </div>
        </div>
      }
    />
  );
}

/** What is wrong with a query's meaning, found a moment after the last keystroke; null until it is known. */
function useMeaning(query: string, head: string, text: string | null): readonly Finding[] | null {
  const [known, setKnown] = useState<{ query: string; findings: readonly Finding[] } | null>(null);
  useEffect(() => {
    if (text === null || query.trim() === '') return;
    let current = true;
    const timer = setTimeout(() => {
      void askDesign('check query', { text, query, head }).then((findings) => {
        if (current) setKnown({ query, findings });
      });
    }, CALM);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [query, head, text]);
  return known?.query === query ? known.findings : null;
}

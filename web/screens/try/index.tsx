import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { RunResult } from '../../../contract/index.js';
import { applied } from '../../../core/edits/index.js';
import { parseQuery } from '../../../core/notation/index.js';
import { useCommands } from '../../app/commands.js';
import { askDesign } from '../../app/design-client.js';
import { spokenBy } from '../../app/spoken-by.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Editor } from '../../parts/editor.js';
import type { Marked } from '../../parts/editor-props.js';
import { Panes } from '../../parts/panes.js';
import type { DesignView } from '../../workers/design-view.js';
import { AnswerPane } from './answer.js';
import { compare } from './compare.js';
import { LogPane } from './log.js';
import { type Panel, Summary } from './outcome.js';
import { Queries } from './queries.js';
import { QuerySettings } from './query-settings.js';
import { useDraft } from './use-draft.js';
import { useMeaning } from './use-meaning.js';
import { type Runs, useRun } from './use-run.js';
import { Warnings } from './warnings.js';

const WaysPanel = lazy(() => import('./ways.js'));
const LogDialog = lazy(() => import('./log-dialog.js'));
const ReadsPanel = lazy(() => import('./reads.js'));

/** Try: a query on top, its answer below, and beside it the log of every statement. */
export function TryScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const dialect = useAppSelector(({ workspace }) => (workspace.tree === null ? null : spokenBy(workspace.tree)));
  const unsaved = useAppSelector((state) => state.workspace.saving.kind !== 'saved');
  const [search, setSearch] = useSearchParams();
  const runs = useRun(tree);
  const draft = useDraft(view, runs.forget);
  /** What of the query a statement of the log comes from. */
  const [span, setSpan] = useState<{ start: number; end: number } | null>(null);
  const [logging, setLogging] = useState(false);
  const start = () => {
    setSpan(null);
    draft.tell();
    void runs.start(draft);
  };
  const mend = (text: string) => {
    draft.write(text);
    void runs.start({ ...draft, text });
  };
  useRunCommands(start, runs.stop, search.get('run') === '1' && draft.text !== '');

  const { text, head } = draft;
  const syntax = useMemo(() => parseQuery(text), [text]);
  const meant = useMeaning(text, head, view?.text ?? null);
  const result = runs.shown.kind === 'result' ? runs.shown.result : null;
  const findings: readonly Marked[] = result?.ok === false ? result.findings : (meant ?? syntax.findings);
  return (
    <>
      {logging && (
        <Suspense fallback={null}>
          <LogDialog
            text={view?.text ?? ''}
            dialect={dialect}
            onTry={(query) => {
              draft.write(query);
              setLogging(false);
            }}
            onClose={() => setLogging(false)}
          />
        </Suspense>
      )}
      <Panes
        name="try"
        direction="vertical"
        share={33}
        first={
          <div className="grid h-full grid-cols-[196px_minmax(0,1fr)_264px]">
            <Queries
              queries={view?.queries ?? NONE}
              saved={draft.chosen?.name ?? null}
              tried={runs.tried}
              onPick={draft.pick}
              onAgain={draft.takeUp}
              onLog={() => setLogging(true)}
            />
            <Editor
              text={text}
              label="Query"
              colours={syntax.colours}
              findings={findings}
              selected={span}
              selectedKey={`${span?.start} ${span?.end}`}
              numbers={false}
              onChange={draft.write}
              onRun={start}
              complete={(query, offset) => askDesign('complete query', { text: view?.text ?? '', query, head, offset })}
            />
            <QuerySettings
              tree={tree}
              draft={draft}
              running={runs.running}
              unsaved={unsaved}
              onRun={start}
              onStop={runs.stop}
              onKept={(name) => setSearch({ query: name }, { replace: true })}
            />
          </div>
        }
        second={
          <Answered
            tree={tree}
            runs={runs}
            view={view}
            text={text}
            onGo={setSpan}
            onMend={mend}
            onMeasure={() => void runs.start(draft, true)}
          />
        }
      />
    </>
  );
}

const NONE: readonly never[] = [];

/** Offers to run and to stop, and runs at once where the address says so. */
function useRunCommands(start: () => void, stop: () => void, atOnce: boolean): void {
  const latest = useRef({ start, stop });
  latest.current = { start, stop };
  useEffect(() => {
    if (atOnce) latest.current.start();
  }, [atOnce]);
  const commands = useMemo(
    () => [
      {
        id: 'run',
        title: 'Run the query',
        group: 'Run' as const,
        words: 'execute try go',
        keys: 'Ctrl ↵',
        run: () => latest.current.start(),
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
}

interface AnsweredProps {
  readonly tree: string;
  readonly runs: Runs;
  readonly view: DesignView | null;
  /** The query as it stands in the editor. */
  readonly text: string;
  onMeasure(): void;
  onGo(span: { readonly start: number; readonly end: number }): void;
  onMend(text: string): void;
}

/** What came of the last run: a sentence, the rows, and every statement that brought them. */
function Answered({ tree, runs, view, text, onGo, onMend, onMeasure }: AnsweredProps) {
  const { shown, running, before, asked } = runs;
  const [open, setOpen] = useState<Panel | null>(null);
  const result = shown.kind === 'result' ? shown.result : null;
  const comparison = useMemo(() => {
    if (result?.ok !== true || before === null) return null;
    return compare(before, result, (entity) => view?.entities.find(({ name }) => name === entity)?.keyFields ?? null);
  }, [result, before, view]);
  return (
    <div className="flex h-full min-h-0 flex-col bg-sheet">
      <Summary
        shown={shown}
        loading={running}
        comparison={comparison}
        panel={{ open, unfold: (panel) => setOpen(panel === open ? null : panel) }}
      />
      {result?.ok === true && !running && open === null && (
        <RunWarnings
          result={result}
          isSame={asked?.query.kind === 'text' && asked.query.text === text}
          {...{ text, onGo, onMend }}
        />
      )}
      {open !== null && asked !== null && result?.ok === true && !running && (
        <Suspense fallback={<p className="px-5 py-3 text-ink-2 italic">It is fetched…</p>}>
          {open === 'ways' && result.loads && <WaysPanel tree={tree} run={asked} onClose={() => setOpen(null)} />}
          {open === 'reads' && <ReadsPanel tree={tree} run={asked} onMend={onMend} onClose={() => setOpen(null)} />}
        </Suspense>
      )}
      <div className="min-h-0 flex-1">
        <Panes
          name="answer"
          direction="horizontal"
          share={54}
          first={<AnswerPane result={result} view={view} />}
          second={<LogPane result={result} before={before} onGo={onGo} onMeasure={running ? null : onMeasure} />}
        />
      </div>
    </div>
  );
}

/** The warnings of the last run. A fix is offered while the text that it edits is the one that was run. */
function RunWarnings({
  result,
  isSame,
  text,
  onGo,
  onMend,
}: {
  readonly result: Extract<RunResult, { ok: true }>;
  readonly isSame: boolean;
} & Pick<AnsweredProps, 'text' | 'onGo' | 'onMend'>) {
  const dispatch = useAppDispatch();
  const design = useAppSelector(({ workspace }) => workspace.text);
  const isSaved = useAppSelector(
    ({ workspace: { saving, revision } }) => saving.kind === 'saved' && revision === result.revision,
  );
  return (
    <Warnings
      warnings={result.warnings}
      canMend={({ of }) => (of === 'query' ? isSame : isSaved)}
      onGo={onGo}
      onMend={({ of, edits, title }) => {
        if (of === 'query') onMend(applied(text, edits));
        else dispatch(textChanged(applied(design, edits), title));
      }}
    />
  );
}

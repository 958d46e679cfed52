import { lazy, Suspense, useMemo, useState } from 'react';
import type { QueryRun, Run, RunResult } from '../../../contract/index.js';
import { applied } from '../../../core/edits/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Panes } from '../../parts/panes.js';
import { AnswerPane } from './answer.js';
import { compare } from './compare.js';
import { LogPane } from './log.js';
import { type Panel, Summary } from './outcome.js';
import type { AskedMore, Runs } from './use-run.js';
import { Warnings } from './warnings.js';

const WaysPanel = lazy(() => import('./ways.js'));
const ReadsPanel = lazy(() => import('./reads.js'));
const BesidePanel = lazy(() => import('./beside-panel.js'));

interface AnsweredProps {
  readonly tree: string;
  readonly runs: Runs;
  readonly view: DesignView | null;
  /** The query as it stands in the editor. */
  readonly text: string;
  /** Where the person is in the query; null where that is nowhere. */
  readonly at: number | null;
  /** Runs it once more, and asks for more; null where there is no more. */
  readonly onMore: ((more: AskedMore) => void) | null;
  onGo(span: { readonly start: number; readonly end: number }): void;
  onMend(text: string): void;
}

/** What came of the last run: a sentence, the rows, and every statement that brought them. */
export function Answered({ tree, runs, view, text, at, onGo, onMend, onMore }: AnsweredProps) {
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
        onTotal={onMore === null ? null : () => onMore({ total: true })}
        hasActors={view !== null && view.actor !== null}
        panel={{ open, unfold: (panel) => setOpen(panel === open ? null : panel) }}
      />
      {result?.ok === true && !running && open === null && (
        <RunWarnings
          result={result}
          isSame={asked?.query.kind === 'text' && asked.query.text === text}
          text={text}
          onGo={onGo}
          onMend={onMend}
        />
      )}
      {open !== null && asked !== null && isOfQuery(asked) && result?.ok === true && !running && (
        <Suspense fallback={<p className="px-5 py-3 text-ink-2 italic">It is fetched…</p>}>
          {open === 'ways' && result.loads && <WaysPanel tree={tree} run={asked} onClose={() => setOpen(null)} />}
          {open === 'beside' && view !== null && (
            <BesidePanel key={result.text} tree={tree} run={asked} result={result} view={view} onClose={() => setOpen(null)} />
          )}
          {open === 'reads' && <ReadsPanel tree={tree} run={asked} onMend={onMend} onClose={() => setOpen(null)} />}
        </Suspense>
      )}
      <div className="min-h-0 flex-1">
        <Panes
          name="answer"
          direction="horizontal"
          share={54}
          first={<AnswerPane result={result} view={view} />}
          second={
            <LogPane
              entries={result?.ok === true ? result.log : NONE}
              before={before}
              onGo={onGo}
              at={at}
              onMeasure={running || onMore === null ? null : () => onMore({ measured: true })}
            />
          }
        />
      </div>
    </div>
  );
}

const NONE: readonly never[] = [];

function isOfQuery(run: Run): run is QueryRun {
  return run.query.kind !== 'sql';
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

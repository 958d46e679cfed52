import { lazy, Suspense, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { spokenBy } from '../../../contract/index.js';
import { TOTAL_PATH } from '../../../core/load/index.js';
import { isCommands, parseCommands, parseQuery } from '../../../core/notation/index.js';
import { askDesign } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';
import { Editor } from '../../parts/editor.js';
import type { Marked } from '../../parts/editor-props.js';
import { Panes } from '../../parts/panes.js';
import { Answered } from './answered.js';
import { CommandSettings } from './command-settings.js';
import { exampleCommand } from './example-command.js';
import type { Seen } from './expected.js';
import type { RunOutcome } from './outcome.js';
import { PlainSqlScreen } from './plain-sql.js';
import { Queries } from './queries.js';
import { QuerySettings } from './query-settings.js';
import { Rehearsed } from './rehearsed.js';
import { useMoreCommands, useRunCommands } from './run-commands.js';
import { useDraft } from './use-draft.js';
import { useMeaning } from './use-meaning.js';
import { useRehearsal } from './use-rehearsal.js';
import { useRun } from './use-run.js';

const LogDialog = lazy(() => import('./log-dialog.js'));

/** Try: queries, or where the address says so, SQL of the database. */
export function TryScreen() {
  const [search] = useSearchParams();
  return search.has('sql') ? <PlainSqlScreen /> : <QueryScreen />;
}

/** A query on top, its answer below, and beside it the log of every statement; or commands, with what they would do. */
function QueryScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const dialect = useAppSelector(({ workspace }) => (workspace.tree === null ? null : spokenBy(workspace.tree)));
  const madeHere = useAppSelector((state) => state.workspace.tree?.kind === 'made');
  const locked = useAppSelector(({ workspace: { database } }) =>
    database?.status === 'ready' ? database.locked : 'The rows are not there yet.',
  );
  const unsaved = useAppSelector((state) => state.workspace.saving.kind !== 'saved');
  const [search, setSearch] = useSearchParams();
  const runs = useRun(tree);
  const draft = useDraft(view, runs.forget);
  /** What of the query a statement of the log comes from. */
  const [span, setSpan] = useState<{ start: number; end: number } | null>(null);
  /** Where the person is in the query. */
  const [at, setAt] = useState<number | null>(null);
  const [logging, setLogging] = useState(false);
  const rehearsals = useRehearsal(tree);
  const { text, head } = draft;
  const isDoing = useMemo(() => isCommands(text), [text]);
  const start = () => {
    setSpan(null);
    draft.tell();
    void (isDoing ? rehearsals.start(text) : runs.start(draft));
  };
  const stop = isDoing ? rehearsals.stop : runs.stop;
  const mend = (text: string) => {
    draft.write(text);
    void runs.start({ ...draft, text });
  };
  const writeSql = () => setSearch({ sql: '' });
  const writeCommands = () => setSearch({ text: exampleCommand(view?.entities ?? NONE) });
  useMoreCommands(() => setLogging(true), writeSql, writeCommands);
  useRunCommands(start, stop, search.get('run') === '1' && text !== '');

  const syntax = useMemo(() => (isDoing ? parseCommands(text) : parseQuery(text)), [text, isDoing]);
  const meant = useMeaning(text, head, view?.text ?? null);
  const shown = isDoing ? rehearsals.shown : runs.shown;
  const result = shown.kind === 'result' ? shown.result : null;
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
              onSql={writeSql}
              onCommands={writeCommands}
            />
            <Editor
              text={text}
              label="Query or commands"
              colours={syntax.colours}
              findings={findings}
              selected={span}
              selectedKey={`${span?.start} ${span?.end}`}
              numbers={false}
              onChange={draft.write}
              onCursor={setAt}
              onRun={start}
              complete={(query, offset) => askDesign('complete query', { text: view?.text ?? '', query, head, offset })}
            />
            {isDoing ? (
              <CommandSettings
                text={text}
                running={rehearsals.running}
                madeHere={madeHere}
                locked={locked}
                onRehearse={start}
                onCarryOut={() => {
                  draft.tell();
                  void rehearsals.start(text, true);
                }}
                onStop={stop}
              />
            ) : (
              <QuerySettings
                view={view}
                seen={seenIn(runs.shown)}
                tree={tree}
                draft={draft}
                running={runs.running}
                unsaved={unsaved}
                onRun={start}
                onStop={stop}
                onKept={(name) => setSearch({ query: name }, { replace: true })}
              />
            )}
          </div>
        }
        second={
          isDoing ? (
            <Rehearsed shown={rehearsals.shown} running={rehearsals.running} at={at} onGo={setSpan} onTakeUp={draft.write} />
          ) : (
            <Answered
              tree={tree}
              runs={runs}
              view={view}
              text={text}
              onGo={setSpan}
              onMend={mend}
              at={at}
              onMore={(more) => void runs.start(draft, more)}
            />
          )
        }
      />
    </>
  );
}

/** What a run brought, as an expectation counts it; null where there is none, or its rows cannot be counted. */
function seenIn(shown: RunOutcome): Seen | null {
  if (shown.kind !== 'result' || !shown.result.ok) return null;
  const { cardinality, rows, log, cuts } = shown.result;
  if (cardinality === 'count' || cardinality === 'exists' || cuts.length > 0) return null;
  const statements = log.filter(({ path }) => path !== TOTAL_PATH).reduce((sum, { times }) => sum + times, 0);
  return { rows, statements };
}

const NONE: readonly never[] = [];

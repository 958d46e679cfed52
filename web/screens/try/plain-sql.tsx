import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { ColouredToken } from '../../../core/notation/index.js';
import { sqlTokens } from '../../../core/sql/index.js';
import { useAppSelector } from '../../app/store.js';
import { Editor } from '../../parts/editor.js';
import { Panes } from '../../parts/panes.js';
import { isSqlKeyword } from '../../parts/sql.js';
import { Answered } from './answered.js';
import { RunButton } from './run-button.js';
import { useRunCommands } from './run-commands.js';
import { useRun } from './use-run.js';

const NONE: readonly never[] = [];

/** SQL of the database, one statement that only reads, with the same answer, log and plan as a query has. */
export function PlainSqlScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const [search, setSearch] = useSearchParams();
  const runs = useRun(tree);
  const [text, setText] = useState(search.get('sql') || exampleOf(view?.entities[0]?.table));
  const colours = useMemo(() => coloursOf(text), [text]);
  const start = () => {
    setSearch({ sql: text }, { replace: true });
    void runs.startSql(text);
  };
  useRunCommands(start, runs.stop, search.get('run') === '1' && text !== '');
  return (
    <Panes
      name="try"
      direction="vertical"
      share={33}
      first={
        <div className="grid h-full grid-cols-[minmax(0,1fr)_264px]">
          <Editor text={text} label="SQL" colours={colours} findings={NONE} numbers={false} onChange={setText} onRun={start} />
          <div className="overflow-auto border-l border-line p-4">
            <h2 className="font-serif text-ink-2 italic">Plain SQL</h2>
            <p className="mt-1 text-small text-ink-2">
              One statement that only reads: select, with, values, or explain of those. Nothing is written, whatever it says.
            </p>
            <RunButton running={runs.running} disabled={text.trim() === ''} onRun={start} onStop={runs.stop} />
            <button type="button" className="mt-3 text-small text-selected hover:underline" onClick={() => setSearch({})}>
              Back to queries
            </button>
          </div>
        </div>
      }
      second={
        <Answered
          tree={tree}
          runs={runs}
          view={view}
          text={text}
          onGo={() => undefined}
          onMend={() => undefined}
          at={null}
          onMore={null}
        />
      }
    />
  );
}

function exampleOf(table: string | undefined): string {
  return table === undefined ? 'select 1' : `select * from ${table} limit 20`;
}

function coloursOf(sql: string): ColouredToken[] {
  return sqlTokens(sql).flatMap(({ kind, text, start, end }): ColouredToken[] => {
    const span = { start, end };
    if (kind === 'word') return isSqlKeyword(text) ? [{ span, class: 'keyword' }] : [];
    return kind === 'string' || kind === 'number' ? [{ span, class: 'text' }] : [];
  });
}

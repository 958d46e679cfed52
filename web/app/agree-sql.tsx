import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { DatabaseState } from '../../contract/index.js';
import { Button } from '../parts/button.js';
import { Dialog } from '../parts/dialog.js';
import { Sql } from '../parts/sql.js';
import { failureMessage, useAgreeToSqlMutation } from './api.js';
import { type Command, useCommands } from './commands.js';
import { useAppSelector } from './store.js';

type Asks = Extract<DatabaseState, { status: 'asks' }>;

/** Opens what a person is asked: whether the SQL that the text states may be run. */
export function AgreeButton({ asks }: { readonly asks: Asks }) {
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? null);
  const [open, setOpen] = useState(false);
  const count = asks.statements.length;
  useCommands(
    'agree to sql',
    useMemo(() => [commandOf(() => setOpen(true))], []),
  );
  return (
    <>
      <button
        type="button"
        className="rounded-sm border border-to-many px-2 py-0.5 text-small whitespace-nowrap text-to-many hover:bg-sheet"
        onClick={() => setOpen(true)}
      >
        ▲ {count} {count === 1 ? 'piece' : 'pieces'} of SQL to agree to
      </button>
      {open && tree !== null && <AgreeDialog tree={tree} asks={asks} onClose={() => setOpen(false)} />}
    </>
  );
}

function commandOf(run: () => void): Command {
  return {
    id: 'agree to sql',
    title: 'Look at the SQL that this text states',
    group: 'Text',
    words: 'kept trigger function agree approve trust run statement',
    run,
  };
}

function AgreeDialog({ tree, asks, onClose }: { readonly tree: string; readonly asks: Asks; onClose(): void }) {
  const { statements, where, powers } = asks;
  const [agree, { error, isLoading }] = useAgreeToSqlMutation();
  const [allTheSame, setAllTheSame] = useState(false);
  const take = async () => {
    const digests = statements.map(({ digest }) => digest);
    const answer = await agree({ tree, agree: { digests, powers: powers !== null } });
    if (answer.data !== undefined) onClose();
  };
  return (
    <Dialog title="SQL that this text states" wide onClose={onClose}>
      <div className="space-y-4 p-5">
        <p>
          The text holds SQL of its own, which would be run on <span className="font-mono text-small">{where}</span> as it stands.
          Nothing is made there before you have looked at it. You are asked once, and again for what changes; on its own SQLite
          file nothing is asked, since it can reach nothing else there.
        </p>
        <ol className="space-y-3">
          {statements.map(({ sql, at, line, reaches, digest }) => (
            <li key={`${line} ${digest}`} className="border border-line">
              <div className="flex items-baseline gap-3 border-b border-line bg-sheet px-3 py-1 text-small">
                <Link to={`/tree/${tree}/design?at=${at}`} className="text-selected hover:underline" onClick={onClose}>
                  line {line}
                </Link>
                {reaches.length === 0 ? (
                  <span className="text-ink-2">names nothing beyond its database</span>
                ) : (
                  <span className="text-harm">✕ {reaches.join('; ')}</span>
                )}
              </div>
              <div className="max-h-64 overflow-auto px-3 py-2">
                <Sql text={sql} label={`SQL of line ${line}`} />
              </div>
            </li>
          ))}
        </ol>
        {powers !== null && (
          <div role="alert" className="border-l-3 border-harm bg-sheet p-3">
            <p className="font-semibold">The login {powers}.</p>
            <p>
              Whatever stands above could do the same in its name. A login that may only create databases of its own would do:
              choose one under the database in use.
            </p>
            <label className="mt-2 flex items-baseline gap-2">
              <input type="checkbox" checked={allTheSame} onChange={(event) => setAllTheSame(event.target.checked)} />
              <span>Run it all the same, as this login</span>
            </label>
          </div>
        )}
        {error !== undefined && (
          <p role="alert" className="border-l-3 border-harm bg-sheet p-3">
            {failureMessage(error)}
          </p>
        )}
        <div className="flex gap-2">
          <Button strong disabled={isLoading || (powers !== null && !allTheSame)} onClick={() => void take()}>
            {isLoading ? 'Running it…' : 'I have read it: run it there'}
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </div>
    </Dialog>
  );
}

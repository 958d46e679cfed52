import { Lock, LockOpen } from 'lucide-react';
import type { DatabaseInUse } from '../../contract/index.js';
import { useLockDatabaseMutation } from './api.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { placed } from './workspace.js';

const ENGINES = { sqlite: 'SQLite', postgres: 'PostgreSQL', mariadb: 'MariaDB' } as const;

/** Which database is in use, in the top bar: its engine, what kind of place it is, and whether it is locked. */
export function DatabaseChip({ onChoose }: { onChoose(): void }) {
  const dispatch = useAppDispatch();
  const tree = useAppSelector((state) => state.workspace.tree);
  const mayWrite = useAppSelector(({ workspace: { database } }) => database?.status === 'ready' && database.locked === null);
  const [lock, { isLoading }] = useLockDatabaseMutation();
  if (tree === null) return null;
  const { inUse, kind, id, arrived } = tree;
  const words = wordsOf(inUse, kind, arrived, mayWrite);
  const isProduction = /prod|live/i.test(inUse.label ?? '');
  const toggle = async () => {
    const answer = await lock({ tree: id, unlocked: !inUse.unlocked });
    if (answer.data !== undefined) dispatch(placed(answer.data));
  };
  return (
    <span className="flex items-center">
      <button
        type="button"
        aria-label={`Database in use: ${words}`}
        title={inUse.address ?? words}
        className="rounded-sm border border-line-2 px-2 py-0.5 text-small whitespace-nowrap text-ink-2 hover:border-ink-3 hover:text-ink"
        onClick={onChoose}
      >
        {words}
      </button>
      {inUse.label !== null && (
        <span
          className={`ml-1.5 rounded-sm px-2 py-0.5 text-small whitespace-nowrap ${isProduction ? 'bg-harm text-label' : 'border border-line-2 text-ink-2'}`}
        >
          {inUse.label}
        </span>
      )}
      {inUse.kind === 'server' && (
        <button
          type="button"
          disabled={isLoading}
          aria-label={inUse.unlocked ? 'Lock the server' : 'Unlock the server'}
          title={
            inUse.unlocked
              ? `Unlocked: ${kind === 'made' ? 'scratch databases are made on this server' : 'rows can be changed on this server'}. Click to lock it`
              : `Locked: nothing is written on this server. Click to let ${kind === 'made' ? 'scratch databases be made' : 'rows be changed'} there`
          }
          className="ml-0.5 rounded-sm p-1 text-ink-2 hover:bg-sheet hover:text-ink"
          onClick={() => void toggle()}
        >
          {inUse.unlocked ? <LockOpen size={14} className="text-to-many" /> : <Lock size={14} />}
        </button>
      )}
    </span>
  );
}

function wordsOf({ kind, dialect }: DatabaseInUse, tree: 'made' | 'brought in', arrived: boolean, mayWrite: boolean): string {
  if (tree === 'brought in' && !arrived) return 'a SQLite file, only looked at';
  const looks = mayWrite ? '' : ', only looked at';
  if (tree === 'brought in')
    return `${kind === 'server' ? ENGINES[dialect] : mayWrite ? 'brought in, a copy' : 'brought in'}${looks}`;
  if (kind === 'own file') return 'scratch database';
  return kind === 'embedded' ? 'scratch on embedded PostgreSQL' : `scratch on ${ENGINES[dialect]}`;
}

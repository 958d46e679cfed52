import { useParams } from 'react-router';
import { failureMessage, useReachQuery } from '../../app/api.js';
import { useAppSelector } from '../../app/store.js';
import { Audit } from './audit.js';
import { Matrix } from './matrix.js';
import { WallsInWords } from './walls-in-words.js';

/** Reach: what each kind of actor sees and may change, entity by entity, and the walls that say so. */
export function ReachScreen() {
  const { tree = '' } = useParams();
  const view = useAppSelector((state) => state.workspace.view);
  const database = useAppSelector((state) => state.workspace.database);
  const ready = database?.status === 'ready';
  const { data, error, isFetching } = useReachQuery({ tree }, { skip: !ready });
  if (view === null) return <p className="p-6 text-ink-2">Reading the text…</p>;
  return (
    <div className="h-full overflow-auto px-8 py-5">
      <h2 className="font-serif text-[22px] font-semibold">Reach</h2>
      {view.actor === null ? (
        <NoWall />
      ) : !ready ? (
        <p className="mt-3 text-ink-2">The rows are being made…</p>
      ) : error !== undefined ? (
        <p role="alert" className="mt-3 text-harm">
          {failureMessage(error)}
        </p>
      ) : data === undefined ? (
        <p className="mt-3 text-ink-2">Counting what each sees…</p>
      ) : !data.ok ? (
        <p role="alert" className="mt-3 text-harm">
          {data.problem}
        </p>
      ) : (
        <div className={`mt-3 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-8 ${isFetching ? 'opacity-60' : ''}`}>
          <div>
            <Matrix tree={tree} reach={data} />
            {data.walls.length > 0 && <Audit tree={tree} />}
          </div>
          <WallsInWords tree={tree} reach={data} />
        </div>
      )}
    </div>
  );
}

/** What a text without walls could say. */
function NoWall() {
  return (
    <div className="mt-3 max-w-[64ch] border border-line bg-label px-6 py-5">
      <p className="font-serif text-title">Nothing keeps anybody from any row.</p>
      <p className="mt-2 text-ink-2">
        A wall keeps rows from whoever is at work, wherever they are reached: in lists, by a key, loaded along, counted, written.
        Say whose rows are at work, and what is theirs:
      </p>
      <pre className="mt-3 border border-line bg-sheet px-4 py-3 font-mono text-small">
        {`tree 'A library'
  actor Player

wall own_branch
  Loan where borrower.branch = me.branch
  unless me.steward`}
      </pre>
    </div>
  );
}

import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { ExpectationsHeld } from '../../../contract/index.js';
import { failureMessage, useExpectationsQuery } from '../../app/api.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';

type Run = Extract<ExpectationsHeld, { ok: true }>['runs'][number];

/** What the text expects of its queries, and of commands, held against the database in use; a server when a person says so. */
export function AsExpected({ count }: { readonly count: number }) {
  const { tree = '' } = useParams();
  const inUse = useAppSelector((state) => state.workspace.tree?.inUse ?? null);
  const ready = useRowsReady();
  const [asked, setAsked] = useState(false);
  const waits = inUse?.kind === 'server' && !asked;
  const { data, error, isFetching, refetch } = useExpectationsQuery({ tree }, { skip: !ready || waits || count === 0 });
  if (count === 0) return null;
  const failed = data?.ok === true ? data.runs.filter((run) => !isHeld(run)) : [];
  return (
    <section aria-label="As expected" className="mt-6">
      <h3 className="flex items-baseline gap-3 font-serif text-title font-semibold">
        As expected
        {!waits && ready && (
          <button
            type="button"
            disabled={isFetching}
            className="font-sans text-small font-normal text-selected hover:underline"
            onClick={() => void refetch()}
          >
            Hold them again
          </button>
        )}
      </h3>
      {waits ? (
        <Button strong className="mt-2" disabled={!ready} onClick={() => setAsked(true)}>
          Hold {count} {count === 1 ? 'expectation' : 'expectations'} against {inUse?.address}
        </Button>
      ) : error !== undefined ? (
        <p className="mt-2 text-harm">{failureMessage(error)}</p>
      ) : data === undefined ? (
        <p role="status" className="mt-2 text-ink-2">
          Holding them against the rows…
        </p>
      ) : data.ok ? (
        <div className={isFetching ? 'opacity-60' : ''}>
          <p className="mt-1 text-ink-2">
            {failed.length === 0
              ? `✓ ${data.runs.length} ${data.runs.length === 1 ? 'expectation holds' : 'expectations hold'}. What commands wrote was taken back.`
              : `${failed.length} of ${data.runs.length} expectations ${failed.length === 1 ? 'does' : 'do'} not hold.`}
          </p>
          <ul>
            {data.runs.map((run) => (
              <RunItem key={run.span.start} run={run} />
            ))}
          </ul>
        </div>
      ) : (
        <p className="mt-2 text-ink-2">{data.problem}</p>
      )}
    </section>
  );
}

/** Whether all of an expectation holds. */
export function isHeld({ lines, problem }: Run): boolean {
  return problem === null && lines.every(({ broken }) => broken === null);
}

/** An expectation with each of its lines, and why one does not hold. */
export function RunItem({ run }: { readonly run: Run }) {
  const { tree = '' } = useParams();
  const { label, lines, problem, span } = run;
  const held = isHeld(run);
  return (
    <li className="border-b border-line py-1.5">
      <Link to={`/tree/${tree}/design?at=${span.start}`} className="font-mono text-small hover:text-selected">
        <span className={held ? 'text-fine' : 'text-harm'}>{held ? '✓' : '✕'}</span> {label}
      </Link>
      {problem !== null && <p className="pl-4 text-small text-harm">{problem}</p>}
      <ul className="pl-4">
        {lines.map(({ text, span: at, broken }) => (
          <li key={at.start} className="text-small">
            <span className="font-mono text-ink-2">{text}</span>
            {broken !== null && <span className="ml-3 text-harm">{broken}</span>}
          </li>
        ))}
      </ul>
    </li>
  );
}

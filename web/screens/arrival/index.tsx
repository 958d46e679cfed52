import { type ReactNode, useState } from 'react';
import { Link, useParams } from 'react-router';
import type { Arrival } from '../../../contract/index.js';
import { withArticle } from '../../../core/notation/index.js';
import { failureMessage, useArrivalQuery, useEntityCountsQuery } from '../../app/api.js';
import { rowsLink } from '../../app/links.js';
import { useAppSelector } from '../../app/store.js';
import { Again } from './again.js';
import { SmallMap } from './small-map.js';

/** How a database came in: what became of it, a first look, and what to do next. */
export function ArrivalScreen() {
  const { tree = '' } = useParams();
  const { data: arrival, error, isLoading } = useArrivalQuery(tree);
  if (isLoading) return <p className="p-8 text-ink-2">Looking up how it came in…</p>;
  if (arrival === undefined)
    return (
      <p role="alert" className="p-8">
        {failureMessage(error)} A tree that was made here, or brought in by an earlier version, has no such page.{' '}
        <Link to={`/tree/${tree}/design`} className="text-selected underline">
          Go to its design
        </Link>
      </p>
    );
  return (
    <div className="h-full overflow-auto">
      <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-8 p-8">
        <div className="space-y-6">
          <header>
            <h2 className="font-serif text-[22px] font-semibold">What came in</h2>
            <p className="mt-1 text-ink-2">{sourceOf(arrival)}</p>
            <Summary summary={arrival.summary} />
          </header>
          <SmallMap tree={tree} />
          <Next tree={tree} arrival={arrival} />
        </div>
        <div className="space-y-6">
          <Report arrival={arrival} />
          <Counts tree={tree} />
          <Again tree={tree} arrival={arrival} />
        </div>
      </div>
    </div>
  );
}

function sourceOf({ source, at, copied, script }: Arrival): string {
  const when = new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  if (script !== null) return `${source.name}, on ${when}. It was run into a database of its own, which is looked at.`;
  if (source.kind === 'server') return `${source.name}, on ${when}. It is looked at on the server.`;
  if (source.kind === 'upload') return `${source.name}, uploaded on ${when}. A copy of it is looked at.`;
  if (copied !== null) return `${source.name}, on ${when}. A copy is looked at: ${copied}.`;
  return `${source.name}, on ${when}. It is looked at where it lies, and never written.`;
}

function Summary({ summary: { was, became } }: Pick<Arrival, 'summary'>) {
  return (
    <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      <dt className="text-ink-2">The database has</dt>
      <dd>{was}</dd>
      <dt className="text-ink-2">The text says</dt>
      <dd>{became}</dd>
    </dl>
  );
}

function Report({ arrival: { kept, report, script } }: { readonly arrival: Arrival }) {
  return (
    <section aria-labelledby="report" className="space-y-3">
      <h3 id="report" className="font-serif text-title font-semibold">
        Report
      </h3>
      {report.length === 0 ? (
        <p className="border-l-3 border-fine bg-label p-3">
          {wasWhole(script)
            ? 'Nothing is lost. The script of this text makes a database whose catalogue is the same.'
            : 'Of what ran nothing is lost: the script of this text makes a database whose catalogue is the same.'}
        </p>
      ) : (
        <Lines title={`Not carried: ${report.length}`} lines={report} colour="border-harm" />
      )}
      {script !== null && (
        <div className={`border-l-3 bg-label p-3 ${wasWhole(script) ? 'border-fine' : 'border-to-many'}`}>
          <p>
            Of the script’s statements {script.made.toLocaleString('en')} ran
            {script.failures > 0 && `, and ${script.failures.toLocaleString('en')} failed`}.
          </p>
          <ul className="mt-1 max-h-48 space-y-1 overflow-auto text-small">
            {script.failed.map(({ line, message, sql }) => (
              <li key={`${line} ${message}`} title={sql}>
                Line {line}: {message}
              </li>
            ))}
            {script.refused.map(({ line, sql }) => (
              <li key={`${line} ${sql}`}>
                Line {line} was not run, since it reaches beyond the new database: {sql}
              </li>
            ))}
            {script.leftOut.slice(0, MOST_LINES).map(({ line, sql }) => (
              <li key={`${line} ${sql}`}>
                Line {line} was left out, since it{' '}
                {/^(grant|revoke)\b/i.test(sql) ? 'says who may do what' : 'begins with no word that is known here'}: {sql}
              </li>
            ))}
            {script.leftOut.length > MOST_LINES && <li>and {script.leftOut.length - MOST_LINES} more that were left out</li>}
          </ul>
        </div>
      )}
      {kept.length > 0 && (
        <Lines title={`Kept as SQL, since the notation has no word for it: ${kept.length}`} lines={kept} colour="border-line-2" />
      )}
    </section>
  );
}

const MOST_LINES = 50;

/** Whether all of a script ran; of a database that was no script, too. */
function wasWhole(script: Arrival['script']): boolean {
  return script === null || (script.failures === 0 && script.refused.length === 0 && script.leftOut.length === 0);
}

function Lines({ title, lines, colour }: { readonly title: string; readonly lines: readonly string[]; readonly colour: string }) {
  return (
    <details open={lines.length < 9} className={`border-l-3 bg-label p-3 ${colour}`}>
      <summary className="cursor-pointer">{title}</summary>
      <ul className="mt-2 max-h-56 space-y-1 overflow-auto text-small">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </details>
  );
}

/** How many rows there are of each entity, the most first. */
function Counts({ tree }: { readonly tree: string }) {
  const { data, isLoading } = useEntityCountsQuery({ tree });
  const [all, setAll] = useState(false);
  const counts = Object.entries(data?.rows ?? {}).sort(([, a], [, b]) => b - a);
  const most = Math.max(1, ...counts.map(([, count]) => count));
  const shown = all ? counts : counts.slice(0, 8);
  return (
    <section aria-labelledby="counts">
      <h3 id="counts" className="font-serif text-title font-semibold">
        Rows
      </h3>
      {isLoading && <p className="mt-2 text-ink-2">Counting…</p>}
      <ul className="mt-2 border border-line bg-label">
        {shown.map(([entity, count]) => (
          <li key={entity}>
            <Link
              to={rowsLink(tree, entity)}
              className="grid grid-cols-[minmax(0,1fr)_96px_72px] items-center gap-3 border-b border-line px-3 py-1 hover:bg-wash"
            >
              <span className="truncate">{entity}</span>
              <span aria-hidden className="h-1.5 bg-sheet">
                <span className="block h-full bg-to-many" style={{ width: `${(count / most) * 100}%` }} />
              </span>
              <span className="text-right font-mono text-small">{count.toLocaleString('en')}</span>
            </Link>
          </li>
        ))}
      </ul>
      {counts.length > shown.length && (
        <button type="button" className="mt-1 text-small text-selected hover:underline" onClick={() => setAll(true)}>
          All {counts.length}
        </button>
      )}
    </section>
  );
}

/** What one would do next, on this database. */
function Next({ tree, arrival }: { readonly tree: string; readonly arrival: Arrival }) {
  const view = useAppSelector((state) => state.workspace.view);
  const owner = view?.entities.find((entity) => entity.ends.some(({ many }) => many));
  const role = owner?.ends.find(({ many }) => many);
  const query = owner === undefined || role === undefined ? null : `from ${owner.name}\nload ${role.name}\nlimit 50`;
  return (
    <section aria-labelledby="next">
      <h3 id="next" className="font-serif text-title font-semibold">
        Next
      </h3>
      <ul className="mt-2 grid grid-cols-3 gap-3">
        <Step to={`/tree/${tree}/design`} title="Read the text">
          Name the roles as you speak of them; a rename moves no data. Write a note where a table needs one.
        </Step>
        <Step to={owner === undefined ? `/tree/${tree}/rows` : rowsLink(tree, owner.name)} title="Walk its rows">
          {owner === undefined
            ? 'Look through a table.'
            : `From ${withArticle(owner.name)} to its ${role?.name ?? 'kin'}, and back.`}
        </Step>
        <Step
          to={query === null ? `/tree/${tree}/try` : `/tree/${tree}/try?${new URLSearchParams({ text: query }).toString()}`}
          title="Load across a relation"
        >
          {query === null ? (
            'Ask for rows with what belongs to them.'
          ) : (
            <code className="font-mono text-small">load {role?.name}</code>
          )}{' '}
          See the statements that it takes.
        </Step>
      </ul>
      {arrival.kept.length > 0 && (
        <p className="mt-3 text-small text-ink-2">
          What is kept as SQL stands in the text below its table, behind the word kept.
        </p>
      )}
    </section>
  );
}

function Step({ to, title, children }: { readonly to: string; readonly title: string; readonly children: ReactNode }) {
  return (
    <li>
      <Link to={to} className="block h-full border border-line-2 bg-label p-3 hover:border-selected">
        <span className="font-semibold text-selected">{title}</span>
        <span className="mt-1 block text-small text-ink-2">{children}</span>
      </Link>
    </li>
  );
}

import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { LiveRequestTold } from '../../../contract/index.js';
import { workedAs } from '../../app/actor.js';
import { useAppDispatch } from '../../app/store.js';
import { Sql } from '../../parts/sql.js';

/** The requests that came to the endpoint, the newest first: what each asked of the database. */
export function Requests({ requests, base }: { readonly requests: readonly LiveRequestTold[]; readonly base: string }) {
  const [open, setOpen] = useState<number | null>(null);
  return (
    <section aria-label="Requests" className="mt-4">
      <h3 className="font-serif text-title font-semibold">Requests</h3>
      {requests.length === 0 ? (
        <p className="mt-1 text-ink-2">None has come yet. What a client asks stands here, with its statements.</p>
      ) : (
        <ul className="mt-1 divide-y divide-line border-y border-line">
          {requests.map((request) => (
            <li key={request.number}>
              <button
                type="button"
                aria-expanded={open === request.number}
                className="flex w-full items-baseline gap-2 py-1 text-left hover:bg-wash"
                onClick={() => setOpen(open === request.number ? null : request.number)}
              >
                <span className={`w-9 font-mono text-small ${request.status < 400 ? 'text-fine' : 'text-harm'}`}>
                  {request.status}
                </span>
                <span className="font-mono text-small font-bold">{request.method}</span>
                <span className="min-w-0 flex-1 truncate font-mono text-small">
                  {decoded(request.path.replace(base, '')) || '/'}
                </span>
                <span className="text-small whitespace-nowrap text-ink-2">
                  as {request.as}, {request.log.length} {request.log.length === 1 ? 'statement' : 'statements'},{' '}
                  {request.milliseconds.toFixed(0)} ms
                </span>
              </button>
              {open === request.number && <Told request={request} />}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Told({ request }: { readonly request: LiveRequestTold }) {
  const { tree = '' } = useParams();
  const dispatch = useAppDispatch();
  const { texts, log } = request;
  return (
    <div className="space-y-2 border-t border-line bg-label px-3 py-2">
      {texts.map((text, at) => (
        <div key={at} className="flex items-start gap-2">
          <pre className="min-w-0 flex-1 font-mono text-small whitespace-pre-wrap text-ink-2">{text}</pre>
          <Link
            to={triedAddress(tree, text, request)}
            className="text-small whitespace-nowrap text-selected hover:underline"
            onClick={() => {
              // A key alone names nobody on a page.
              if (request.as === 'system') dispatch(workedAs(''));
              else if (request.as === 'nobody' || request.as.includes('(')) dispatch(workedAs(request.as));
            }}
          >
            Open in Try
          </Link>
        </div>
      ))}
      {log.map(({ plain, milliseconds, rows, values }, at) => (
        <div key={at}>
          <p className="text-small text-ink-2">
            {rows} {rows === 1 ? 'row' : 'rows'}, {milliseconds.toFixed(1)} ms{values.length > 0 && `; ${values.join(', ')}`}
          </p>
          <Sql text={plain} label={`statement ${at + 1}`} />
        </div>
      ))}
    </div>
  );
}

/** Where a text of a request is tried once more. */
export function triedAddress(tree: string, text: string, { path, log }: LiveRequestTold): string {
  const search = new URLSearchParams();
  const [, saved] = /\/queries\/([^/?]+)/.exec(path) ?? [];
  if (saved !== undefined && decoded(saved) === text) {
    search.set('query', text);
    for (const [name, value] of new URLSearchParams(path.split('?')[1] ?? '')) search.set(`p.${name}`, value);
  } else search.set('text', withPage(text, log));
  return `/tree/${tree}/try?${search.toString()}`;
}

/** A query with the size and the place of its page in it, so that it has no parameters. */
function withPage(text: string, log: LiveRequestTold['log']): string {
  const values = new Map(
    log.flatMap((statement) => statement.values).map((value) => [value.split(' = ')[0], value.split(' = ')[1]]),
  );
  return text
    .replace(/^limit :size$/m, `limit ${values.get('size') ?? ''}`)
    .replace(/^offset :from$/m, `offset ${values.get('from') ?? ''}`);
}

function decoded(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}

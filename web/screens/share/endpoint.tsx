import { useEffect, useState } from 'react';
import type { LiveState } from '../../../contract/index.js';
import type { CurlLine, CurlOptions } from '../../../core/live/index.js';
import { askDesign } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';
import type { ResourcesView, ResourceView } from '../../workers/asks.js';
import { CopyButton } from './copy-button.js';

interface EndpointProps {
  readonly state: LiveState;
  readonly resources: ResourcesView;
}

/** The live endpoint: where it is, over which database, its resources, and lines for a shell. */
export function Endpoint({ state, resources }: EndpointProps) {
  const database = useAppSelector(({ workspace }) => workspace.database);
  const as = useAppSelector(({ actor }) => actor.as);
  const [chosen, setChosen] = useState<string | null>(null);
  const type = resources.types.find(({ name }) => name === chosen) ?? resources.types.find(({ abstract }) => !abstract);
  const address = `${location.origin}${state.base}`;
  const ready = database?.status === 'ready';
  return (
    <section aria-label="Live endpoint" className="min-w-0">
      <h3 className="font-serif text-title font-semibold">Live endpoint</h3>
      <p className="mt-1 text-small text-ink-2">
        JSON:API over {database?.status === 'ready' && database.kind === 'made' ? 'the scratch database' : 'the database in use'},
        its walls in force. It is a server to try a client against, and not the one that an application is put to work on.
      </p>
      <p className="mt-2 flex items-center gap-2">
        <code className="min-w-0 truncate border border-line bg-label px-2 py-1 font-mono text-small">{address}</code>
        <CopyButton text={address} label="Copy the address" />
      </p>
      {resources.types.length === 0 ? (
        <p className="mt-3 text-ink-2">The text has no entity yet, so that there is nothing to ask for.</p>
      ) : (
        <>
          <label className="mt-3 flex items-center gap-2">
            <span className="text-ink-2">resources of</span>
            <select
              className="rounded-sm border border-line-2 bg-label px-1.5 py-0.5 font-mono text-small"
              value={type?.name}
              onChange={(event) => setChosen(event.target.value)}
            >
              {resources.types.map(({ name }) => (
                <option key={name}>{name}</option>
              ))}
            </select>
            <span className="text-ink-2">
              as <strong className="text-ink">{as === '' ? 'system' : as}</strong>
            </span>
          </label>
          {type !== undefined && <May type={type} fields={resources.fields.filter(({ entity }) => entity === type.entity)} />}
          {type !== undefined && ready && <Lines type={type} address={address} as={as} token={state.token} />}
        </>
      )}
    </section>
  );
}

/** What may be done with resources of a type, and which fields stay in. */
function May({ type, fields }: { readonly type: ResourceView; readonly fields: ResourcesView['fields'] }) {
  const named = (wanted: string) => fields.filter(({ mark }) => mark === wanted).map(({ field }) => field);
  const kept = [
    ['never told', named('hidden')],
    ['set by no caller', named('internal')],
    ['not changed once made', named('fixed')],
  ] as const;
  return (
    <div className="mt-1 text-small text-ink-2">
      <p>
        {type.given
          ? 'They are kept by somebody else, and read here alone.'
          : type.abstract
            ? 'They are read here; each is made and changed as what kind it is of.'
            : 'They are listed, read, made, changed and removed, as far as walls let whoever asks.'}
      </p>
      {kept.map(([words, names]) =>
        names.length === 0 ? null : (
          <p key={words}>
            {words}: <span className="font-mono">{names.join(', ')}</span>
          </p>
        ),
      )}
    </div>
  );
}

interface LinesProps {
  readonly type: ResourceView;
  readonly address: string;
  readonly as: string;
  readonly token: string;
}

/** Lines for a shell that do as they stand: with the id and the values of a resource that there is. */
function Lines({ type, address, as, token }: LinesProps) {
  const text = useAppSelector((state) => state.workspace.text);
  const [lines, setLines] = useState<readonly CurlLine[]>([]);
  const [open, setOpen] = useState<string | null>(null);
  useEffect(() => {
    let current = true;
    const options = async (): Promise<CurlOptions> => ({
      address,
      as,
      token,
      example: await exampleOf(type, { address, as, token }),
    });
    void options()
      .then((given) => askDesign('curl', { text, type: type.name, options: given }))
      .then(
        (found) => current && setLines(found),
        () => current && setLines([]),
      );
    return () => {
      current = false;
    };
  }, [type, address, as, token, text]);
  return (
    <ul aria-label="Lines for a shell" className="mt-2 divide-y divide-line border-y border-line">
      {lines.map(({ what, line }) => (
        <li key={what} className="flex items-start gap-2 py-1">
          <button
            type="button"
            aria-expanded={open === what}
            className="grid min-w-0 flex-1 grid-cols-[132px_minmax(0,1fr)] gap-2 text-left hover:bg-wash"
            onClick={() => setOpen(open === what ? null : what)}
          >
            <span className="truncate text-small leading-5 text-ink-2">{what}</span>
            <code className={`font-mono text-small leading-5 ${open === what ? 'break-all whitespace-pre-wrap' : 'truncate'}`}>
              {open === what ? line : shortened(line, address)}
            </code>
          </button>
          <CopyButton text={line} label={`Copy the line: ${what}`} />
        </li>
      ))}
    </ul>
  );
}

/** A line without the address that all of them have: what differs is read at a glance. */
function shortened(line: string, address: string): string {
  return line.replace(address, '…');
}

/** The first resource of a type that whoever asks sees, with what it leads to; null where there is none. */
async function exampleOf(
  { name, relationships }: ResourceView,
  { address, as, token }: Omit<CurlOptions, 'example'>,
): Promise<CurlOptions['example']> {
  const headers: Record<string, string> =
    as === '' ? { actor: 'system', authorization: `Bearer ${token}` } : { actor: encodeURIComponent(as) };
  const include = relationships.filter(({ many, readOnly }) => !many && !readOnly).map((one) => one.name);
  const answer = await fetch(`${address}/${name}?page[size]=1&include=${include.join(',')}`, { headers });
  if (!answer.ok) return null;
  const { data } = (await answer.json()) as { readonly data: readonly NonNullable<CurlOptions['example']>[] };
  return data[0] ?? null;
}

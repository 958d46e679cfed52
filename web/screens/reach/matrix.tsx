import type { Reach } from '../../../contract/index.js';
import { workedAs } from '../../app/actor.js';
import { rowsLink, useGo } from '../../app/links.js';
import { useAppDispatch } from '../../app/store.js';

type Told = Extract<Reach, { ok: true }>;

interface MatrixProps {
  readonly tree: string;
  readonly reach: Told;
}

/** Entities against kinds of actors: how many rows each sees and may change. A cell opens the rows as they see them. */
export function Matrix({ reach }: MatrixProps) {
  const dispatch = useAppDispatch();
  const go = useGo();
  const walled = reach.entities.filter((entity) => entity.walled);
  const open = reach.entities.filter((entity) => !entity.walled);
  const look = (as: string, entity: string) => {
    dispatch(workedAs(as));
    go((tree) => rowsLink(tree, entity));
  };
  return (
    <section aria-label="Who reaches which rows">
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-line-2 align-bottom">
            <th scope="col" className="py-1 pr-3 text-left font-serif font-normal text-ink-2 italic">
              rows seen, and changed
            </th>
            <th scope="col" className="px-3 py-1 text-right font-normal text-ink-2">
              of all
            </th>
            {reach.actors.map(({ as, shown, kind, rows }) => (
              <th key={`${as} ${kind}`} scope="col" className="max-w-44 px-3 py-1 text-left font-normal">
                <span className="block truncate font-semibold text-polymorphic" title={as}>
                  {shown}
                </span>
                <span className="block text-small text-ink-2">{kind}</span>
                {rows !== null && (
                  <span className="block text-small text-ink-3">
                    {rows === 1 ? 'the only one' : `one of ${rows.toLocaleString('en')}`}
                  </span>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {walled.map(({ name, rows }) => (
            <tr key={name} className="border-b border-line">
              <th scope="row" className="py-1 pr-3 text-left font-serif font-semibold">
                {name}
              </th>
              <td className="px-3 py-1 text-right font-mono text-small text-ink-2">{rows?.toLocaleString('en') ?? '–'}</td>
              {reach.actors.map(({ as, shown, kind, reach: own }) => {
                const { read, change } = own[name] ?? { read: 0, change: 0 };
                return (
                  <td key={`${as} ${kind}`} className="px-1 py-0.5">
                    <button
                      type="button"
                      aria-label={`${name} as ${shown}: ${read} seen, ${change} changed`}
                      title={`Look at the rows of ${name} as ${as}`}
                      className="w-full px-2 py-0.5 text-left font-mono text-small hover:bg-wash"
                      onClick={() => look(as, name)}
                    >
                      <Amount of={read} all={rows} />
                      <span className="text-ink-3"> · </span>
                      <Amount of={change} all={rows} />
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {open.length > 0 && (
        <p className="mt-3 text-small text-ink-2">
          No wall stands on {open.map(({ name }) => name).join(', ')}: everybody sees and changes all of their rows.
        </p>
      )}
    </section>
  );
}

/** A number of rows; none and all stand out. */
function Amount({ of, all }: { readonly of: number; readonly all: number | null }) {
  const weight = of === 0 ? 'text-ink-3' : of === all ? 'font-semibold text-to-many' : '';
  return <span className={weight}>{of === all && of > 0 ? 'all' : of.toLocaleString('en')}</span>;
}

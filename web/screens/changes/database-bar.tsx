import type { DesignDatabase } from '../../../contract/index.js';
import { useForgetDatabaseMutation, useStandsQuery } from '../../app/api.js';
import { databaseFileAddress } from '../../app/carry-out-plan.js';
import { useAppSelector } from '../../app/store.js';

/** The databases of a design, each with where it stands; one of them is looked at. */
export function DatabaseBar({
  tree,
  databases,
  database,
  onLook,
  onAdd,
}: {
  readonly tree: string;
  readonly databases: readonly DesignDatabase[];
  readonly database: DesignDatabase;
  onLook(id: string): void;
  onAdd(): void;
}) {
  const [forget] = useForgetDatabaseMutation();
  const link = 'text-small whitespace-nowrap text-selected underline underline-offset-2';
  return (
    <div className="flex shrink-0 items-stretch gap-2 border-b border-line-2 px-6 py-2">
      <fieldset aria-label="Databases of this design" className="flex min-w-0 gap-2 overflow-x-auto">
        {databases.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-pressed={one.id === database.id}
            className={`max-w-96 min-w-44 border px-3 py-1 text-left ${one.id === database.id ? 'border-selected bg-wash' : 'border-line-2 bg-label hover:border-ink-3'}`}
            title={one.where}
            onClick={() => onLook(one.id)}
          >
            <span className="block truncate">
              <span className="font-semibold">{one.label}</span> <span className="text-small text-ink-2">{one.where}</span>
            </span>
            <StandsLine tree={tree} database={one.id} />
          </button>
        ))}
      </fieldset>
      <span className="ml-auto flex flex-col items-end justify-center gap-0.5">
        <button type="button" className={link} onClick={onAdd}>
          Another database…
        </button>
        <span className="flex gap-3">
          {database.download && (
            <a className={link} href={databaseFileAddress(tree, database.id)} download>
              Download the file
            </a>
          )}
          {database.id !== 'in use' && (
            <button
              type="button"
              className={link}
              title="It is no more among those of the design. The database itself stays where it is."
              onClick={() => void forget({ tree, database: database.id })}
            >
              Take off the list
            </button>
          )}
        </span>
      </span>
    </div>
  );
}

/** Where a database stands to the text, in a line. */
function StandsLine({ tree, database }: { readonly tree: string; readonly database: string }) {
  const revision = useAppSelector(({ workspace }) => workspace.revision);
  const { data } = useStandsQuery({ tree, database, revision });
  if (data === undefined) return <span className="block text-small text-ink-3">looking at it…</span>;
  if (!data.ok)
    return (
      <span className="block truncate text-small text-harm" title={data.problem}>
        ✕ {data.problem}
      </span>
    );
  const { newest, isText, revision: at, drift } = data;
  const where = newest === null ? 'never changed from here' : `at number ${newest.number}, “${newest.name}”`;
  const which = newest === null || isText ? '' : at === null ? ', another text' : `, revision ${at}`;
  return (
    <span className="block truncate text-small text-ink-2" title={[where, ...drift].join('\n')}>
      {drift.length > 0 && <span className="text-to-many">▲ changed by others: </span>}
      {where}
      {which}
    </span>
  );
}

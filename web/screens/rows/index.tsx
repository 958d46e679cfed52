import { useParams } from 'react-router';
import { AgreeButton } from '../../app/agree-sql.js';
import { useEntityCountsQuery } from '../../app/api.js';
import { rowsLink, useGo } from '../../app/links.js';
import { useAppSelector } from '../../app/store.js';
import { EntityRows } from './entity-rows.js';
import { RowPage } from './row-page.js';

/** Rows: every entity with its count, and the rows of the one that is chosen. */
export function RowsScreen() {
  const { tree = '', entity: name, key } = useParams();
  const view = useAppSelector((state) => state.workspace.view);
  const database = useAppSelector((state) => state.workspace.database);
  const ready = database?.status === 'ready';
  const { data } = useEntityCountsQuery({ tree }, { skip: !ready });
  const go = useGo();
  if (view === null) return <p className="p-6 text-ink-2">Reading the text…</p>;
  const entity = view.entities.find((candidate) => candidate.name === (name ?? view.entities[0]?.name));
  return (
    <div className="grid h-full grid-cols-[188px_minmax(0,1fr)]">
      <nav aria-label="Entities" className="overflow-auto border-r border-line py-2">
        <h2 className="px-4 pb-1 font-serif text-ink-2 italic">Entities</h2>
        {view.entities.map((candidate) => (
          <button
            key={candidate.name}
            type="button"
            aria-current={candidate === entity}
            className={`flex w-full items-baseline gap-2 px-4 py-0.5 text-left ${candidate === entity ? 'bg-wash' : 'hover:bg-ground'}`}
            onClick={() => go((id) => rowsLink(id, candidate.name))}
          >
            <span className={`truncate font-serif font-semibold ${candidate === entity ? 'text-selected' : ''}`}>
              {candidate.name}
            </span>
            <span className="ml-auto font-mono text-small text-ink-2">
              {data?.rows[candidate.name]?.toLocaleString('en') ?? ''}
            </span>
          </button>
        ))}
      </nav>
      {entity === undefined ? (
        <div className="p-8">
          {view.entities.length === 0
            ? 'The text has no entity yet. Write one on Design; its rows are here a second later.'
            : `There is no entity ${name}. Choose one on the left.`}
        </div>
      ) : database?.status === 'failed' ? (
        <p role="alert" className="p-8 text-harm">
          {database.message}
        </p>
      ) : database?.status === 'asks' ? (
        <div className="space-y-3 p-8">
          <p>No rows are made yet: the text states SQL of its own, and nobody has agreed that it is run on {database.where}.</p>
          <AgreeButton asks={database} />
        </div>
      ) : !ready ? (
        <p className="p-8 text-ink-2">The rows are being made…</p>
      ) : key === undefined ? (
        <EntityRows key={entity.name} tree={tree} entity={entity} view={view} />
      ) : (
        <RowPage key={`${entity.name} ${key}`} tree={tree} entity={entity} rowKey={key} view={view} />
      )}
    </div>
  );
}

import { useParams } from 'react-router';
import type { RelationCard } from '../../../core/cards/index.js';
import { plural, snakeCase } from '../../../core/model/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { failureMessage, useProfileQuery } from '../../app/api.js';
import { rowsLink, useGo } from '../../app/links.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { useAppSelector } from '../../app/store.js';
import { grouped } from '../../parts/grouped.js';
import { HistogramBars } from '../../parts/histogram.js';

/** What the rows say about a relation: how many each knows, who knows none, and keys that are empty or point nowhere. */
export function RelationRows({ card }: { readonly card: RelationCard }) {
  const { tree = '' } = useParams();
  const view = useAppSelector((state) => state.workspace.view);
  const ready = useRowsReady();
  const go = useGo();
  const { data, error, isFetching } = useProfileQuery({ tree, relation: card.name }, { skip: !ready });
  if (!ready || (data === undefined && isFetching)) return <p className="text-small text-ink-2">Looking at the rows…</p>;
  if (error !== undefined) return <p className="text-small text-harm">{failureMessage(error)}</p>;
  if (data === undefined || !data.ok)
    return <p className="text-small text-ink-2">The rows say nothing yet: {data?.problem ?? 'no answer'}</p>;
  const open = (entity: string, where: string) => go((id) => rowsLink(id, entity, where));
  const child = childRole(view, card);
  return (
    <div className={`mb-4 ${isFetching ? 'opacity-60' : ''}`}>
      <h3 className="mb-1 text-small text-ink-3">What the rows say</h3>
      {data.ends.map(({ entity, role, histogram }) => {
        const { least, mean, most, none, parents, buckets } = histogram;
        const called = things(entity, parents);
        const counted = (from: number, to: number) =>
          from === to ? `count(${role}) = ${from}` : `count(${role}) between ${from} and ${to}`;
        return (
          <div key={`${entity} ${role}`} className="mb-1.5 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] items-end gap-5">
            <HistogramBars
              buckets={buckets}
              of={called}
              onOpen={role === null ? undefined : (from, to) => open(entity, from === 0 ? `none(${role})` : counted(from, to))}
            />
            <div className="text-small leading-5">
              <p>
                <strong className="font-semibold">{least}</strong> <span className="text-ink-2">least</span>{' '}
                <strong className="font-semibold">{mean.toFixed(1)}</strong> <span className="text-ink-2">mean</span>{' '}
                <strong className="font-semibold">{most}</strong> <span className="text-ink-2">most</span>
              </p>
              <p>
                {none === 0 || role === null ? (
                  <span className="text-ink-2">
                    {grouped(none)} of {grouped(parents)} {called} with none
                  </span>
                ) : (
                  <button
                    type="button"
                    className="text-left text-selected hover:underline"
                    onClick={() => open(entity, `none(${role})`)}
                  >
                    {grouped(none)} of {grouped(parents)} {called} with none
                  </button>
                )}
              </p>
            </div>
          </div>
        );
      })}
      <p className="flex flex-wrap gap-x-4 text-small text-ink-2">
        <span>
          {grouped(data.rows)} {data.rows === 1 ? 'row' : 'rows'}
        </span>
        {data.empty.map(({ column, rows }) => (
          <KeyRows
            key={column}
            rows={rows}
            words="with an empty key"
            harm={false}
            onOpen={child && (() => open(child.entity, `${child.role} is null`))}
          />
        ))}
        {data.dangling.map(({ column, rows }) => (
          <KeyRows
            key={column}
            rows={rows}
            words={card.form === 'one-to-many' || card.form === 'one-to-one' ? 'point at nothing' : `${column} at nothing`}
            harm
            onOpen={child && (() => open(child.entity, `${child.role} is not null and ${child.role}.${child.key} is null`))}
          />
        ))}
        <span>{data.milliseconds.toFixed(0)} ms</span>
      </p>
    </div>
  );
}

function KeyRows({
  rows,
  words,
  harm,
  onOpen,
}: {
  readonly rows: number;
  readonly words: string;
  readonly harm: boolean;
  readonly onOpen: (() => void) | null;
}) {
  const text = `${grouped(rows)} ${words}`;
  if (rows === 0 || onOpen === null) return <span>{text}</span>;
  return (
    <button type="button" className={`hover:underline ${harm ? 'text-harm' : 'text-selected'}`} onClick={onOpen}>
      {harm ? '✕ ' : ''}
      {text}
    </button>
  );
}

/** The role that the key column stores, as its own entity has it. */
function childRole(view: DesignView | null, card: RelationCard): { entity: string; role: string; key: string } | null {
  for (const entity of view?.entities ?? []) {
    const end = entity.ends.find((candidate) => candidate.relation === card.name && candidate.columns.length > 0);
    const key = view?.entities.find(({ name }) => name === end?.target)?.keyFields[0];
    if (end !== undefined && key !== undefined) return { entity: entity.name, role: end.name, key };
  }
  return null;
}

/** What the rows of an entity are called, as many as there are. */
function things(entity: string, count: number): string {
  const words = snakeCase(entity).replaceAll('_', ' ');
  return count === 1 ? words : plural(words);
}

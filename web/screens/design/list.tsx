import type { DesignView } from '../../../core/view-models/index.js';
import type { Selection } from '../../app/selection.js';
import { found } from './kin.js';

/** The same as the map, in words: every entity, and below the one that is selected its relations. */
export function EntityList({
  view,
  selection,
  wish,
  onSelect,
}: {
  readonly view: DesignView;
  readonly selection: Selection | null;
  readonly wish: string;
  onSelect(selection: Selection | null): void;
}) {
  const hits = wish.trim() === '' ? null : found(view, wish);
  const entities = hits === null ? view.entities : view.entities.filter(({ name }) => hits.includes(name));
  return (
    <nav aria-label="Entities" className="w-52 shrink-0 overflow-auto border-r border-line bg-label py-2">
      {entities.length === 0 && <p className="px-3 text-small text-ink-2">Nothing has these letters.</p>}
      <ul>
        {entities.map((entity) => {
          const open =
            selection?.kind === 'entity'
              ? selection.name === entity.name
              : entity.ends.some((end) => end.relation === selection?.name);
          return (
            <li key={entity.name}>
              <button
                type="button"
                aria-current={selection?.kind === 'entity' && selection.name === entity.name}
                className={`block w-full truncate px-3 py-0.5 text-left font-serif font-semibold hover:bg-wash ${selection?.name === entity.name ? 'bg-wash text-selected' : ''}`}
                onClick={() => onSelect({ kind: 'entity', name: entity.name })}
              >
                {entity.name}
              </button>
              {open && (
                <ul className="pb-1">
                  {entity.ends.map((end) => (
                    <li key={end.name}>
                      <button
                        type="button"
                        aria-current={selection?.name === end.relation}
                        title={`relation ${end.relation}`}
                        className={`block w-full truncate py-0.5 pr-3 pl-6 text-left text-small hover:bg-wash ${selection?.name === end.relation ? 'text-selected' : 'text-ink-2'}`}
                        onClick={() => onSelect({ kind: 'relation', name: end.relation })}
                      >
                        <span className={end.many ? 'text-to-many' : 'text-to-one'}>{end.many ? 'many' : 'one'}</span>{' '}
                        {end.target} as {end.name}
                      </button>
                    </li>
                  ))}
                </ul>
              )}
            </li>
          );
        })}
      </ul>
    </nav>
  );
}

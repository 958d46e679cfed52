import type { DesignView } from '../../../core/view-models/index.js';
import type { Selection } from '../../app/selection.js';

const MOST_LISTED = 80;

/** The strip along the foot of the map while nothing is selected: what there is to select. */
export function Overview({ view, onSelect }: { readonly view: DesignView; onSelect(selection: Selection): void }) {
  const names = { entity: view.entities.map(({ name }) => name), relation: view.relations.map(({ name }) => name) };
  if (view.entities.length === 0) return null;
  return (
    <section aria-label="What there is" className="h-24 overflow-auto border-t border-line-2 bg-label px-5 py-2.5">
      <div className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1">
        {(['entity', 'relation'] as const).map((kind) =>
          names[kind].length === 0 ? null : (
            <div key={kind} className="contents">
              <span className="font-serif text-ink-2 italic">{kind === 'entity' ? 'Entities' : 'Relations'}</span>
              <span className="flex min-w-0 flex-wrap gap-x-3">
                {names[kind].slice(0, MOST_LISTED).map((name) => (
                  <button
                    key={name}
                    type="button"
                    className={`max-w-full truncate text-selected hover:underline ${kind === 'entity' ? 'font-serif font-semibold' : 'font-mono text-small'}`}
                    onClick={() => onSelect({ kind, name })}
                  >
                    {name}
                  </button>
                ))}
                {names[kind].length > MOST_LISTED && (
                  <span className="text-ink-2">and {names[kind].length - MOST_LISTED} more</span>
                )}
              </span>
            </div>
          ),
        )}
      </div>
    </section>
  );
}

import type { Card } from '../../../core/cards/index.js';
import type { Selection } from '../../app/selection.js';
import type { DesignView } from '../../workers/design-view.js';

const MOST_LISTED = 80;

/** The strip along the foot of the map while nothing is selected: what there is to select. */
export function Overview({ view, onSelect }: { readonly view: DesignView; onSelect(selection: Selection): void }) {
  const of = (kind: Card['kind']) => view.cards.filter((card) => card.kind === kind);
  if (view.cards.length === 0) return null;
  return (
    <section aria-label="What there is" className="max-h-24 overflow-auto border-t border-line-2 bg-label px-5 py-2.5">
      <div className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {(['entity', 'relation'] as const).map((kind) =>
          of(kind).length === 0 ? null : (
            <div key={kind} className="contents">
              <span className="font-serif text-ink-2 italic">{kind === 'entity' ? 'Entities' : 'Relations'}</span>
              <span className="flex flex-wrap gap-x-3">
                {of(kind)
                  .slice(0, MOST_LISTED)
                  .map((card) => (
                    <button
                      key={card.name}
                      type="button"
                      className={`text-selected hover:underline ${kind === 'entity' ? 'font-serif font-semibold' : 'font-mono text-small'}`}
                      onClick={() => onSelect({ kind, name: card.name })}
                    >
                      {card.name}
                    </button>
                  ))}
                {of(kind).length > MOST_LISTED && <span className="text-ink-2">and {of(kind).length - MOST_LISTED} more</span>}
              </span>
            </div>
          ),
        )}
      </div>
    </section>
  );
}

import { useCallback, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { useCommands } from '../../app/commands.js';
import { useSelection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { Panes } from '../../parts/panes.js';
import { CardSlip } from './card.js';
import { withWays } from './kinds-compared.js';
import { MapSheet } from './map.js';
import { NewEntity } from './new-entity.js';
import { Overview } from './overview.js';
import { usePlanned } from './planned.js';
import { useReached } from './reached.js';
import { Relate } from './relate.js';
import { TextPane } from './text.js';
import { useCard } from './use-card.js';

/** Design: the map on the left, the card of what is selected along its foot, the text on the right. */
export function DesignScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const [selection, select] = useSelection();
  const [search, setSearch] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const reached = useReached(view);
  const planned = usePlanned(view);
  const card = useCard(selection);
  const line = Number(search.get('at') ?? Number.NaN);
  const place = useMemo(() => (Number.isInteger(line) ? { start: line, end: line } : null), [line]);
  const relating = search.get('panel') === 'relate';
  const add = useCallback(() => setAdding(true), []);
  const relate = useDesignCommands(add);
  return (
    <>
      <Panes
        name="design"
        direction="horizontal"
        share={60}
        first={
          <Panes
            name="map"
            direction="vertical"
            share={64}
            alone={selection === null}
            first={
              <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
                {view === null ? (
                  <p className="p-6 text-ink-2">Drawing the map…</p>
                ) : (
                  <MapSheet
                    view={view}
                    selection={selection}
                    notes={reached ?? planned}
                    onSelect={select}
                    onRelate={relate}
                    onAddEntity={add}
                  />
                )}
                {selection === null && view !== null && <Overview view={view} onSelect={select} />}
              </div>
            }
            second={<CardSlip card={card} selection={selection} onSelect={select} />}
          />
        }
        second={<TextPane selection={selection} place={place} onSelect={select} />}
      />
      {adding && <NewEntity onClose={() => setAdding(false)} onAdded={(name) => select({ kind: 'entity', name })} />}
      {relating && view !== null && (
        <Relate
          view={view}
          from={selection?.kind === 'entity' ? selection.name : null}
          onClose={(added) =>
            setSearch(
              (before) => {
                const params = new URLSearchParams(before);
                params.delete('panel');
                if (added !== null) params.set('select', `relation:${added}`);
                return params;
              },
              { replace: true },
            )
          }
        />
      )}
    </>
  );
}

/** What can be done to the text here, by name; gives the first of it, which the map has a button for. */
function useDesignCommands(addEntity: () => void): () => void {
  const view = useAppSelector((state) => state.workspace.view);
  const [, setSearch] = useSearchParams();
  const bases = useMemo(() => (view?.entities ?? []).flatMap(({ name, kind }) => (kind === name ? [name] : [])).join(), [view]);
  const relate = useCallback(
    () =>
      setSearch((before) => {
        const params = new URLSearchParams(before);
        params.set('panel', 'relate');
        return params;
      }),
    [setSearch],
  );
  const commands = useMemo(
    () => [
      {
        id: 'relate',
        title: 'Relate two entities',
        group: 'Text' as const,
        words:
          'new relation association foreign key fk reference belongs has one-to-one one-to-many many-to-many polymorphic join junction bridge table through pivot add',
        run: relate,
      },
      {
        id: 'add entity',
        title: 'Add an entity',
        group: 'Text' as const,
        words: 'new table create model class',
        run: addEntity,
      },
      ...bases
        .split(',')
        .filter((name) => name !== '')
        .map((name) => ({
          id: `ways ${name}`,
          title: `Compare the ways to store the kinds of ${name}`,
          group: 'Text' as const,
          words:
            'inheritance subtype supertype subclass hierarchy single table joined class concrete separate json discriminator',
          run: () => setSearch((before) => withWays(before, name)),
        })),
    ],
    [bases, relate, addEntity, setSearch],
  );
  useCommands('design', commands);
  return relate;
}

import { useSelection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { Panes } from '../../parts/panes.js';
import { CardSlip } from './card.js';
import { MapSheet } from './map.js';
import { TextPane } from './text.js';

/** Design: the map on the left, the card of what is selected along its foot, the text on the right. */
export function DesignScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const [selection, select] = useSelection();
  const card = view?.cards.find((candidate) => candidate.kind === selection?.kind && candidate.name === selection.name) ?? null;
  return (
    <Panes
      name="design"
      direction="horizontal"
      share={60}
      first={
        <Panes
          name="map"
          direction="vertical"
          share={66}
          first={
            view === null ? (
              <p className="p-6 text-ink-2">Drawing the map…</p>
            ) : (
              <MapSheet view={view} selection={selection} onSelect={select} />
            )
          }
          second={<CardSlip card={card} selection={selection} view={view} onSelect={select} />}
        />
      }
      second={<TextPane selection={selection} onSelect={select} />}
    />
  );
}

import type { ReactNode } from 'react';
import type { MapLayout } from '../../../core/map/index.js';

/** A small slip at a label of the map. */
export interface Badge {
  readonly key: string;
  /** As it is read out. */
  readonly label: string;
  readonly words: string;
  /** The same of a lozenge, which there is less room for. */
  readonly short: string;
  readonly look: string;
}

/** What the map shows beside the design itself: what a delete reaches, or what a plan changes. */
export interface MapNotes {
  /** The labels and relations that it is about: all else fades; null where nothing does. */
  readonly kept: ReadonlySet<string> | null;
  /** By the identifier of a label; null while they are found out. */
  readonly badges: ReadonlyMap<string, readonly Badge[]> | null;
  /** What the badges of a label tell of it, as it is read out. */
  readonly of: string;
  /** What stands above the map: what is shown, and a way back. */
  readonly bar: ReactNode;
}

/** The badges at the labels of the map. */
export function Badges({
  layout,
  badges,
  of,
  zoom,
}: {
  readonly layout: MapLayout;
  readonly badges: NonNullable<MapNotes['badges']>;
  readonly of: string;
  readonly zoom: number;
}) {
  return layout.labels.flatMap((label) => {
    const own = badges.get(label.id) ?? [];
    if (own.length === 0) return [];
    // A lozenge stands close to others, and has its name at its right.
    const isEntity = label.kind === 'entity';
    return [
      <ul
        key={label.id}
        aria-label={`${of} ${label.id}`}
        className="pointer-events-none absolute flex flex-col items-end gap-0.5 font-mono leading-none whitespace-nowrap"
        style={{
          left: isEntity ? label.x + label.width : label.x,
          top: isEntity ? label.y : label.y + label.height,
          fontSize: Math.min(12 / Math.min(zoom, 1), 30),
          transform: isEntity ? 'translate(-96%, calc(-100% + 0.7em))' : 'translate(-20%, -0.2em)',
          zIndex: 5,
        }}
      >
        {own.map((badge) => (
          <li key={badge.key} aria-label={badge.label} className={`rounded-sm border px-[0.5em] py-[0.25em] ${badge.look}`}>
            {isEntity ? badge.words : badge.short}
          </li>
        ))}
      </ul>,
    ];
  });
}

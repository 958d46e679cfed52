import { memo } from 'react';
import { type PlacedStem, stemPath, stemPaths } from '../../../core/map/index.js';
import type { Selection } from '../../app/selection.js';
import { STEM_COLOURS } from './looks.js';

/** A stem with rounded corners and the trade's crow's-foot signs at its ends. */
export const Stem = memo(function Stem({
  stem,
  selected,
  onSelect,
}: {
  readonly stem: PlacedStem;
  readonly selected: boolean;
  onSelect(selection: Selection): void;
}) {
  const colour = selected ? 'stroke-selected' : STEM_COLOURS[stem.kind];
  const title = stem.kind === 'kind' ? `${stem.to} is a kind of ${stem.from}` : stem.relation;
  return (
    <g className={`${colour} fill-none`} strokeWidth={selected ? 2.4 : 1.4}>
      {stemPaths(stem).map((path) => (
        <path key={path} d={path} />
      ))}
      {/* The list beside the map serves the keyboard; a stem is for the mouse. */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: see above */}
      <path
        d={stemPath(stem.points)}
        className="pointer-events-auto cursor-pointer stroke-transparent"
        strokeWidth={12}
        onClick={() =>
          onSelect(stem.kind === 'kind' ? { kind: 'entity', name: stem.to } : { kind: 'relation', name: stem.relation })
        }
      >
        <title>{stem.short ? `${title}, from ${stem.from}` : title}</title>
      </path>
    </g>
  );
});

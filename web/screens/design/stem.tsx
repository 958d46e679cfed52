import { memo } from 'react';
import { endSign, type PlacedStem, stemPath } from '../../../core/map/index.js';
import type { Selection } from '../../app/selection.js';

const COLOURS: Readonly<Record<PlacedStem['kind'], string>> = {
  key: 'stroke-to-one',
  pivot: 'stroke-pivot',
  polymorphic: 'stroke-polymorphic',
  kind: 'stroke-kinds',
};

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
  const path = stemPath(stem.points);
  const colour = selected ? 'stroke-selected' : COLOURS[stem.kind];
  const title = stem.kind === 'kind' ? `${stem.to} is a kind of ${stem.from}` : stem.relation;
  return (
    <g className={`${colour} fill-none`} strokeWidth={selected ? 2.4 : 1.4}>
      <path d={path} />
      {!stem.short && <path d={endSign(stem.points, stem.fromEnd)} />}
      <path d={endSign([...stem.points].reverse(), stem.toEnd)} />
      {/* The list beside the map serves the keyboard; a stem is for the mouse. */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: see above */}
      <path
        d={path}
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

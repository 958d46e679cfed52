import type { PlacedStem } from '../../../core/map/index.js';

/** The colour of a stem, by what it is of. */
export const STEM_COLOURS: Readonly<Record<PlacedStem['kind'], string>> = {
  key: 'stroke-to-one',
  pivot: 'stroke-pivot',
  polymorphic: 'stroke-polymorphic',
  kind: 'stroke-kinds',
};

/** What a label looks like, whatever stands on it. */
export const LABEL_LOOK = 'overflow-hidden border bg-label shadow-[0_1px_0_var(--line-2)]';

/**
 * A label to be placed: an entity, the lozenge of a pivot with its name, or the knot in which stems from several entities meet.
 */
export interface MapLabel {
  readonly id: string;
  readonly kind: 'entity' | 'pivot' | 'knot';
  readonly width: number;
  readonly height: number;
}

/** The multiplicity at an end of a stem, as the trade's signs show it. */
export type StemEnd = 'one' | 'at most one' | 'many' | 'none';

/** A stem from the label above to the label below; `from` and `to` may be the same label. */
export interface MapStem {
  readonly id: string;
  /** The relation; of a base and its kind, the kind. */
  readonly relation: string;
  readonly kind: 'key' | 'pivot' | 'polymorphic' | 'kind';
  readonly from: string;
  readonly to: string;
  readonly fromEnd: StemEnd;
  readonly toEnd: StemEnd;
  /** Comes from an entity that nearly everything points at: only its end is drawn, so that hubs do not cover the sheet. */
  readonly hub: boolean;
}

export interface Point {
  readonly x: number;
  readonly y: number;
}

export interface PlacedLabel extends MapLabel {
  /** The upper left corner. */
  readonly x: number;
  readonly y: number;
  readonly generation: number;
}

export interface PlacedStem extends MapStem {
  /** Corners of a line of right angles. */
  readonly points: readonly Point[];
  /** Only its end at the child is drawn. */
  readonly short: boolean;
}

/** Where everything stands, in pixels from the upper left. */
export interface MapLayout {
  readonly labels: readonly PlacedLabel[];
  readonly stems: readonly PlacedStem[];
  readonly generations: readonly { readonly number: number; readonly y: number }[];
  readonly width: number;
  readonly height: number;
}

import type { Design } from '../design/index.js';
import { type CloseKin, closeKinMap, type EntityLabel, layoutMap, type MapLayout, type MapOptions, mapOf } from '../map/index.js';

/** How the map of a design is seen: what its labels show, and around whom. */
export interface MapAsk {
  readonly options: MapOptions;
  /** The close kin that are shown in place of the whole map; null for the whole. */
  readonly kin: CloseKin | null;
}

/** The map that a tree is opened with. */
export const WHOLE_MAP: MapAsk = { options: { lines: 'keys', folded: [] }, kin: null };

/** A map as a page draws it. */
export interface MapView {
  readonly text: string;
  readonly labels: readonly EntityLabel[];
  readonly layout: MapLayout;
  /** What each folded entity hides. */
  readonly folds: ReadonlyMap<string, ReadonlySet<string>>;
  /** Of close kin: how many of an entity's kin are not shown, and the generation of the middle. Null for the whole map. */
  readonly kin: { readonly further: ReadonlyMap<string, number>; readonly middle: number } | null;
}

/** Lays out the map of a design, whole or of close kin; of these nothing is folded. */
export function mapView({ text, model }: Design, { options, kin }: MapAsk): MapView {
  const map = mapOf(model, kin === null ? options : { ...options, folded: [] });
  const { folds } = map;
  if (kin === null) return { text, labels: map.entities, layout: layoutMap(map.labels, map.stems), folds, kin: null };
  const { entities, layout, further, middle } = closeKinMap(map, kin);
  return { text, labels: entities, layout, folds, kin: { further, middle } };
}

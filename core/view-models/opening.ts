import type { Design } from '../design/index.js';
import type { PackedColours } from './colours.js';
import { type DesignView, designView } from './design-view.js';
import { type MapView, mapView, WHOLE_MAP } from './map-view.js';

/** What a page needs to show a tree that is opened: all of its design, and its map. */
export interface Opening {
  readonly view: DesignView;
  readonly map: MapView;
}

/** An opening as JSON has it, without the text, which whoever is told it has. */
export interface OpeningTold {
  readonly view: Omit<DesignView, 'text' | 'colours'>;
  readonly colours: Omit<PackedColours, 'places'> & { readonly places: readonly number[] };
  readonly map: Pick<MapView, 'labels' | 'layout'>;
}

/** What a design is opened with, to be told as JSON. */
export function openingTold(design: Design): OpeningTold {
  const { text, colours, ...view } = designView(design);
  const { labels, layout } = mapView(design, WHOLE_MAP);
  return { view, colours: { ...colours, places: Array.from(colours.places) }, map: { labels, layout } };
}

/** The opening that was told of a text. */
export function openingOf(text: string, { view, colours, map }: OpeningTold): Opening {
  return {
    view: { ...view, text, colours: { ...colours, places: Uint32Array.from(colours.places) } },
    // Of the whole map nothing is folded.
    map: { text, ...map, folds: new Map(), kin: null },
  };
}

import { type Design, readDesign } from '../../core/design/index.js';
import { closeKinMap, layoutMap, mapOf } from '../../core/map/index.js';
import type { DialectName } from '../../core/notation/index.js';
import type { Asks } from './asks.js';
import { type DesignView, designView } from './design-view.js';

let latest: Design | null = null;
let spoken: DialectName | null = null;

/** The design of a text, in the dialect that was asked for last. Several things are asked of one text; it is read once. */
export function designOf(text: string): Design {
  if (latest?.text !== text) latest = readDesign(text, spoken);
  return latest;
}

/** The design of a text that somebody may come to have: what was read before stays. */
export function designAfter(text: string): Design {
  return readDesign(text, spoken);
}

const views = new WeakMap<Design, DesignView>();

function viewOf(design: Design): DesignView {
  const known = views.get(design) ?? designView(design);
  views.set(design, known);
  return known;
}

/** The kinds of question that the first picture of a tree needs. */
export type FirstKind = 'view' | 'map';

/** What the first picture of a tree needs is answered without the code for all else. */
export const firstAnswers: { readonly [K in FirstKind]: (ask: Asks[K][0]) => Asks[K][1] } = {
  view: ({ text, dialect }) => {
    if (dialect !== spoken) latest = null;
    spoken = dialect;
    return viewOf(designOf(text));
  },
  map: ({ text, options, kin }) => {
    const map = mapOf(designOf(text).model, kin === null ? options : { ...options, folded: [] });
    const { folds } = map;
    if (kin === null) return { text, labels: map.entities, layout: layoutMap(map.labels, map.stems), folds, kin: null };
    const { entities, layout, further, middle } = closeKinMap(map, kin);
    return { text, labels: entities, layout, folds, kin: { further, middle } };
  },
};

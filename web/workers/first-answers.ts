import { type Design, readDesign } from '../../core/design/index.js';
import type { DialectName } from '../../core/notation/index.js';
import { type DesignView, designView, type MapView, mapView } from '../../core/view-models/index.js';
import type { Asks } from './asks.js';

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
  map: (ask) => {
    const design = designOf(ask.text);
    const question = JSON.stringify([ask.options, ask.kin]);
    if (drawn?.design !== design || drawn.question !== question) drawn = { design, question, map: mapView(design, ask) };
    return drawn.map;
  },
};

/** The map that was asked for last: one that was made ahead is asked for once more. */
let drawn: { readonly design: Design; readonly question: string; readonly map: MapView } | null = null;

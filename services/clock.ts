import type { Model } from '../core/model/index.js';

/** What now is in a scratch database of a tree that states no clock, so that the same text always gives the same rows. */
const NOW_BY_DEFAULT = '2030-01-01T12:00:00.000000Z';

/**
 * What now is, as a timestamp in wire form: in a database that was made here the tree's clock, and anywhere else the real
 * time, whatever the tree says.
 */
export function nowOf(model: Model, madeHere: boolean): string {
  if (madeHere) return model.clock ?? NOW_BY_DEFAULT;
  return `${new Date().toISOString().slice(0, 23)}000Z`;
}

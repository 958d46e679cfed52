import type { Model } from '../core/model/index.js';

/** What now is for a tree, as a timestamp in wire form: its clock's word, else the real time. */
export function nowOf(model: Model): string {
  return model.clock ?? `${new Date().toISOString().slice(0, 23)}000Z`;
}

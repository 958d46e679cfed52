import { fetch, type Prepared } from '../load/index.js';
import type { Wire } from '../values/index.js';
import { LONGEST_ANSWER } from './answer-text.js';
import type { Run } from './run.js';

export interface OrderInput {
  /** A plan whose output is keys. */
  readonly prepared: Prepared;
  readonly most: number;
}

export interface KeyOrder {
  readonly keys: readonly Wire[];
  /** There are more than were asked for, or than an answer can hold. */
  readonly cut: boolean;
}

/** The keys of rows, in order. */
export const order: Run<OrderInput, KeyOrder> = {
  pace: 'whole',
  *compute(dialect, { prepared: { compiled, parameters, madeHere }, most }) {
    const { select: query, outputs } = compiled;
    const { cells, cut } = yield* fetch(dialect, { query, outputs, parameters, options: { madeHere, rowLimit: most } });
    const keys = cells.at(-1) ?? [];
    const fitting = keysThatFit(keys);
    return { keys: fitting === keys.length ? keys : keys.slice(0, fitting), cut: cut || fitting < keys.length };
  },
};

/** How many of the keys an answer holds. */
function keysThatFit(keys: readonly Wire[]): number {
  let length = 0;
  for (const [index, key] of keys.entries()) {
    length += typeof key === 'string' ? key.length : 8;
    if (length > LONGEST_ANSWER * 2) return index;
  }
  return keys.length;
}

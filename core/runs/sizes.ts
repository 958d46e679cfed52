import { fetch, type Prepared } from '../load/index.js';
import type { Run } from './run.js';

/** Plans that count, each with the name of what it counts. */
export type SizesInput = readonly { readonly name: string; readonly prepared: Prepared }[];

/** How many rows there are of each; what the engine refuses to count is missing. */
export const sizes: Run<SizesInput, Readonly<Record<string, number>>> = {
  pace: 'by statement',
  *compute(dialect, input) {
    const found: Record<string, number> = {};
    for (const { name, prepared } of input) {
      const { compiled, parameters, madeHere } = prepared;
      const { select: query, outputs } = compiled;
      const request = { query, outputs, parameters, options: { madeHere, rowLimit: 1 } };
      const counted = yield* fetch(dialect, request, { keys: null, path: '', span: null, explained: 'not', mayFail: true });
      if (counted.refused === null) found[name] = Number(counted.cells[0]?.[0] ?? 0);
    }
    return found;
  },
};

import { fetch, type Prepared } from '../load/index.js';
import type { ValueType, Wire } from '../values/index.js';
import type { Run } from './run.js';

/** Plans over stored rows, each with how many rows are wanted, and the keys by which they are sought, where they are. */
export type StoredRowsInput = readonly {
  readonly prepared: Prepared;
  readonly keys: { readonly type: ValueType; readonly list: readonly Wire[] } | null;
  readonly rowLimit: number;
}[];

/** Rows as they are stored: for each plan the values of its outputs, row by row. */
export const storedRows: Run<StoredRowsInput, readonly (readonly (readonly Wire[])[])[]> = {
  pace: 'by statement',
  *compute(dialect, input) {
    const found: (readonly (readonly Wire[])[])[] = [];
    for (const { prepared, keys, rowLimit } of input) {
      const { select: query, outputs } = prepared.compiled;
      const parameters =
        keys === null ? prepared.parameters : { ...prepared.parameters, keys: dialect.values.bindKeys(keys.type, keys.list) };
      const { cells } = yield* fetch(dialect, { query, outputs, parameters, options: { madeHere: prepared.madeHere, rowLimit } });
      found.push(cells);
    }
    return found;
  },
};

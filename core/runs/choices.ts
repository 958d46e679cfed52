import { fetch, type Prepared } from '../load/index.js';
import { TITLE } from '../plan/index.js';
import type { Run } from './run.js';

export interface ChoicesInput {
  /** Rows with their titles, one more than are listed. */
  readonly prepared: Prepared;
  readonly keyName: string;
  readonly most: number;
}

export interface Choices {
  readonly rows: readonly { readonly key: string; readonly shown: string }[];
  /** There are too many to list. */
  readonly more: boolean;
}

/** Rows to choose from, each by its key and as what it is shown. */
export const choices: Run<ChoicesInput, Choices> = {
  pace: 'whole',
  *compute(dialect, { prepared: { compiled, parameters, madeHere }, keyName, most }) {
    const { select: query, outputs } = compiled;
    const { cells, cut } = yield* fetch(dialect, { query, outputs, parameters, options: { madeHere, rowLimit: most } });
    const at = (name: string) => cells[outputs.findIndex((output) => output.name === name)] ?? [];
    const shown = at(TITLE);
    return {
      rows: at(keyName).map((key, row) => ({ key: String(key ?? ''), shown: String(shown[row] ?? key ?? '') })),
      more: cut,
    };
  },
};

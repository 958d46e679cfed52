import { type Cut, type Explained, type LogEntry, loadRows, type Prepared } from '../load/index.js';
import { answerText } from './answer-text.js';
import type { Run } from './run.js';

export interface LoadInput {
  readonly prepared: Prepared;
  /** How many rows of the root, and of each load, at most. */
  readonly rowLimit: number;
  /** Left out: not. */
  readonly explained?: Explained;
}

/** A load's answer as it leaves the engine's process: the rows as one JSON text. */
export interface LoadedText {
  readonly text: string;
  readonly rows: number;
  readonly log: readonly LogEntry[];
  readonly cuts: readonly Cut[];
}

/** The rows of a query with what is loaded below them, and the log of every statement. */
export const load: Run<LoadInput, LoadedText> = {
  pace: 'whole',
  *compute(dialect, { prepared, rowLimit, explained = 'not' }) {
    const loaded = yield* loadRows(dialect, { prepared, rowLimit, explained });
    const { text, rows, cut } = answerText(loaded.rows);
    return { text, rows, log: loaded.log, cuts: cut === null ? loaded.cuts : [...loaded.cuts, cut] };
  },
};

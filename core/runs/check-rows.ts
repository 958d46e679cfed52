import type { Dialect } from '../dialects/index.js';
import { type Computation, type Fetched, fetch, type Prepared, type Refusal } from '../load/index.js';
import type { Wire } from '../values/index.js';
import type { Run } from './run.js';

/** How rows that do not hold to the design are looked for. */
export interface CheckRowsInput {
  /** Each gives a number that is 0 where all questions that name it would find nothing. */
  readonly screens: readonly Prepared[];
  readonly questions: readonly {
    /** The place of its screen in the list; null for none. */
    readonly screen: number | null;
    readonly count: Prepared;
    readonly examples: Prepared;
  }[];
  /** Refusals after which no further question has an answer, by their codes. */
  readonly endsAt: readonly string[];
}

/** The answer to a question: the rows that it found, or why it could not be asked. */
export type RowsFound =
  | { readonly kind: 'none' }
  | { readonly kind: 'rows'; readonly rows: number; readonly examples: readonly (readonly Wire[])[] }
  | { readonly kind: 'refused'; readonly refused: Refusal }
  | { readonly kind: 'not asked' };

const MOST_EXAMPLES = 100;

/** Asks the rows of a database whether they hold to the design; an answer for each question, in order. */
export const checkRows: Run<CheckRowsInput, readonly RowsFound[]> = {
  pace: 'by statement',
  *compute(dialect, { screens, questions, endsAt }) {
    const screened = new Map<number, boolean>();
    const found: RowsFound[] = [];
    let ended = false;
    for (const { screen, count, examples } of questions) {
      if (ended) {
        found.push({ kind: 'not asked' });
        continue;
      }
      if (screen !== null && !screened.has(screen)) {
        const looked = screens[screen];
        const answer = looked === undefined ? null : yield* asked(dialect, looked, 1);
        screened.set(screen, answer?.refused === null && numberIn(answer) === 0);
      }
      if (screen !== null && screened.get(screen) === true) {
        found.push({ kind: 'none' });
        continue;
      }
      const counted = yield* asked(dialect, count, 1);
      if (counted.refused !== null) {
        ended = endsAt.includes(counted.refused.code);
        found.push({ kind: 'refused', refused: counted.refused });
        continue;
      }
      const rows = numberIn(counted);
      if (rows === 0) {
        found.push({ kind: 'none' });
        continue;
      }
      const few = yield* asked(dialect, examples, MOST_EXAMPLES);
      found.push({ kind: 'rows', rows, examples: few.refused === null ? few.cells : [] });
    }
    return found;
  },
};

function* asked(dialect: Dialect, { compiled, parameters }: Prepared, rowLimit: number): Computation<Fetched> {
  const { select: query, outputs } = compiled;
  // Whatever a database was made by, its rows are looked at as if nothing kept them.
  const request = { query, outputs, parameters, options: { madeHere: false, rowLimit } };
  return yield* fetch(dialect, request, { keys: null, path: '', span: null, explained: 'not', mayFail: true });
}

function numberIn({ cells }: Fetched): number {
  return Number(cells[0]?.[0] ?? 0);
}

import { type AnswerRow, loadRows, type Prepared } from '../load/index.js';
import type { ValueType, Wire } from '../values/index.js';
import { answerText } from './answer-text.js';
import type { Run } from './run.js';

export interface PageInput {
  /** The rows by their keys; where some have none, by their places. */
  readonly prepared: Prepared;
  /** The keys, in the order in which the rows are wanted; null where they are found by their places. */
  readonly keys: readonly Wire[] | null;
  readonly keyType: ValueType;
  /** The name under which a row bears its key. */
  readonly keyName: string;
  readonly rowLimit: number;
  /** The pair over which each row was reached, by the owner that was walked from; null where there is none. */
  readonly pairs: { readonly prepared: Prepared; readonly role: string } | null;
}

const MOST_PAIRS = 10_000;

/** A window of rows, in order, as one JSON array: own fields, and below each to-one role the title of the row it leads to. */
export const page: Run<PageInput, { readonly text: string; readonly cut: boolean }> = {
  pace: 'whole',
  *compute(dialect, { prepared, keys, keyType, keyName, rowLimit, pairs }) {
    if (keys === null) return fitting((yield* loadRows(dialect, { prepared, rowLimit })).rows);
    const parameters = { ...prepared.parameters, keys: dialect.values.bindKeys(keyType, keys) };
    const found = yield* loadRows(dialect, { prepared: { ...prepared, parameters }, rowLimit });
    const byKey = new Map(found.rows.map((row) => [String(row[keyName]), row]));
    const pairsByKey = new Map<string, AnswerRow>();
    if (pairs !== null) {
      const [owner] = (yield* loadRows(dialect, { prepared: pairs.prepared, rowLimit: MOST_PAIRS })).rows;
      const reached = owner?.[pairs.role];
      for (const row of Array.isArray(reached) ? (reached as readonly AnswerRow[]) : [])
        pairsByKey.set(String(row[keyName]), pairOf(row, keyName));
    }
    const wanted = keys.flatMap((key) => {
      const row = byKey.get(String(key));
      return row === undefined ? [] : [{ ...row, ...pairsByKey.get(String(key)) }];
    });
    return fitting(wanted);
  },
};

/** As many of the rows as an answer holds. */
function fitting(rows: readonly unknown[]): { readonly text: string; readonly cut: boolean } {
  const { text, cut } = answerText(rows);
  return { text, cut: cut !== null };
}

/** What a row bears of its pair: an object under the name of the pivot. */
function pairOf(row: AnswerRow, keyName: string): AnswerRow {
  const parts = Object.entries(row).filter(
    ([name, value]) => name !== keyName && typeof value === 'object' && value !== null && !Array.isArray(value),
  );
  return Object.fromEntries(parts);
}

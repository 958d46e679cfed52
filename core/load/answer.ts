import type { Entity } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import type { Prepared } from './prepare.js';
import type { Explained, LogEntry } from './statement.js';

/** A row of the answer. */
export type AnswerRow = Record<string, unknown>;

/** The key of a row of the answer: of several fields, their values as one. */
export function keyOfRow({ key }: Pick<Entity, 'key'>, row: Readonly<AnswerRow>): Wire {
  return joinKey(
    key.type,
    key.fields.map(({ name }) => (row[name] ?? null) as Wire),
  );
}

/** A place where the row limit cut an answer. */
export interface Cut {
  /** The load, as a path from the root; empty for the root rows. */
  readonly path: string;
  /** How many rows are left. */
  readonly limit: number;
  /** The length of the answer that cut it, in characters; null where it was the number of rows. */
  readonly size: number | null;
}

export interface LoadAnswer {
  readonly rows: readonly AnswerRow[];
  readonly log: readonly LogEntry[];
  readonly cuts: readonly Cut[];
}

export interface LoadRequest {
  readonly prepared: Prepared;
  readonly rowLimit: number;
  /** Left out: not. */
  readonly explained?: Explained;
}

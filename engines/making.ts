import type { Dialect, KeyToHold } from '../core/dialects/index.js';
import { insertOf } from '../core/sql/index.js';
import type { BoundValue } from '../core/values/index.js';
import type { Insert, MakeReport, MakeRequest, RefusedRows } from './engine.js';
import { define, type Refusal, type WriteWork } from './writing.js';

/** How an engine makes a schema with its rows. */
export interface MakingTraits {
  readonly dialect: Dialect;
  /** How many rows of so many columns go into one statement. */
  rowsAtOnce(columns: number): number;
  /** Whether what looks at the rows is there before them: it refuses them one by one. */
  readonly looksAtEach: boolean;
  /** Removes the rows that point at a row which is not there, until none is left. */
  holdKeys(keys: readonly KeyToHold[], made: MakingTally): WriteWork<void>;
}

/** The tally of a making: rows by table, and refused ones. */
export class MakingTally {
  readonly rows: Record<string, number> = {};
  readonly #refused = new Map<string, { table: string; constraint: string; rows: number }>();

  put(table: string, rows: number): void {
    this.rows[table] = (this.rows[table] ?? 0) + rows;
  }

  refuse(table: string, constraint: string, rows = 1): void {
    const key = `${table}\n${constraint}`;
    const before = this.#refused.get(key);
    if (before === undefined) this.#refused.set(key, { table, constraint, rows });
    else before.rows += rows;
  }

  /** Rows went again, since what they point at is not there. */
  takeOut(table: string, parent: string, rows: number): void {
    this.rows[table] = (this.rows[table] ?? rows) - rows;
    this.refuse(table, `a key that points at a row of ${parent} that is not there`, rows);
  }

  get refused(): readonly RefusedRows[] {
    return Array.from(this.#refused.values());
  }
}

/** Makes a schema and its rows; rows that a constraint refuses are left out and counted. */
export function* making(request: MakeRequest, traits: MakingTraits): WriteWork<MakeReport> {
  const made = new MakingTally();
  const { before, after } = request;
  for (const statement of traits.looksAtEach ? [...before, ...after] : before) yield define(statement);
  for (const insert of request.inserts) made.put(insert.table.name, yield* puttingIn(insert, traits, made));
  // Where no row was put in none points at nothing, and a key that leads to what is no key cannot be looked at.
  if (request.inserts.length > 0) yield* traits.holdKeys(request.keys, made);
  if (!traits.looksAtEach) for (const statement of after) yield define(statement);
  return { rows: made.rows, refused: made.refused };
}

/** Puts in the rows of one table; where a statement is refused, its rows go in one by one. Gives how many are in. */
function* puttingIn(
  { table, columns, rows }: Insert,
  { dialect, rowsAtOnce }: MakingTraits,
  made: MakingTally,
): WriteWork<number> {
  const printed = new Map<number, string>();
  const insert = (count: number): string => {
    const sql = printed.get(count) ?? dialect.printChange(insertOf(table, columns, count));
    printed.set(count, sql);
    return sql;
  };
  const attempt = function* (some: readonly (readonly BoundValue[])[]): WriteWork<Refusal | null> {
    const [first] = some;
    const values = some.length === 1 && first !== undefined ? first : some.flat();
    return (yield { kind: 'attempt' as const, sql: insert(some.length), values }).refusal;
  };
  const most = rowsAtOnce(columns.length);
  let done = 0;
  for (let from = 0; from < rows.length; from += most) {
    const some = rows.slice(from, from + most);
    const refusal = yield* attempt(some);
    if (refusal === null) {
      done += some.length;
      continue;
    }
    if (refusal.whateverRow) {
      made.refuse(table.name, refusal.constraint, rows.length - from);
      return done;
    }
    if (some.length === 1) {
      made.refuse(table.name, refusal.constraint);
      continue;
    }
    for (const row of some) {
      const alone = yield* attempt([row]);
      if (alone === null) done += 1;
      else made.refuse(table.name, alone.constraint);
    }
  }
  return done;
}

/** Removes what points nowhere by the statements that are given for each key. */
export function* holdingKeys(keys: readonly KeyToHold[], made: MakingTally): WriteWork<void> {
  for (let found = true; found; ) {
    found = false;
    for (const { table, parent, sql } of keys) {
      const { changed } = yield { kind: 'write', sql, values: [] };
      if (changed === 0) continue;
      found = true;
      made.takeOut(table, parent, changed);
    }
  }
}

import type { KeyToHold } from '../../core/dialects/index.js';
import type { BoundValue } from '../../core/values/index.js';
import type { Insert, RefusedRows } from '../engine.js';

/** Counts the rows that something refused, by table and by what refused them. */
export class Refusals {
  private readonly known = new Map<string, { table: string; constraint: string; rows: number }>();

  add(table: string, constraint: string, rows = 1): void {
    const key = `${table}\n${constraint}`;
    const before = this.known.get(key);
    if (before === undefined) this.known.set(key, { table, constraint, rows });
    else before.rows += rows;
  }

  list(): RefusedRows[] {
    return Array.from(this.known.values());
  }
}

type Rows = readonly (readonly BoundValue[])[];

export interface Putting {
  /** How many rows go in one statement. */
  readonly size: number;
  /** Tries to put rows in; null where all are in, else what refused them, and then none is. */
  attempt(rows: Rows): Promise<string | null>;
}

/** Puts rows in, many at once; where a statement is refused, its rows go in one by one. Gives how many are in. */
export async function putIn(insert: Insert, refusals: Refusals, { size, attempt }: Putting): Promise<number> {
  let done = 0;
  for (let from = 0; from < insert.rows.length; from += size) {
    const chunk = insert.rows.slice(from, from + size);
    const refused = await attempt(chunk);
    if (refused === null) {
      done += chunk.length;
      continue;
    }
    if (chunk.length === 1) {
      refusals.add(insert.table, refused);
      continue;
    }
    for (const row of chunk) {
      const alone = await attempt([row]);
      if (alone === null) done += 1;
      else refusals.add(insert.table, alone);
    }
  }
  return done;
}

/** Takes out the rows that point at a row which is not there, until none is left. */
export async function holdKeys(
  keys: readonly KeyToHold[],
  rows: Record<string, number>,
  refusals: Refusals,
  remove: (sql: string) => Promise<number>,
): Promise<void> {
  for (let found = true; found; ) {
    found = false;
    for (const { table, parent, sql } of keys) {
      const gone = await remove(sql);
      if (gone === 0) continue;
      found = true;
      rows[table] = (rows[table] ?? gone) - gone;
      refusals.add(table, `a key that points at a row of ${parent} that is not there`, gone);
    }
  }
}

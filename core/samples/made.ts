import type { ValueType, Wire } from '../values/index.js';

/** A row that was made: its values by column. */
export type MadeRow = ReadonlyMap<string, Wire>;

export interface MadeColumn {
  readonly name: string;
  readonly type: ValueType;
}

/** The rows of one table, in the order in which they were made. */
export interface MadeTable {
  readonly schema: string | null;
  readonly table: string;
  /** Its columns; a row may have no value for some. */
  readonly columns: readonly MadeColumn[];
  /** The entity, or the relation of a pivot. */
  readonly owner: string;
  readonly rows: readonly MadeRow[];
}

/** Something that could not be made as the text asks, with the constraint that stood against it. */
export interface Unsatisfied {
  readonly owner: string;
  readonly constraint: string;
  readonly rows: number;
}

export interface Samples {
  /** The rows as they are meant, by the entity that each is of and, of pairs, by the relation; before tables hold them. */
  readonly rows: ReadonlyMap<string, readonly MadeRow[]>;
  readonly pairs: ReadonlyMap<string, readonly MadeRow[]>;
  readonly tables: readonly MadeTable[];
  /** The keys of named rows, by `Entity(row)`. */
  readonly keys: Readonly<Record<string, Wire>>;
  readonly unsatisfied: readonly Unsatisfied[];
}

/** Counts what could not be made, by owner and constraint. */
export class Shortfalls {
  private readonly counts = new Map<string, { owner: string; constraint: string; rows: number }>();

  add(owner: string, constraint: string, rows = 1): void {
    const key = `${owner}\n${constraint}`;
    const known = this.counts.get(key);
    if (known === undefined) this.counts.set(key, { owner, constraint, rows });
    else known.rows += rows;
  }

  list(): Unsatisfied[] {
    return Array.from(this.counts.values());
  }
}

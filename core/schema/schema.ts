import type { DeleteRule } from '../notation/index.js';
import type { TableName } from '../sql/index.js';

/** A column as an engine keeps it: its declared type, and its default as SQL. */
export interface Column {
  readonly name: string;
  readonly type: string;
  readonly notNull: boolean;
  readonly default: string | null;
}

export interface ForeignKey {
  readonly name: string | null;
  readonly columns: readonly string[];
  readonly table: string;
  readonly references: readonly string[];
  readonly onDelete: DeleteRule;
  readonly onUpdate: DeleteRule;
}

export interface Unique {
  readonly name: string | null;
  readonly columns: readonly string[];
}

export interface Index {
  readonly name: string;
  readonly columns: readonly string[];
  readonly unique: boolean;
}

export interface Check {
  readonly name: string | null;
  /** The condition in the engine's SQL. */
  readonly expression: string;
}

export interface Table {
  readonly name: TableName;
  readonly columns: readonly Column[];
  readonly primaryKey: { readonly columns: readonly string[]; readonly autoincrement: boolean };
  readonly foreignKeys: readonly ForeignKey[];
  readonly uniques: readonly Unique[];
  readonly checks: readonly Check[];
  readonly indexes: readonly Index[];
}

/** The tables of one database on one engine: wished, made from a model; or actual, read back from the engine. */
export interface Schema {
  readonly tables: readonly Table[];
}

/** What a constraint's name leads back to: the text that a person is told, and where it was stated. */
export interface ConstraintSource {
  readonly constraint: string;
  readonly what: string;
  readonly message: string | null;
}

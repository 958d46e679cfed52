import type { DeleteRule } from '../notation/index.js';
import type { TableName, Trigger } from '../sql/index.js';

/** A column as an engine keeps it: its declared type, and its default as SQL. */
export interface Column {
  readonly name: string;
  readonly type: string;
  readonly notNull: boolean;
  readonly default: string | null;
  readonly collation: string | null;
  /** The SQL that gives its value, and whether that is stored. */
  readonly generated: { readonly sql: string; readonly stored: boolean } | null;
  readonly comment: string | null;
}

export interface ForeignKey {
  readonly name: string | null;
  readonly columns: readonly string[];
  readonly table: string;
  /** The schema of that table, where the engine has them and it is not the one that is used anyway. */
  readonly schema: string | null;
  /** Empty where the key names no column: it then points at the primary key of the other table. */
  readonly references: readonly string[];
  readonly onDelete: DeleteRule;
  readonly onUpdate: DeleteRule;
  /** Looked at when the transaction ends, not with each statement. */
  readonly deferred: boolean;
  /** The whole constraint as it stands, where there is more to it. */
  readonly sql: string | null;
}

export interface Unique {
  readonly name: string | null;
  readonly columns: readonly string[];
}

export interface Index {
  readonly name: string;
  /** Its columns, where it is over columns alone. */
  readonly columns: readonly string[];
  readonly unique: boolean;
  /** The statement as it stands, where there is more to it: a condition, expressions, an order, a collation. */
  readonly sql: string | null;
}

export interface Check {
  readonly name: string | null;
  /** The condition in the engine's SQL. */
  readonly expression: string;
}

export interface PrimaryKey {
  /** Empty where a table has none. */
  readonly columns: readonly string[];
  readonly name: string | null;
  readonly autoincrement: boolean;
}

export interface Table {
  readonly name: TableName;
  readonly columns: readonly Column[];
  readonly primaryKey: PrimaryKey;
  readonly foreignKeys: readonly ForeignKey[];
  readonly uniques: readonly Unique[];
  readonly checks: readonly Check[];
  readonly indexes: readonly Index[];
  /** Constraints that the parts above cannot hold, as SQL. */
  readonly constraints: readonly string[];
  /** What stands behind the bracket of the statement, as `WITHOUT ROWID`. */
  readonly options: readonly string[];
  readonly triggers: readonly TableTrigger[];
  readonly comment: string | null;
  /** The whole statement, where the parts above do not say all that it does. */
  readonly statement: string | null;
}

/** A trigger of a table. */
export type TableTrigger =
  /** One that the model asks for, with the relation that it keeps, where it keeps one; a dialect prints it. */
  | { readonly kind: 'made'; readonly trigger: Trigger; readonly relation: string | null }
  /** One that somebody else wrote, with its name, as the text or the engine has it. */
  | { readonly kind: 'written'; readonly name: string; readonly sql: string };

/** The name of a trigger. */
export function triggerName(trigger: TableTrigger): string {
  return trigger.kind === 'made' ? trigger.trigger.name : trigger.name;
}

/** The triggers that somebody else wrote. */
export function writtenTriggers({ triggers }: Pick<Table, 'triggers'>): readonly Extract<TableTrigger, { kind: 'written' }>[] {
  return triggers.flatMap((trigger) => (trigger.kind === 'written' ? [trigger] : []));
}

/** The tables of one database on one engine: wished, made from a model; or actual, read back from the engine. */
export interface Schema {
  /** Statements that make what tables stand on: types, domains, sequences, functions. */
  readonly prelude: readonly string[];
  readonly tables: readonly Table[];
  /** Statements that make what is no table of rows of its own: views, virtual tables, and what stands on them. */
  readonly others: readonly string[];
}

/** The source of a constraint: the message for a person, and where it was stated. */
export interface ConstraintSource {
  readonly constraint: string;
  readonly what: string;
  readonly message: string | null;
}

/** A rule of a key that the engine cannot carry out: what it would change is refused there. */
export interface UnkeptRule {
  readonly event: 'delete' | 'update';
  /** The table that holds the key, and its columns. */
  readonly table: string;
  readonly columns: readonly string[];
  /** The table of what it points at. */
  readonly parent: string;
}

import type { DialectName } from '../notation/index.js';
import type { ForeignKey, Schema, SchemaTarget, Table } from '../schema/index.js';
import type { Change, Query, TableName, Trigger } from '../sql/index.js';
import type { Conversions } from './conversions.js';
import type { ExactValues } from './exact.js';

/** One way to write SQL. */
export interface Dialect extends SchemaTarget {
  readonly name: DialectName;
  /** What people call it. */
  readonly title: string;
  /** What its engine can and cannot do, where that is told of a text. */
  readonly powers: DialectPowers;
  /** Whether a select in `from` can speak of the rows around it, where the whole stands inside another. */
  readonly correlates: boolean;
  /** Whether the step of a recursive with may speak once only of what it adds to (PostgreSQL, “WITH Queries”). */
  readonly recursesOnce: boolean;
  /**
   * How so many rows of each owner are asked for the quickest. *within*: by a select for each owner, within the statement. *by key*:
   * the same for the keys of the rows, where they hold the owner's. *by number*: by the number of each row among those of its
   * owner.
   */
  readonly limitsEach: 'within' | 'by key' | 'by number';
  /** What stands between double quotes, as its applications write SQL. */
  readonly doubleQuoted: 'name' | 'text';
  /** How values of one type are made into those of another. */
  readonly conversions: Conversions;
  /** How values are kept as they are, whatever their types. */
  readonly exact: ExactValues;
  /** How a session says who is at work, so that views can ask. */
  readonly atWork: AtWork;
  /** How a database keeps rows from whoever is at work itself; null where it cannot. */
  readonly policies: Policies | null;
  printQuery(query: Query): string;
  /** What of a table's SQL is there for these columns: the columns, their constraints and their indexes. */
  columnParts(table: Table, columns: readonly string[]): string[];
  /** A statement that changes rows; keys that the engine would number may be given. */
  printChange(change: Change): string;
  /** The statement by which the engine's own numbers go on after a key that was given; null where they do so by themselves. */
  countOnAfter(table: TableName, column: string): string | null;
  /** How many rows of so many columns one insert is best given, where many follow each other. */
  rowsInOneInsert(columns: number): number;
  /** The statements that make a trigger. */
  trigger(trigger: Trigger): string[];
  /** A foreign key as a table states it. */
  foreignKey(key: ForeignKey): string;
  /** The statements that make a schema, in an order that works; none ends in a semicolon. */
  createStatements(schema: Schema): string[];
  /** What a script begins with: what its session, and each that writes to the tables later, has to say. */
  scriptHead(schema: Schema): string;
  /** A statement with the end that the engine's own shell looks for. */
  ended(statement: string): string;
  /**
   * The same statements where rows come between: tables before them; what would look at each row, or needs them to be
   * there, after. Of an engine that can look at foreign keys at the end, all stand before.
   */
  steps(schema: Schema): { readonly before: readonly string[]; readonly after: readonly string[] };
}

/** The columns of a key, with their types as SQL has them. */
export type KeyColumns = readonly { readonly name: string; readonly type: string }[];

/** The statements by which a database keeps rows itself. */
export interface Policies {
  /**
   * Those of a table.
   *
   * @param queries the keys of the rows that are seen, null for all; and of those that may be changed
   */
  ofTable(
    table: TableName,
    key: KeyColumns,
    queries: { readonly seen: string | null; readonly changed: string },
  ): readonly string[];
  /** Those of a table of pairs, by the rows that are seen of the tables which its columns point at. */
  ofPairs(table: TableName, ends: readonly { readonly columns: readonly string[]; readonly of: TableName }[]): readonly string[];
  /** How a session works as a role, for its transaction. */
  asRole(role: string): string;
  /** One statement that fails, with `touched` in its message, where a change that a session carries out reaches a row; nothing of it stays. */
  fails(said: readonly string[], change: string, touched: string): string;
}

/** How a session of an engine says who is at work. */
export interface AtWork {
  /** What is made once, before any view; of a session where nothing is kept of it. */
  readonly made: readonly string[];
  /** The key of whoever is at work, as a text, or null, as SQL. */
  readonly asked: string;
  /** How a session says it, for a person to read. */
  readonly said: string;
  /** What a session says of a key, or of nobody by null, so that it holds for its transaction. */
  says(key: string | null): readonly string[];
  /** Whether what is made stays in the database; else each session makes it anew. */
  readonly stays: boolean;
  /** What makes a view, up to its name. */
  readonly view: string;
}

/** The capabilities of an engine, as far as findings speak of them. */
export interface DialectPowers {
  /** How much of a text without a length an index holds. */
  readonly indexesText: 'all of it' | 'shorter ones' | 'its beginning';
  /** Whether its own numbers hold a decimal of any length to the last digit. */
  readonly exactNumbers: boolean;
  /** The longest name of a table or a column. */
  readonly longestName: { readonly most: number; readonly unit: 'bytes' | 'characters' };
  /** Whether a foreign key is kept for whoever writes, and not for those alone who ask for it. */
  readonly keepsKeysForAll: boolean;
  /** Whether a foreign key can put a default in the place of what it points at. */
  readonly setsDefault: boolean;
  /** Whether a changed key is carried on to rows of the same table. */
  readonly carriesWithinTable: boolean;
}

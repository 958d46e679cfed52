import type { DialectName } from '../notation/index.js';
import type { ForeignKey, Schema, Table } from '../schema/index.js';
import type { TableName } from '../sql/index.js';

/** A database that others made, as it was read. */
export interface Existing {
  readonly dialect: DialectName;
  readonly schema: Schema;
  /** The statement that made each table, by its name. */
  readonly statements: ReadonlyMap<string, string>;
  /** Types that are a list of texts, by their names. */
  readonly choices: readonly { readonly name: string; readonly values: readonly string[] }[];
}

/** Names that a text has given already, by what they are physically, so that bringing in again keeps them. */
export interface GivenNames {
  /** By table. */
  readonly entities: ReadonlyMap<string, string>;
  /** By table and column. */
  readonly fields: ReadonlyMap<string, string>;
  /** By table and columns of the foreign key. */
  readonly links: ReadonlyMap<string, LinkNames>;
  /** By the pivot's table. */
  readonly pivots: ReadonlyMap<string, PivotNames>;
}

export interface LinkNames {
  readonly name: string;
  readonly role: string | null;
  readonly reverse: string | null;
}

export interface PivotNames {
  readonly name: string;
  readonly roles: readonly [string | null, string | null];
}

export const NO_NAMES: GivenNames = {
  entities: new Map(),
  fields: new Map(),
  links: new Map(),
  pivots: new Map(),
};

/** A table's name as one text, with its schema where it says one. */
export function fullName({ schema, name }: TableName): string {
  return schema === null ? name : `${schema}.${name}`;
}

/** The table that a foreign key points at. */
export function targetOf({ schema, table }: ForeignKey): string {
  return fullName({ schema, name: table });
}

/** One name for a thing in a table, for looking it up whatever its case. */
export function placeOf(table: string, ...columns: readonly string[]): string {
  return [table, ...columns].join('\n').toLowerCase();
}

/** Can the notation write this name? It has no way to write a line break or what is no character. */
export function isWritable(name: string): boolean {
  return name !== '' && !/[\x00-\x1f\x7f\ufffd\p{Cs}]/u.test(name);
}

/** Can every name of a table be written? */
export function isSpeakable(table: Table): boolean {
  return isWritable(table.name.name) && table.columns.every(({ name }) => isWritable(name));
}

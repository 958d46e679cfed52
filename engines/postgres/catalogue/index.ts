import type { Connection } from '../../server/connection.js';
import { asking, text } from './ask.js';
import { readStatements } from './statements.js';
import {
  type ColumnRow,
  type ConstraintRow,
  type EnumRow,
  type IndexRow,
  readColumns,
  readConstraints,
  readEnums,
  readIndexes,
  readTables,
  readTriggers,
  type TableRow,
  type TriggerRow,
} from './tables.js';
import { readUnsaid } from './unsaid.js';

export type { ColumnRow, ConstraintRow, EnumRow, IndexRow, TableRow, TriggerRow } from './tables.js';

/** Queries of PostgreSQL's system catalogs (PostgreSQL, chapter 53), each for all tables of the wanted schemas at once. */
export interface Catalogue {
  readonly version: string;
  /** The schema that is meant where a name says none. */
  readonly place: string;
  readonly tables: readonly TableRow[];
  readonly columns: readonly ColumnRow[];
  readonly constraints: readonly ConstraintRow[];
  readonly indexes: readonly IndexRow[];
  readonly triggers: readonly TriggerRow[];
  readonly enums: readonly EnumRow[];
  /** Statements for what tables stand on, in an order that works. */
  readonly before: readonly string[];
  /** Statements for what stands on tables. */
  readonly after: readonly string[];
  /** What is there and is carried by no statement, in words. */
  readonly unsaid: readonly string[];
}

/** Reads the catalogs in the transaction that is open. */
export async function readCatalogue(connection: Connection, schemas: readonly string[] | null): Promise<Catalogue> {
  const [about] = await connection.query("select current_setting('server_version'), coalesce(current_schema(), 'public')");
  const place = text(about?.[1]);
  // Names are then written without a schema where they stand in this one, and with it elsewhere.
  await connection.query(`set local search_path = "${place.replaceAll('"', '""')}"`);
  const ask = asking(connection, schemas);
  const tables = await readTables(ask);
  const columns = await readColumns(ask);
  const constraints = await readConstraints(ask);
  const indexes = await readIndexes(ask);
  const triggers = await readTriggers(ask);
  const enums = await readEnums(ask);
  const { before, after } = await readStatements(ask);
  const unsaid = await readUnsaid(ask);
  return {
    version: text(about?.[0]),
    place,
    tables,
    columns,
    constraints,
    indexes,
    triggers,
    enums,
    before,
    after: [...after, ...triggers.flatMap(({ switched }) => switched ?? [])],
    unsaid,
  };
}

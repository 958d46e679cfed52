import type { Connection } from '../../server/connection.js';

/** A text of an answer; null where there is none. */
export type Text = string | null;

/** Puts a query of the catalogs; `WANTED` in it is the condition on the schemas that are read, of `pg_namespace n`. */
export type Ask = (sql: string) => Promise<readonly (readonly unknown[])[]>;

/**
 * Asks of the schemas that are wanted, or of all but the server's own.
 *
 * @param connection in the transaction that the catalogs are read in
 */
export function asking(connection: Connection, schemas: readonly string[] | null): Ask {
  const wanted = schemas === null ? "n.nspname !~ '^pg_' and n.nspname <> 'information_schema'" : 'n.nspname = any($1::text[])';
  return (sql) =>
    connection.query(sql.replaceAll('WANTED', wanted), schemas === null || !sql.includes('WANTED') ? [] : [schemas]);
}

/** The condition that something is no part of an extension. */
export function notOfExtension(catalogue: string, id: string): string {
  return `not exists (select 1 from pg_depend e where e.classid = '${catalogue}'::regclass and e.objid = ${id} and e.deptype = 'e')`;
}

/** A value of an answer as text; nothing is the empty text. */
export function text(value: unknown): string {
  return value === null || value === undefined ? '' : String(value);
}

/** A value of an answer as text; null where there is none, or an empty one. */
export function maybe(value: unknown): Text {
  return value === null || value === undefined || value === '' ? null : String(value);
}

/** The names in an answer that is a list in JSON. */
export function list(value: unknown): string[] {
  const parsed: unknown = JSON.parse(text(value) === '' ? '[]' : text(value));
  return Array.isArray(parsed) ? parsed.map(String) : [];
}

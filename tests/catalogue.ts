import type Database from 'better-sqlite3';
import { tableShape } from '../core/sql/index.js';

interface Named {
  readonly name: string;
}

/**
 * All that SQLite's catalogue tells of a database, as lines that can be compared: tables, columns, keys, indexes term
 * by term, foreign keys, and what only the statements tell. Space in SQL makes no difference; nor do the names that
 * SQLite itself gives to the indexes behind constraints, and the order of foreign keys and indexes.
 */
export function catalogueOf(db: Database.Database): string[] {
  const lines: string[] = [];
  const tables = db
    .prepare(
      "select name, type, wr, strict from pragma_table_list where schema = 'main' and name not like 'sqlite%' order by name",
    )
    .all() as (Named & { type: string; wr: number; strict: number })[];
  for (const { name, type, wr, strict } of tables) {
    lines.push(`${type} ${name} wr=${wr} strict=${strict}`);
    if (type === 'view' || type === 'shadow') continue;
    const say = (what: string, rows: readonly unknown[]) =>
      lines.push(...rows.map((row) => `${name} ${what} ${spaced(JSON.stringify(row))}`).sort());
    say('column', db.prepare('select * from pragma_table_xinfo(?)').all(name));
    say('foreign key', foreignKeys(db, name));
    say('index', indexes(db, name));
  }
  const statements = db
    .prepare("select type, name, tbl_name, sql from sqlite_schema where sql is not null and name not like 'sqlite%'")
    .all() as (Named & { type: string; tbl_name: string; sql: string })[];
  for (const { type, name, tbl_name, sql } of statements) {
    const kind = tables.find((table) => table.name === name)?.type;
    if (type !== 'table' || kind === 'virtual')
      lines.push(`${type} ${name} of ${tbl_name}: ${type === 'index' ? ofIndex(db, name, sql) : spaced(sql)}`);
    else if (kind === 'table') lines.push(...tableShape(sql).map((line) => `${name} says ${line}`));
  }
  return lines.sort();
}

/** The terms of an index are compared one by one; the words of its statement count where it has a condition or an expression. */
function ofIndex(db: Database.Database, name: string, sql: string): string {
  const expressions = db.prepare('select count(*) from pragma_index_xinfo(?) where key = 1 and name is null').pluck().get(name);
  return expressions === 0 && !/\bwhere\b/i.test(sql) ? '' : spaced(sql);
}

function foreignKeys(db: Database.Database, table: string): unknown[] {
  const rows = db.prepare('select * from pragma_foreign_key_list(?) order by id, seq').all(table) as { id: number }[];
  return Array.from(new Set(rows.map(({ id }) => id)), (id) =>
    rows.filter((row) => row.id === id).map((row) => ({ ...row, id: 0 })),
  );
}

function indexes(db: Database.Database, table: string): unknown[] {
  const rows = db.prepare('select name, "unique", origin, partial from pragma_index_list(?)').all(table) as (Named & {
    origin: string;
  })[];
  return rows.map((row) => ({
    ...row,
    name: row.origin === 'c' ? row.name : '',
    terms: db.prepare('select seqno, cid, name, desc, coll, key from pragma_index_xinfo(?) order by seqno').all(row.name),
  }));
}

function spaced(sql: string): string {
  return sql
    .replace(/(\\[rnt]|\s)+/g, ' ')
    .replace(/ ?([(),]) ?/g, '$1')
    .trim();
}

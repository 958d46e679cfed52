import type Database from 'better-sqlite3';
import type { DeleteRule } from '../../core/notation/index.js';
import type { Check, Column, ForeignKey, Index, Table, Unique } from '../../core/schema/index.js';
import { readCreateTable } from '../../core/sql/index.js';
import type { Introspection } from '../engine.js';

interface MasterRow {
  readonly type: string;
  readonly name: string;
  readonly tbl_name: string;
  readonly sql: string | null;
}

interface ColumnRow {
  readonly name: string;
  readonly type: string;
  readonly notnull: number;
  readonly dflt_value: string | null;
  readonly pk: number;
  readonly hidden: number;
}

/**
 * Reads a database's schema back: from the catalogue's pragmas (https://www.sqlite.org/pragma.html), and from the
 * CREATE statements for the names of constraints, the checks and autoincrement, which the catalogue does not tell.
 */
export function introspect(db: Database.Database): Introspection {
  const master = db
    .prepare("select type, name, tbl_name, sql from sqlite_schema where name not like 'sqlite\\_%' escape '\\' order by rowid")
    .all() as MasterRow[];
  const tables = master
    .filter((row) => row.type === 'table' && !/^\s*create\s+virtual/i.test(row.sql ?? ''))
    .map((row) => readTable(db, row.name, row.sql ?? ''));
  const virtual = master
    .filter((row) => row.type === 'table' && /^\s*create\s+virtual/i.test(row.sql ?? ''))
    .map((row) => ({ kind: 'virtual table', name: row.name }));
  const others = master
    .filter((row) => row.type === 'trigger' || row.type === 'view')
    .map((row) => ({ kind: row.type, name: row.name }));
  const version = db.prepare('select sqlite_version()').pluck().get() as string;
  return { schema: { tables }, version, others: [...virtual, ...others] };
}

function readTable(db: Database.Database, name: string, sql: string): Table {
  const created = readCreateTable(sql);
  const rows = db
    .prepare('select name, type, "notnull", dflt_value, pk, hidden from pragma_table_xinfo(?)')
    .all(name) as ColumnRow[];
  const columns = rows
    .filter((row) => row.hidden === 0)
    .map((row): Column => ({ name: row.name, type: row.type, notNull: row.notnull === 1, default: defaultOf(row.dflt_value) }));
  const primaryKey = rows
    .filter((row) => row.pk > 0)
    .sort((a, b) => a.pk - b.pk)
    .map((row) => row.name);
  const checks = created.constraints.flatMap((constraint): Check[] =>
    constraint.kind === 'check' ? [{ name: constraint.name, expression: constraint.expression }] : [],
  );
  const { uniques, indexes } = readIndexes(db, name, created.constraints);
  return {
    name: { schema: null, name },
    columns,
    primaryKey: { columns: primaryKey, autoincrement: created.autoincrement },
    foreignKeys: readForeignKeys(db, name, created.constraints),
    uniques,
    checks,
    indexes,
  };
}

/** The catalogue keeps an expression's default without its brackets; a literal stands as it was written. */
function defaultOf(value: string | null): string | null {
  if (value === null) return null;
  const literal = /^(?:[+-]?\d+(?:\.\d+)?|'(?:[^']|'')*'|x'[0-9a-f]*'|null|true|false|current_\w+)$/i.test(value);
  return literal || value.startsWith('(') ? value : `(${value})`;
}

function readForeignKeys(
  db: Database.Database,
  table: string,
  constraints: ReturnType<typeof readCreateTable>['constraints'],
): ForeignKey[] {
  const rows = db
    .prepare('select id, seq, "table", "from", "to", on_update, on_delete from pragma_foreign_key_list(?) order by id desc, seq')
    .all(table) as {
    id: number;
    seq: number;
    table: string;
    from: string;
    to: string | null;
    on_update: string;
    on_delete: string;
  }[];
  const names = constraints.filter((constraint) => constraint.kind === 'foreign key');
  const keys = new Map<number, typeof rows>();
  for (const row of rows) keys.set(row.id, [...(keys.get(row.id) ?? []), row]);
  return Array.from(keys.values(), (parts): ForeignKey => {
    const first = parts[0];
    const columns = parts.map((part) => part.from);
    const named = names.find((constraint) => constraint.columns.join('\n').toLowerCase() === columns.join('\n').toLowerCase());
    return {
      name: named?.name ?? null,
      columns,
      table: first?.table ?? '',
      // A key that names no column means the other table's primary key.
      references: parts.map((part, index) => part.to ?? primaryKeyOf(db, part.table)[index] ?? ''),
      onDelete: ruleOf(first?.on_delete),
      onUpdate: ruleOf(first?.on_update),
    };
  });
}

function primaryKeyOf(db: Database.Database, table: string): string[] {
  return db.prepare('select name from pragma_table_xinfo(?) where pk > 0 order by pk').pluck().all(table) as string[];
}

const RULES: readonly DeleteRule[] = ['cascade', 'restrict', 'set null', 'set default', 'no action'];

function ruleOf(written: string | undefined): DeleteRule {
  return RULES.find((rule) => rule === written?.toLowerCase()) ?? 'no action';
}

function readIndexes(
  db: Database.Database,
  table: string,
  constraints: ReturnType<typeof readCreateTable>['constraints'],
): { uniques: Unique[]; indexes: Index[] } {
  const rows = db.prepare('select name, "unique", origin, partial from pragma_index_list(?) order by seq desc').all(table) as {
    name: string;
    unique: number;
    origin: string;
    partial: number;
  }[];
  const uniques: Unique[] = [];
  const indexes: Index[] = [];
  for (const row of rows) {
    const columns = db.prepare('select name from pragma_index_info(?) order by seqno').pluck().all(row.name) as (string | null)[];
    const plain = columns.filter((column) => column !== null);
    // Partial indexes and those over expressions have no columns alone to tell them by.
    if (row.partial === 1 || plain.length < columns.length) continue;
    if (row.origin === 'u') {
      const named = constraints.find(
        (constraint) =>
          constraint.kind === 'unique' && constraint.columns.join('\n').toLowerCase() === plain.join('\n').toLowerCase(),
      );
      uniques.push({ name: named?.name ?? null, columns: plain });
    } else if (row.origin === 'c') {
      indexes.push({ name: row.name, columns: plain, unique: row.unique === 1 });
    }
  }
  return { uniques, indexes };
}

import type Database from 'better-sqlite3';
import type { DeleteRule } from '../../core/notation/index.js';
import type { Check, Column, ForeignKey, Index, Table, Unique } from '../../core/schema/index.js';
import { type CreateTable, readCreateTable } from '../../core/sql/index.js';
import type { Introspection } from '../engine.js';
import { MADE_HERE } from './mark.js';

interface MasterRow {
  readonly type: string;
  readonly name: string;
  readonly table: string;
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
 * CREATE statements for what the catalogue does not tell: names of constraints, checks, collations, autoincrement.
 * All of it is read in one transaction, so that a change of somebody else's is seen whole or not at all.
 */
export function introspect(db: Database.Database): Introspection {
  return db.transaction(() => read(db))();
}

function read(db: Database.Database): Introspection {
  const master = db
    .prepare(
      `select type, name, tbl_name as "table", sql from sqlite_schema where name not like 'sqlite\\_%' escape '\\' order by rowid`,
    )
    .all() as MasterRow[];
  const kinds = tableKinds(db);
  const shadows = new Set(master.filter(({ name }) => kinds.get(name) === 'shadow').map(({ name }) => name));
  // A catalogue that lies has entries that SQLite itself does not know of.
  const told = master.filter((row) => row.type !== 'table' || kinds.has(row.name));
  const unreadable = master
    .filter((row) => row.type === 'table' && !kinds.has(row.name))
    .map((row) => `The catalogue has an entry ${oneLine(row.name)} that SQLite cannot read; it is left out.`);
  const plain = told.filter((row) => row.type === 'table' && kinds.get(row.name) === 'table');
  const owners = new Set(plain.map(({ name }) => name.toLowerCase()));
  const triggers = told.filter((row) => row.type === 'trigger');
  const tables = plain.map((row) => {
    const own = triggers.filter((trigger) => trigger.table.toLowerCase() === row.name.toLowerCase());
    return readTable(db, row, master, own);
  });
  const apart = [
    ...told.filter((row) => row.type === 'view' || (row.type === 'table' && kinds.get(row.name) === 'virtual')),
    ...triggers.filter((row) => !owners.has(row.table.toLowerCase())),
  ].filter((row) => !shadows.has(row.name));
  const version = db.prepare('select sqlite_version()').pluck().get() as string;
  return {
    dialect: 'sqlite',
    schema: { prelude: [], tables, others: apart.map((row) => row.sql ?? '') },
    statements: new Map(plain.map((row) => [row.name, row.sql ?? ''])),
    version,
    unreadable: [...unreadable, ...besideTables(db)],
    choices: [],
  };
}

function oneLine(name: unknown): string {
  return JSON.stringify(String(name).slice(0, 80));
}

/** What a file says of itself beside its catalogue, and no statement that makes tables does. */
function besideTables(db: Database.Database): string[] {
  const pragma = (name: string) => db.pragma(name, { simple: true });
  const told = (what: string, value: unknown, usual: readonly unknown[]) =>
    usual.includes(value) ? [] : [`The file’s ${what}, ${String(value)}, is not carried.`];
  return [
    ...told('user_version', pragma('user_version'), [0]),
    ...told('application_id', pragma('application_id'), [0, MADE_HERE]),
    ...told('encoding', pragma('encoding'), ['UTF-8']),
    ...told('auto_vacuum', pragma('auto_vacuum'), [0]),
  ];
}

/** *table*, *view*, *virtual* or *shadow*, by name. */
function tableKinds(db: Database.Database): ReadonlyMap<string, string> {
  const rows = db.prepare(`select name, type from pragma_table_list where schema = 'main'`).all() as {
    name: string;
    type: string;
  }[];
  return new Map(rows.map(({ name, type }) => [name, type]));
}

function readTable(
  db: Database.Database,
  { name, sql }: MasterRow,
  master: readonly MasterRow[],
  triggers: readonly MasterRow[],
): Table {
  const created = readCreateTable(sql ?? '');
  const rows = db
    .prepare('select name, type, "notnull", dflt_value, pk, hidden from pragma_table_xinfo(?)')
    .all(name) as ColumnRow[];
  const columns = rows
    .filter((row) => row.hidden !== 1)
    .map(
      (row): Column => ({
        name: row.name,
        type: row.hidden === 0 ? row.type : row.type.replace(/\s*generated always\s*$/i, ''),
        notNull: row.notnull === 1,
        default: defaultOf(row.dflt_value),
        collation: created.collations.get(row.name) ?? null,
        generated: created.generated.get(row.name) ?? null,
        comment: null,
      }),
    );
  const checks = created.constraints.flatMap((constraint): Check[] =>
    constraint.kind === 'check' && constraint.plain ? [{ name: constraint.name, expression: constraint.expression }] : [],
  );
  const { uniques, indexes } = readIndexes(db, name, created, columns, master);
  const key = created.constraints.find((constraint) => constraint.kind === 'primary key');
  return {
    name: { schema: null, name },
    columns,
    primaryKey: {
      columns: rows
        .filter((row) => row.pk > 0)
        .sort((a, b) => a.pk - b.pk)
        .map((row) => row.name),
      name: key?.name ?? null,
      autoincrement: created.autoincrement,
    },
    foreignKeys: readForeignKeys(db, name, created),
    uniques,
    checks,
    indexes,
    constraints: created.constraints
      .filter(({ kind, plain }) => !plain && (kind === 'check' || kind === 'unique'))
      .map(({ text }) => text),
    options: created.options,
    triggers: triggers.map(({ name, sql }) => ({ kind: 'written', name, sql: sql ?? '' })),
    statement: created.unusual ? sql : null,
    comment: null,
  };
}

/** The catalogue keeps an expression's default without its brackets; a literal stands as it was written. */
function defaultOf(value: string | null): string | null {
  if (value === null) return null;
  const literal =
    /^(?:[+-]?\s*(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?|0x[0-9a-f]+|'(?:[^']|'')*'|"(?:[^"]|"")*"|x'[0-9a-f]*'|\w+)$/i;
  return literal.test(value) ? value : `(${value})`;
}

function readForeignKeys(db: Database.Database, table: string, { constraints }: CreateTable): ForeignKey[] {
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
  const stated = constraints.filter((constraint) => constraint.kind === 'foreign key');
  const groups = new Map<number, typeof rows>();
  for (const row of rows) groups.set(row.id, [...(groups.get(row.id) ?? []), row]);
  return Array.from(groups.values(), (parts, index): ForeignKey => {
    const [first] = parts;
    const columns = parts.map((part) => part.from);
    // The catalogue lists keys in the order of the statement; a statement that could not be read is matched by columns.
    const same = (constraint: (typeof stated)[number]) => isSame(constraint.columns, columns);
    const inOrder = stated.length === groups.size ? stated[index] : undefined;
    const text = inOrder !== undefined && same(inOrder) ? inOrder : stated.find(same);
    return {
      name: text?.name ?? null,
      columns,
      table: first?.table ?? '',
      schema: null,
      references: parts.flatMap((part) => part.to ?? []),
      onDelete: ruleOf(first?.on_delete),
      onUpdate: ruleOf(first?.on_update),
      deferred: text?.deferred ?? false,
      sql: text?.plain === false ? text.text : null,
    };
  });
}

function isSame(a: readonly string[], b: readonly string[]): boolean {
  return a.join('\n').toLowerCase() === b.join('\n').toLowerCase();
}

const RULES: readonly DeleteRule[] = ['cascade', 'restrict', 'set null', 'set default', 'no action'];

function ruleOf(written: string | undefined): DeleteRule {
  return RULES.find((rule) => rule === written?.toLowerCase()) ?? 'no action';
}

function readIndexes(
  db: Database.Database,
  table: string,
  { constraints, collations }: CreateTable,
  columns: readonly Column[],
  master: readonly MasterRow[],
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
    const terms = db.prepare('select name, desc, coll from pragma_index_xinfo(?) where key = 1 order by seqno').all(row.name) as {
      name: string | null;
      desc: number;
      coll: string | null;
    }[];
    const names = terms.flatMap((term) => term.name ?? []);
    if (row.origin === 'u') {
      const stated = constraints.find((constraint) => constraint.kind === 'unique' && isSame(constraint.columns, names));
      if (stated?.plain !== false) uniques.push({ name: stated?.name ?? null, columns: names });
    } else if (row.origin === 'c') {
      const plain =
        row.partial === 0 &&
        terms.every(
          ({ name, desc, coll }) =>
            name !== null &&
            desc === 0 &&
            (coll ?? 'BINARY') === (collations.get(name) ?? 'BINARY') &&
            columns.some((column) => column.name === name),
        );
      const sql = master.find(({ type, name }) => type === 'index' && name === row.name)?.sql ?? null;
      indexes.push({ name: row.name, columns: names, unique: row.unique === 1, sql: plain ? null : sql });
    }
  }
  // One that says what the key says too has no index of its own.
  for (const { kind, plain, name, columns: stated } of constraints)
    if (kind === 'unique' && plain && !uniques.some((unique) => isSame(unique.columns, stated)))
      uniques.push({ name, columns: stated });
  return { uniques, indexes };
}

import type { DeleteRule } from '../../core/notation/index.js';
import type { Check, Column, ForeignKey, Index, Table, Unique } from '../../core/schema/index.js';
import type { Introspection } from '../engine.js';
import type { Connection } from '../server/connection.js';
import { type Catalogue, type ColumnRow, type ConstraintRow, readCatalogue, type TableRow } from './catalogue/index.js';

const RULES: Readonly<Record<string, DeleteRule>> = {
  a: 'no action',
  r: 'restrict',
  c: 'cascade',
  n: 'set null',
  d: 'set default',
};

/** The tables of some schemas, or of all that are not the server's own, as the catalogs tell them. */
export async function introspect(connection: Connection, schemas: readonly string[] | null): Promise<Introspection> {
  const catalogue = await readCatalogue(connection, schemas);
  const { version, before, after, unsaid, enums } = catalogue;
  return {
    dialect: 'postgres',
    schema: { prelude: before, tables: catalogue.tables.map((table) => tableOf(table, catalogue)), others: after },
    statements: new Map(),
    version,
    unreadable: unsaid,
    choices: enums,
  };
}

function tableOf(row: TableRow, catalogue: Catalogue): Table {
  const { place } = catalogue;
  const columns = catalogue.columns.filter(({ table }) => table === row.id);
  const constraints = catalogue.constraints.filter(({ table }) => table === row.id);
  const key = constraints.find(({ kind, plain }) => kind === 'p' && plain);
  const uniques: Unique[] = [];
  const checks: Check[] = [];
  const foreignKeys: ForeignKey[] = [];
  const others: string[] = [];
  for (const constraint of constraints) {
    const { kind, name, plain, deferrable } = constraint;
    if (constraint === key && !deferrable) continue;
    if (kind === 'u' && plain && !deferrable) {
      uniques.push({ name: ownName(row, constraint, 'key'), columns: constraint.columns });
    } else if (kind === 'c' && plain) {
      checks.push({ name: ownName(row, constraint, 'check'), expression: conditionIn(constraint.definition) });
    } else if (kind === 'f') {
      foreignKeys.push(foreignKeyOf(row, constraint, place));
    } else others.push(`constraint ${quoted(name)} ${constraint.definition}`);
  }
  const held = key !== undefined && !key.deferrable ? key : undefined;
  return {
    name: { schema: row.schema === place ? null : row.schema, name: row.name },
    columns: columns.map(columnOf),
    primaryKey: {
      columns: held?.columns ?? [],
      name: held === undefined || held.name === `${row.name}_pkey` ? null : held.name,
      autoincrement: false,
    },
    foreignKeys,
    uniques,
    checks,
    indexes: catalogue.indexes
      .filter(({ table }) => table === row.id)
      .map(({ name, columns: indexed, unique, plain, definition }): Index => {
        return { name, columns: indexed, unique, sql: plain ? null : definition };
      }),
    constraints: others,
    options: [
      ...(row.parents === null ? [] : [`inherits (${row.parents})`]),
      ...(row.partitioning === null ? [] : [`partition by ${row.partitioning}`]),
      ...(row.settings === null ? [] : [`with (${row.settings})`]),
    ],
    triggers: catalogue.triggers.filter(({ table }) => table === row.id).map(({ name, sql }) => ({ kind: 'written', name, sql })),
    statement: null,
    comment: row.comment,
  };
}

function columnOf(row: ColumnRow): Column {
  const options = row.identityOptions === null ? '' : ` (${row.identityOptions})`;
  const identity =
    row.identity === '' ? '' : ` generated ${row.identity === 'a' ? 'always' : 'by default'} as identity${options}`;
  return {
    name: row.name,
    type: `${row.type}${identity}`,
    notNull: row.notNull,
    default: row.generated === '' ? row.value : null,
    collation: row.collation,
    generated: row.generated === '' ? null : { sql: unbracketed(row.value ?? ''), stored: row.generated === 's' },
    comment: row.comment,
  };
}

function foreignKeyOf(table: TableRow, row: ConstraintRow, place: string): ForeignKey {
  // One that can be put off, and is not, has more to it than the parts below say.
  const plain = row.plain && row.deferrable === row.deferred;
  return {
    name: ownName(table, row, 'fkey'),
    columns: row.columns,
    table: row.target ?? '',
    schema: row.targetSchema === place ? null : row.targetSchema,
    references: row.targetColumns,
    onDelete: RULES[row.onDelete] ?? 'no action',
    onUpdate: RULES[row.onUpdate] ?? 'no action',
    deferred: row.deferred,
    sql: plain ? null : `constraint ${quoted(row.name)} ${row.definition}`,
  };
}

/** A constraint's name; null where it is the one that the server itself gives (its source, ChooseConstraintName). */
function ownName(table: TableRow, { name, columns, kind }: ConstraintRow, ending: string): string | null {
  const about = kind === 'c' && columns.length !== 1 ? [] : columns;
  return name === [table.name, ...about, ending].join('_') ? null : name;
}

/** `CHECK ((a > 0))` → `a > 0`. */
function conditionIn(definition: string): string {
  return unbracketed(definition.replace(/^CHECK /, ''));
}

/** Without the brackets that stand around the whole. */
function unbracketed(sql: string): string {
  let text = sql.trim();
  while (text.startsWith('(') && closes(text) === text.length - 1) text = text.slice(1, -1).trim();
  return text;
}

function closes(text: string): number {
  let depth = 0;
  let inText = false;
  for (let at = 0; at < text.length; at++) {
    const letter = text[at];
    if (letter === "'") inText = !inText;
    if (inText) continue;
    if (letter === '(') depth += 1;
    if (letter === ')' && --depth === 0) return at;
  }
  return -1;
}

function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

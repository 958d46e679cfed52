import type { Column, ForeignKey, Index, PrimaryKey, Schema, Table, Unique } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import { sqliteValues } from '../values/index.js';
import { sqliteConversions } from './conversions.js';
import type { Dialect } from './dialect.js';
import { sqliteExact } from './exact.js';
import { precedenceOf } from './precedence.js';
import { nested, ordered, printChange, printExpression, printQuery, printTable, type Spelling } from './printer.js';
import { type PrintedTrigger, triggerPrinter } from './triggers.js';

/** Words that SQLite reads as its own (https://www.sqlite.org/lang_keywords.html). */
const KEYWORDS = new Set(
  `abort action add after all alter always analyze and as asc attach autoincrement before begin between by cascade case cast check
  collate column commit conflict constraint create cross current current_date current_time current_timestamp database default
  deferrable deferred delete desc detach distinct do drop each else end escape except exclude exclusive exists explain fail filter
  first following for foreign from full generated glob group groups having if ignore immediate in index indexed initially inner
  insert instead intersect into is isnull join key last left like limit match materialized natural no not nothing notnull null nulls
  of offset on or order others outer over partition plan pragma preceding primary query raise range recursive references regexp
  reindex release rename replace restrict returning right rollback row rows savepoint select set table temp temporary then ties to
  transaction trigger unbounded union unique update using vacuum values view virtual when where window with without`.split(/\s+/),
);

/** The one place that quotes names for SQLite: bare where that reads the same, in double quotes otherwise. */
function quote(name: string): string {
  return /^[a-z_][a-z0-9_]*$/.test(name) && !KEYWORDS.has(name) ? name : `"${name.replaceAll('"', '""')}"`;
}

const spelling: Spelling = {
  quote,
  inKeys: (operand, parameter) => `${operand} in (select value from json_each(${parameter}))`,
  inKeyTuples: (operand, types, parameter) =>
    `${operand} in (select ${types.map((_, part) => `value ->> ${part}`).join(', ')} from json_each(${parameter}))`,
  keys: (parameter, _type, alias) => `json_each(${parameter}) ${alias}`,
  jsonRows: (lists, orderBy) => `json_group_array(${nested('json_array', lists)}${ordered(orderBy)})`,
  string: (value) => `'${value.replaceAll("'", "''")}'`,
  bytes: (hex) => `x'${hex}'`,
  boolean: (value) => (value ? '1' : '0'),
  concat: null,
  // https://www.sqlite.org/lang_expr.html#operators_and_parse_affecting_attributes
  precedence: precedenceOf([
    ['or'],
    ['and'],
    ['not'],
    ['=', '<>', 'is null', 'is true', 'in', 'between', 'like'],
    ['<', '<=', '>', '>='],
    ['+', '-'],
    ['*', '/', '%', 'div'],
    ['||', '->'],
    ['negate'],
  ]),
  // Its quote() tells every two values apart, those of other storage classes too.
  countDistinct: (parts) => `count(distinct ${parts.map((part) => `quote(${part})`).join(" || ',' || ")})`,
  tuples: (items) => `(values ${items.join(', ')})`,
  nulls: () => '',
  collate: (operand, collation) => `${operand} collate ${quote(collation)}`,
  keyPart: (parameter, part) => `(${parameter} ->> ${part})`,
  schemas: false,
  placeholder: () => '?',
  // One session writes at a time, and nobody else sees what it does.
  lock: () => '',
  emptyRow: 'default values',
  givenKeys: '',
  noLimit: '-1',
};

const triggers = triggerPrinter(spelling, writtenTrigger);

export const sqliteDialect: Dialect = {
  name: 'sqlite',
  title: 'SQLite',
  powers: {
    indexesText: 'all of it',
    exactNumbers: false,
    longestName: { most: Number.POSITIVE_INFINITY, unit: 'characters' },
    keepsKeysForAll: false,
    setsDefault: true,
    carriesWithinTable: true,
  },
  comments: false,
  correlates: true,
  conversions: sqliteConversions(sqliteValues),
  exact: sqliteExact,
  recursesOnce: false,
  doubleQuoted: 'name',
  limitsEach: 'by key',
  tableOptions: [],
  defers: true,
  cascadesFireTriggers: true,
  triggersRestOnSession: true,
  values: sqliteValues,
  quote,
  trigger: (trigger) => triggers.statements(trigger),
  print: (expression) => printExpression(expression, spelling),
  printQuery: (query) => printQuery(query, spelling),
  // It has no settings of a session; what is temporary is of one connection alone, and is made anew by each.
  atWork: {
    made: ['create temp table at_work (key text)'],
    asked: '(select key from at_work)',
    said: 'insert into at_work values (…)',
    says: (key) => (key === null ? [] : [`insert into at_work values (${spelling.string(key)})`]),
    stays: false,
    view: 'create temp view',
  },
  policies: null,
  printChange: (change) => printChange(change, spelling),
  countOnAfter: () => null,
  // It has no way to a server to save: a statement that is prepared once is the quickest.
  rowsInOneInsert: () => 1,
  createStatements,
  columnParts,
  foreignKey,
  scriptHead: ({ tables }) => {
    const keys = tables.some(({ foreignKeys }) => foreignKeys.length > 0);
    const fires = tables.some((table) => table.triggers.length > 0);
    if (!keys && !fires) return '';
    const said = [
      ...(keys ? ['without the first SQLite keeps no foreign key'] : []),
      ...(fires
        ? [
            `without ${keys ? 'the second' : 'it'} “replace into” fires no trigger for the rows that it removes, and no trigger goes on from itself`,
          ]
        : []),
    ];
    const pragmas = [...(keys ? ['pragma foreign_keys = on;'] : []), ...(fires ? ['pragma recursive_triggers = on;'] : [])];
    return `-- Each connection that writes to these tables has to say this itself:\n${said.map((line) => `-- ${line}.\n`).join('')}${pragmas.join('\n')}\n`;
  },
  ended: (statement) => `${statement};`,
  steps(schema) {
    return { before: tablesAndOthers(schema), after: triggers.ofSchema(schema) };
  },
};

// A trigger may speak of any table or view.
function createStatements(schema: Schema): string[] {
  return [...tablesAndOthers(schema), ...triggers.ofSchema(schema)];
}

function tablesAndOthers(schema: Schema): string[] {
  return [
    ...schema.prelude,
    ...schema.tables.flatMap((table) => [createTable(table), ...table.indexes.map((index) => createIndex(table, index))]),
    ...schema.others,
  ];
}

/** https://www.sqlite.org/lang_createtrigger.html */
function writtenTrigger({ name, table, timing, event, columns, when, actions }: PrintedTrigger): string[] {
  const of = columns.length === 0 ? '' : ` of ${columns.map(quote).join(', ')}`;
  const condition = when === null ? '' : ` when ${when}`;
  const body = actions.map((action) =>
    action.kind === 'run'
      ? `  ${action.sql};`
      : `  select raise(abort, ${spelling.string(action.message)}) where ${action.when};`,
  );
  return [
    `create trigger ${quote(name)} ${timing} ${event}${of} on ${quoteTable(table)}${condition} begin\n${body.join('\n')}\nend`,
  ];
}

function createIndex(table: Table, index: Index): string {
  if (index.sql !== null) return index.sql;
  return `create ${index.unique ? 'unique ' : ''}index ${quote(index.name)} on ${quoteTable(table.name)} (${index.columns.map(quote).join(', ')})`;
}

function columnParts(table: Table, names: readonly string[]): string[] {
  const isThis = (columns: readonly string[]) => columns.join('\n') === names.join('\n');
  return [
    ...table.columns.filter((column) => names.includes(column.name)).map((column) => columnLine(column, null)),
    ...table.uniques.filter((unique) => isThis(unique.columns)).map(uniqueLine),
    ...table.foreignKeys.filter((key) => isThis(key.columns)).map(foreignKey),
    ...table.indexes.filter((index) => isThis(index.columns)).map((index) => createIndex(table, index)),
  ];
}

/** @param key the primary key, of the column that is the whole of it; null for any other column */
function columnLine(column: Column, key: PrimaryKey | null): string {
  const { type, notNull, collation, generated } = column;
  return [
    quote(column.name),
    type === '' ? '' : ` ${type}`,
    key === null ? '' : ` ${named(key.name)}primary key${key.autoincrement ? ' autoincrement' : ''}`,
    notNull ? ' not null' : '',
    column.default === null ? '' : ` default ${column.default}`,
    collation === null ? '' : ` collate ${quote(collation)}`,
    generated === null ? '' : ` generated always as (${generated.sql}) ${generated.stored ? 'stored' : 'virtual'}`,
  ].join('');
}

function uniqueLine(unique: Unique): string {
  return `${named(unique.name)}unique (${unique.columns.map(quote).join(', ')})`;
}

// SQLite has no schemas to put a table in; the name alone tells tables apart.
function quoteTable(table: TableName): string {
  return printTable(table, spelling);
}

function createTable(table: Table): string {
  if (table.statement !== null) return table.statement;
  const { columns: key, name } = table.primaryKey;
  const [single] = key;
  const numbered = ({ type }: Column) => type.toLowerCase() === 'integer';
  const inline = key.length === 1 && table.columns.some((column) => column.name === single && numbered(column));
  const lines = table.columns.map((column) => columnLine(column, inline && column.name === single ? table.primaryKey : null));
  if (!inline && key.length > 0) lines.push(`${named(name)}primary key (${key.map(quote).join(', ')})`);
  for (const unique of table.uniques) lines.push(uniqueLine(unique));
  for (const check of table.checks) lines.push(`${named(check.name)}check (${check.expression})`);
  for (const foreign of table.foreignKeys) lines.push(foreignKey(foreign));
  lines.push(...table.constraints);
  const options = table.options.length === 0 ? '' : ` ${table.options.join(', ')}`;
  return `create table ${quoteTable(table.name)} (\n  ${lines.join(',\n  ')}\n)${options}`;
}

function foreignKey(key: ForeignKey): string {
  if (key.sql !== null) return key.sql;
  const references = key.references.length === 0 ? '' : ` (${key.references.map(quote).join(', ')})`;
  const rules = [
    key.onDelete === 'no action' ? '' : ` on delete ${key.onDelete}`,
    key.onUpdate === 'no action' ? '' : ` on update ${key.onUpdate}`,
    key.deferred ? ' deferrable initially deferred' : '',
  ];
  return `${named(key.name)}foreign key (${key.columns.map(quote).join(', ')}) references ${quote(key.table)}${references}${rules.join('')}`;
}

function named(name: string | null): string {
  return name === null ? '' : `constraint ${quote(name)} `;
}

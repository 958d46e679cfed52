import type { Column, Schema, Table } from '../schema/index.js';
import { isNumbered } from '../sql/index.js';
import { postgresValues } from '../values/index.js';
import { postgresConversions } from './conversions.js';
import { ddlOf, schemasOf } from './ddl.js';
import type { Dialect } from './dialect.js';
import { postgresExact } from './exact.js';
import { inWorkingOrder, type Late } from './postgres-order.js';
import { postgresPolicies } from './postgres-policies.js';
import { precedenceOf } from './precedence.js';
import { nested, ordered, printChange, printExpression, printQuery, type Spelling } from './printer.js';
import { rowsInOneInsert } from './rows-in-one-insert.js';
import { type PrintedTrigger, triggerPrinter } from './triggers.js';

/** Words that PostgreSQL does not take as a bare name (PostgreSQL, appendix C: reserved, and those that no function or type may be). */
const KEYWORDS = new Set(
  `all analyse analyze and any array as asc asymmetric authorization between bigint binary bit boolean both case cast char character
  check coalesce collate collation column concurrently constraint create cross current_catalog current_date current_role
  current_schema current_time current_timestamp current_user dec decimal default deferrable desc distinct do else end except exists
  extract false fetch float for foreign freeze from full grant greatest group grouping having ilike in initially inner inout int
  integer intersect interval into is isnull join json json_array json_arrayagg json_exists json_object json_objectagg json_query
  json_scalar json_serialize json_table json_value lateral leading least left like limit localtime localtimestamp merge_action
  national natural nchar none normalize not notnull null nullif numeric offset on only or order out outer overlaps overlay placing
  position precision primary real references returning right row select session_user setof similar smallint some substring symmetric
  system_user table tablesample then time timestamp to trailing treat trim true union unique user using values varchar variadic
  verbose when where window with xmlattributes xmlconcat xmlelement xmlexists xmlforest xmlnamespaces xmlparse xmlpi xmlroot
  xmlserialize xmltable`.split(/\s+/),
);

/** The one place that quotes names for PostgreSQL: bare where that reads the same, in double quotes otherwise. */
function quote(name: string): string {
  return /^[a-z_][a-z0-9_]*$/.test(name) && !KEYWORDS.has(name) ? name : `"${name.replaceAll('"', '""')}"`;
}

/** A text in SQL; with a backslash in it, in the form that reads the same whatever the session's settings are. */
function string(value: string): string {
  const quoted = `'${value.replaceAll("'", "''")}'`;
  return value.includes('\\') ? ` E${quoted.replaceAll('\\', '\\\\')}`.trimStart() : quoted;
}

const spelling: Spelling = {
  quote,
  inKeys: (operand, parameter, type) => `${operand} = any(cast(${parameter} as ${type}[]))`,
  inKeyTuples: (operand, types, parameter) =>
    `${operand} in (select ${types.map((type, part) => `cast(k ->> ${part} as ${type})`).join(', ')} from json_array_elements(cast(${parameter} as json)) k)`,
  keys: (parameter, type, alias) => `unnest(cast(${parameter} as ${type}[])) ${alias} (value)`,
  jsonRows: (lists, orderBy) => `coalesce(json_agg(${nested('json_build_array', lists)}${ordered(orderBy)}), '[]')`,
  keyPart: (parameter, part, type) => `cast(cast(${parameter} as json) ->> ${part} as ${type})`,
  string,
  bytes: (hex) => `'\\x${hex}'`,
  boolean: String,
  concat: null,
  // PostgreSQL, 4.1.6 Operator Precedence
  precedence: precedenceOf([
    ['or'],
    ['and'],
    ['not'],
    ['is null', 'is true'],
    ['=', '<>', '<', '<=', '>', '>='],
    ['in', 'between', 'like'],
    ['||', '->'],
    ['+', '-'],
    ['*', '/', '%', 'div'],
    ['negate'],
  ]),
  countDistinct: (parts) => `count(distinct (${parts.join(', ')}))`,
  tuples: (items) => `(${items.join(', ')})`,
  // Nulls are larger than all else there unless this says otherwise.
  nulls: (descending) => (descending ? ' nulls last' : ' nulls first'),
  collate: (operand, collation) => `${operand} collate ${quote(collation)}`,
  schemas: true,
  placeholder: (number) => `$${number}`,
  // PostgreSQL, 13.3.2: a change of what is no key passes by a key share lock, and by no stronger one. Each statement sees what was
  // committed before it.
  lock: (lock) => ({ key: 'for key share', row: 'for share', latest: '' })[lock],
  emptyRow: 'default values',
  givenKeys: ' overriding system value',
  noLimit: '',
};

const triggers = triggerPrinter(spelling, writtenTrigger);

const ddl = ddlOf({
  quote,
  columnTail: () => '',
  tableTail: ({ options }) => (options.length === 0 ? '' : ` ${options.join(' ')}`),
  indexColumn: (_table, column) => quote(column),
  defers: true,
  checksOf: ({ checks }) => checks,
});

export const postgresDialect: Dialect = {
  name: 'postgres',
  title: 'PostgreSQL',
  powers: {
    indexesText: 'shorter ones',
    exactNumbers: true,
    // PostgreSQL, 4.1.1: a longer one is cut.
    longestName: { most: 63, unit: 'bytes' },
    keepsKeysForAll: true,
    setsDefault: true,
    carriesWithinTable: true,
  },
  values: postgresValues,
  comments: true,
  correlates: true,
  conversions: postgresConversions,
  exact: postgresExact,
  recursesOnce: true,
  doubleQuoted: 'name',
  limitsEach: 'within',
  tableOptions: [],
  defers: true,
  cascadesFireTriggers: true,
  triggersRestOnSession: false,
  quote,
  trigger: (trigger) => triggers.statements(trigger),
  print: (expression) => printExpression(expression, spelling),
  printQuery: (query) => printQuery(query, spelling),
  printChange: (change) => printChange(change, spelling),
  // Another may have taken greater numbers, and not be done.
  atWork: {
    made: [],
    asked: "nullif(current_setting('at_work.key', true), '')",
    said: "set at_work.key = '…'",
    says: (key) => [`select set_config('at_work.key', ${string(key ?? '')}, true)`],
    stays: true,
    view: 'create view',
  },
  policies: postgresPolicies(quote, (table) => ddl.tableName(table)),
  rowsInOneInsert,
  countOnAfter(table, name) {
    const sequence = `pg_get_serial_sequence(${string(ddl.tableName(table))}, ${string(name)})`;
    const key = `max(${quote(name)})`;
    const most = `greatest(${key}, coalesce(pg_sequence_last_value(${sequence}::regclass), 0))`;
    return `select setval(${sequence}, ${most}) from ${ddl.tableName(table)} having ${key} > 0`;
  },
  columnParts: ddl.columnParts,
  foreignKey: ddl.foreignKey,
  // A function may speak of a table that is made after it.
  scriptHead: () => `set client_encoding = 'UTF8';\nset check_function_bodies = off;\n`,
  ended: (statement) => `${statement};`,
  createStatements(schema) {
    const { before, after } = steps(schema);
    return [...before, ...after];
  },
  steps,
};

/** A trigger there calls a function, which bears its name (PostgreSQL, 43.10). */
function writtenTrigger({ name, table, timing, event, columns, when, actions }: PrintedTrigger): string[] {
  const of = columns.length === 0 ? '' : ` of ${columns.map(quote).join(', ')}`;
  const condition = when === null ? '' : `\n  when (${when})`;
  const body = actions.map((action) =>
    action.kind === 'run'
      ? `  ${action.sql};`
      : `  if ${action.when} then\n    raise exception using errcode = 'foreign_key_violation', message = ${string(action.message)};\n  end if;`,
  );
  const place = ddl.tableName({ schema: table.schema, name });
  return [
    `create function ${place}() returns trigger language plpgsql as $$\nbegin\n${body.join('\n')}\n  return ${event === 'delete' ? 'old' : 'new'};\nend\n$$`,
    `create trigger ${quote(name)} ${timing} ${event}${of} on ${ddl.tableName(table)} for each row${condition}\n  execute function ${place}()`,
  ];
}

function steps(schema: Schema): { before: string[]; after: string[] } {
  const { tables } = schema;
  const { first, late, others } = inWorkingOrder(schema);
  return {
    before: [
      ...schemasOf(schema).map((name) => `create schema if not exists ${quote(name)}`),
      ...first.map((one) => (typeof one === 'string' ? one : ddl.table(one))),
      ...late.map(addLate),
      // A row that breaks one is then refused by itself.
      ...tables.flatMap((table) => ddl.indexes(table, true)),
    ],
    after: [
      ...tables.flatMap(ddl.lateConstraints),
      ...tables.flatMap((table) => ddl.indexes(table, false)),
      ...tables.flatMap((table) => table.foreignKeys.map((key) => ddl.addForeignKey(table, key))),
      ...tables.flatMap((table) => table.columns.flatMap((column) => countOn(table, column))),
      ...others.filter((sql) => !isOfTrigger(sql)),
      ...triggers.ofSchema(schema),
      ...others.filter(isOfTrigger),
      ...tables.flatMap(comments),
    ],
  };
}

/** Does a statement switch a trigger, which has to be there? */
function isOfTrigger(sql: string): boolean {
  return /^alter\s+table\s[\s\S]*\strigger\s/i.test(sql);
}

/** What of a table calls a function that stands on tables. */
function addLate({ table, column, check }: Late): string {
  const name = ddl.tableName(table.name);
  if (column !== null) return `alter table ${name} alter column ${quote(column.name)} set default ${column.default}`;
  const named = check?.name == null ? '' : `constraint ${quote(check.name)} `;
  return `alter table ${name} add ${named}check (${check?.expression ?? 'true'})`;
}

/** Rows with keys of their own leave the engine's count behind; it goes on after the largest (PostgreSQL, 9.17). */
function countOn(table: Table, column: Column): string[] {
  if (!isNumbered(column.type) || table.statement !== null) return [];
  const name = ddl.tableName(table.name);
  const sequence = `pg_get_serial_sequence(${string(name)}, ${string(column.name)})`;
  return [`select setval(${sequence}, max(${quote(column.name)})) from ${name} having max(${quote(column.name)}) > 0`];
}

function comments(table: Table): string[] {
  const name = ddl.tableName(table.name);
  const own = table.comment === null ? [] : [`comment on table ${name} is ${string(table.comment)}`];
  return [
    ...own,
    ...table.columns.flatMap((column) =>
      column.comment === null ? [] : [`comment on column ${name}.${quote(column.name)} is ${string(column.comment)}`],
    ),
  ];
}

import { type Dialect, mariadbDialect, postgresDialect, sqliteDialect } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';
import type { Check, Table } from '../schema/index.js';
import { sqlName, sqlTokens, tableShape } from '../sql/index.js';
import type { ValueType } from '../values/index.js';
import type { Existing } from './existing.js';
import { typeOfMariadb } from './mariadb-types.js';
import { typeOfPostgres } from './postgres-types.js';
import { typeOfDeclared } from './types.js';

/** How the catalogue of one engine is read. A new engine is a file with its types, and a line in the table below. */
export interface ImportEngine {
  readonly dialect: Dialect;
  /** The type that a declared type stands for. */
  typeOf(declared: string): ValueType;
  /** A default without what the engine adds to a literal. */
  plainDefault(sql: string): string;
  /** A check's condition without what the engine adds to what was written. */
  plainCheck(sql: string): string;
  /** Whether a table's rows have numbers by which they can be told apart without a key. */
  readonly numbersRows: boolean;
  /** What a table says, line by line, for comparing two. */
  shape(table: Table, statement: string | undefined): readonly string[];
}

/** `= ANY (ARRAY[…])` as `in (…)`; brackets that were opened before it stay to be closed. */
function listed(whole: string, sign: string, word: string, opened: string, list: string, closed: string): string {
  const rest = closed.slice(opened.length);
  if (sign === '=' && word === 'ANY') return `in (${list})${rest}`;
  return sign === '<>' && word === 'ALL' ? `not in (${list})${rest}` : whole;
}

const NOTHING_ADDED = (sql: string) => sql;

export const importEngines: Readonly<Record<DialectName, ImportEngine>> = {
  sqlite: {
    dialect: sqliteDialect,
    typeOf: typeOfDeclared,
    plainDefault: NOTHING_ADDED,
    plainCheck: NOTHING_ADDED,
    numbersRows: true,
    shape: (table, statement) => tableShape(statement ?? createSql(sqliteDialect, table)),
  },
  postgres: {
    dialect: postgresDialect,
    typeOf: typeOfPostgres,
    // PostgreSQL writes a literal's type behind it.
    plainDefault: (sql) => {
      const literal = /^('(?:[^']|'')*')::[\w ."]+(?:\(\d+(?:,\d+)?\))?$/.exec(sql)?.[1];
      const number = /^'(-?\d+(?:\.\d+)?)'$/.exec(literal ?? '')?.[1];
      return number !== undefined && !/::(character|text|bpchar)/.test(sql) ? number : (literal ?? sql);
    },
    plainCheck: (sql) =>
      sql
        .replace(
          /::(?:character varying|text|bpchar|character|numeric|integer|bigint|double precision)(?:\(\d+(?:,\d+)?\))?(?:\[\])?/g,
          '',
        )
        .replace(/\(('(?:[^']|'')*')\)/g, '$1')
        .replace(/(=|<>) (ANY|ALL) (\(+)ARRAY\[([^\]]*)\](\)+)/g, listed)
        .replace(/(?<![\w"])\((\w+)\)/g, '$1'),
    numbersRows: false,
    shape: (table) => linesOf(table, importEngines.postgres),
  },
  mariadb: {
    dialect: mariadbDialect,
    typeOf: typeOfMariadb,
    plainDefault: NOTHING_ADDED,
    plainCheck: NOTHING_ADDED,
    numbersRows: false,
    shape: (table) => linesOf(table, importEngines.mariadb),
  },
};

/** The canonical shape of each table, line by line: tables of equal meaning have equal lines. */
export function shapesOf({ dialect, statements }: Pick<Existing, 'dialect' | 'statements'>, table: Table): readonly string[] {
  return importEngines[dialect].shape(table, statements.get(table.name.name));
}

/** The statement that makes a table alone. */
export function createSql(dialect: Dialect, table: Table): string {
  const bare = { ...table, indexes: [], triggers: [], foreignKeys: dialect.name === 'sqlite' ? table.foreignKeys : [] };
  return dialect.createStatements({ prelude: [], tables: [bare], others: [] }).find((sql) => /^create table/i.test(sql)) ?? '';
}

/** A check that stands as a constraint in SQL; null where it is another. */
function checkIn(sql: string): Check | null {
  const [, quoted, bare, expression] = /^(?:constraint (?:(["`].*?["`])|(\S+)) )?check \((.*)\)$/is.exec(sql) ?? [];
  return expression === undefined ? null : { name: quoted?.slice(1, -1) ?? bare ?? null, expression };
}

/** What a table says, part by part; where the engine gives a name itself, none is said. */
function linesOf(table: Table, engine: ImportEngine): readonly string[] {
  const { plainDefault, plainCheck } = engine;
  const words = (sql: string) =>
    sqlTokens(sql)
      .map((token) => (token.kind === 'string' ? token.text : sqlName(token).toLowerCase()))
      .filter((text) => text !== '(' && text !== ')')
      .join(' ');
  const key = table.primaryKey;
  const keptChecks = table.constraints.flatMap((sql) => checkIn(sql) ?? []);
  return [
    ...table.columns.map((column) =>
      [
        `column ${column.name}`,
        column.type,
        column.notNull || key.columns.includes(column.name) ? 'not null' : '',
        column.default === null ? '' : plainDefault(column.default),
        column.collation ?? '',
        column.generated === null ? '' : `${column.generated.sql} ${column.generated.stored}`,
      ].join(' | '),
    ),
    `key ${key.columns.join(', ')} ${key.name ?? ''}`,
    ...table.uniques.map(({ name, columns }) => `unique ${columns.join(', ')} ${name ?? ''}`).sort(),
    ...[...table.checks, ...keptChecks]
      .map(({ name, expression }) => `check ${name ?? ''} ${words(plainCheck(expression))}`)
      .sort(),
    ...table.foreignKeys.map((foreign) => engine.dialect.foreignKey(foreign)).sort(),
    ...table.constraints.filter((sql) => checkIn(sql) === null).sort(),
    ...table.options.map((option) => option.toLowerCase()),
  ];
}

import type { DialectName } from '../notation/index.js';
import type { Schema } from '../schema/index.js';
import { expressionFault, typeFault } from '../sql/index.js';

/** A piece of SQL that stands in a schema as it was noted, and what it is a piece of. */
export interface NotedSql {
  readonly as: 'statement' | 'type' | 'expression' | 'constraint';
  readonly sql: string;
}

/**
 * The SQL that stands in a schema and is more than names, plain types and literals. A plan that makes the schema again runs it.
 */
export function notedSql({ prelude, tables, others }: Schema): readonly NotedSql[] {
  const told = (as: NotedSql['as'], all: readonly (string | null)[]): NotedSql[] =>
    all.flatMap((sql) => (sql === null ? [] : [{ as, sql }]));
  return [
    ...told('statement', [...prelude, ...others]),
    ...tables.flatMap(({ columns, checks, constraints, options, foreignKeys, indexes, triggers, statement }) => [
      ...told('statement', [statement, ...indexes.map(({ sql }) => sql)]),
      ...told(
        'statement',
        triggers.flatMap((trigger) => (trigger.kind === 'written' ? [trigger.sql] : [])),
      ),
      ...told('constraint', [...constraints, ...options, ...foreignKeys.map(({ sql }) => sql)]),
      ...told(
        'expression',
        checks.map(({ expression }) => expression),
      ),
      ...told(
        'expression',
        columns.flatMap((column) => [column.generated?.sql ?? null, isLiteral(column.default) ? null : column.default]),
      ),
      ...told(
        'type',
        columns.flatMap(({ type }) => (isPlainType(type) ? [] : [type])),
      ),
    ]),
  ];
}

/** Why a piece of SQL is not what it stands as, so that it would say more than it seems to; null where it is. */
export function wrongNoted({ as, sql }: NotedSql, dialect: DialectName): string | null {
  switch (as) {
    case 'statement':
      // It is shown to a person before it is run on a server, and in a file it reaches nothing else.
      return null;
    case 'type':
      return typeFault(sql, dialect);
    case 'expression':
    case 'constraint':
      return expressionFault(sql, dialect, true);
  }
}

/** A word or several, a size, and no more: `varchar(40)`, `numeric(10, 2)`, `double precision`. */
function isPlainType(type: string): boolean {
  return /^\w+(?: \w+)*(?:\s?\(\d+(?:,\s?\d+)?\))?(?: \w+)*$/.test(type);
}

function isLiteral(sql: string | null): boolean {
  return sql === null || /^(?:-?\d+(?:\.\d+)?|'(?:[^'\\]|'')*'|null|true|false)$/i.test(sql);
}

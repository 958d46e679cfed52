import { type Entity, entityOf, type Model, snakeCase } from '../model/index.js';
import { foreignTarget } from '../schema/index.js';
import {
  allOf,
  anyOf,
  column,
  columnsOf,
  equal,
  type Select,
  type Source,
  type SqlExpression,
  string,
  type TableName,
} from '../sql/index.js';

/** Where rows of an entity, or pairs, are read for counting: a table, some rows of one, or several tables as one. */
export interface Rows {
  readonly from: Source['from'];
  readonly alias: string;
  /** What keeps out rows of other kinds that stand there. */
  readonly where: SqlExpression | null;
}

/** A select that asks for nothing yet. */
export const EMPTY = { kind: 'select' as const, joins: [], where: null, orderBy: [], limit: null, offset: null };

export function rowsIn(table: TableName, alias = table.name): Rows {
  return { from: { kind: 'table', table }, alias, where: null };
}

/** The rows of an entity, with at least the columns that are asked for. */
export function rowsOf(model: Model, name: string, columns: readonly string[], alias?: string): Rows {
  const target = foreignTarget(model, name);
  if (target.kind === 'tables') {
    const selects = target.tables.map(
      (table): Select => ({
        ...EMPTY,
        columns: Array.from(new Set(columns), (wanted) => ({ expression: column(table.name, wanted), as: wanted })),
        from: { from: { kind: 'table', table }, alias: table.name, entity: null },
      }),
    );
    return {
      from: { kind: 'select', select: { kind: 'union all', selects } },
      alias: alias ?? snakeCase(name),
      where: null,
    };
  }
  const rows = rowsIn(target.table, alias);
  if (target.among === null) return rows;
  const { column: mark, values } = target.among;
  return { ...rows, where: { kind: 'in', operand: column(rows.alias, mark), items: values.map(string), negated: false } };
}

/** A select of these rows. */
export function select(rows: Rows, columns: Select['columns'], more: Partial<Pick<Select, 'where' | 'groupBy'>> = {}): Select {
  const from = { from: rows.from, alias: rows.alias, entity: null };
  return { ...EMPTY, columns, from, ...more, where: allOf([rows.where, more.where ?? null]) };
}

export function counted(rows: Rows, where: SqlExpression | null): Select {
  return select(rows, [count('count')], { where });
}

export function count(as: string): { expression: SqlExpression; as: string } {
  return { expression: { kind: 'count rows' }, as };
}

export function anyNull(source: string, key: readonly string[]): SqlExpression | null {
  return anyOf(key.map((name) => ({ kind: 'is null', operand: column(source, name), negated: false })));
}

export function noneNull(source: string, key: readonly string[]): SqlExpression | null {
  return allOf(key.map((name) => ({ kind: 'is null', operand: column(source, name), negated: true })));
}

/** The condition under which an entity's own key is the one that a column holds. */
export type KeyComparison = (own: SqlExpression, held: SqlExpression) => SqlExpression;

/**
 * Of rows that hold a key: it is filled, and no row of the entity has it.
 * @param held how the entity's own key is compared with it, where the column holds keys of another type
 */
export function pointsNowhere(
  model: Model,
  rows: Rows,
  key: readonly string[],
  parent: Entity,
  held: KeyComparison = equal,
): SqlExpression | null {
  return allOf([noneNull(rows.alias, key), found(model, rows, key, parent, held, true)]);
}

/** Of rows that hold a key: a row of the entity has it. */
export function pointsAt(model: Model, rows: Rows, key: readonly string[], parent: Entity, held: KeyComparison): SqlExpression {
  return found(model, rows, key, parent, held, false);
}

function found(
  model: Model,
  rows: Rows,
  key: readonly string[],
  parent: Entity,
  held: KeyComparison,
  negated: boolean,
): SqlExpression {
  const named = rowsOf(model, parent.name, parent.key.columns);
  const target = named.alias === rows.alias ? rowsOf(model, parent.name, parent.key.columns, 'there') : named;
  const inner = select(target, [{ expression: { kind: 'number', text: '1' }, as: null }], {
    where: held(columnsOf(target.alias, parent.key.columns), columnsOf(rows.alias, key)),
  });
  const from = { ...inner.from, entity: parent.name };
  return { kind: 'exists', select: { ...inner, from }, negated };
}

/** The key columns of an entity's own rows. */
export function keyOf(model: Model, name: string): readonly string[] {
  return entityOf(model, name).key.columns;
}

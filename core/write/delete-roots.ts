import type { Roots } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import { entityOf, type Model, tableEntity } from '../model/index.js';
import { columnsOf, type TableName } from '../sql/index.js';
import type { BoundParameter } from '../values/index.js';
import type { RowAt } from './row-at.js';

/** Rows that are to be deleted, as the conditions by which a statement speaks of them. */
export interface DeleteRoots {
  readonly roots: readonly Roots[];
  /** Their keys, as lists that the conditions name. */
  readonly parameters: Readonly<Record<string, BoundParameter>>;
  readonly counts: readonly { readonly entity: string; readonly rows: number }[];
}

/** The rows that are meant, by the tables that they are deleted from, with their keys bound as lists. */
export function deleteRoots(dialect: Dialect, model: Model, rows: readonly RowAt[]): DeleteRoots {
  const groups = new Map<string, RowAt[]>();
  for (const row of rows) groups.set(row.entity, [...(groups.get(row.entity) ?? []), row]);
  const parameters: Record<string, BoundParameter> = {};
  const roots = Array.from(groups, ([entity, own], at): Roots => {
    const { key } = entityOf(model, entity);
    const parameter = `rows_${at + 1}`;
    parameters[parameter] = dialect.values.bindKeys(
      key.type,
      own.map((row) => row.key),
    );
    const types = key.fields.map(({ type }) => dialect.values.listType(type));
    const where = { kind: 'in keys' as const, operand: columnsOf(null, key.columns), parameter, types };
    return { table: deletedFrom(model, entity), where };
  });
  return { roots, parameters, counts: Array.from(groups, ([entity, own]) => ({ entity, rows: own.length })) };
}

/** The table that a row is deleted from: of kinds whose tables are joined, the base's. */
export function deletedFrom(model: Model, entity: string): TableName {
  const root = entityOf(model, entity).kinds?.root ?? entity;
  return entityOf(model, tableEntity(model, entity, root)).table.value;
}

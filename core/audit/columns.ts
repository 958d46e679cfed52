import type { Model } from '../model/index.js';
import type { Schema } from '../schema/index.js';
import { placeOf } from '../sql/index.js';
import type { ColumnsOfTables } from './within-reach.js';

/** The columns of every table, also of those that are somebody else's, as far as the text knows them. */
export function columnsInTables(model: Model, { tables }: Schema): ColumnsOfTables {
  const known = new Map(tables.map(({ name, columns }) => [placeOf(name), columns.map((column) => column.name)]));
  for (const { table, fields, roles } of model.entities.values()) {
    if (known.has(placeOf(table.value))) continue;
    const keys = roles.flatMap(({ way }) => (way.kind === 'key' ? way.columns : []));
    known.set(placeOf(table.value), [...new Set([...fields.map(({ column }) => column.value), ...keys])]);
  }
  return known;
}

import { entityOf, type Model } from '../model/index.js';
import type { TableName } from '../sql/index.js';
import type { Schema } from './schema.js';

/** Something that a text has and a database has not. `member` is a field or a key column; null for the whole table. */
export interface Absent {
  readonly owner: string;
  readonly table: string;
  readonly column: string | null;
}

/** One text for a table, whatever the case of its name. */
function placeOf({ schema, name }: TableName): string {
  return `${schema ?? ''}.${name}`.toLowerCase();
}

/** What of a model is not in a database, by table and column. Names are compared as SQL does, without regard to case. */
export function absentFrom(model: Model, actual: Schema): Absent[] {
  const tables = new Map(
    actual.tables.map((table) => [placeOf(table.name), new Set(table.columns.map((column) => column.name.toLowerCase()))]),
  );
  const absent: Absent[] = [];
  const look = (owner: string, place: TableName, columns: readonly string[]) => {
    const there = tables.get(placeOf(place));
    const table = place.name;
    if (there === undefined) absent.push({ owner, table, column: null });
    else for (const column of columns) if (!there.has(column.toLowerCase())) absent.push({ owner, table, column });
  };
  for (const entity of model.entities.values())
    look(
      entity.name,
      entity.table.value,
      entity.fields.map((field) => field.column.value),
    );
  for (const relation of model.relations.values()) {
    if (relation.kind === 'pivot') {
      look(relation.name, relation.table.value, [
        ...relation.ends.flatMap((end) => end.columns.map((column) => column.value)),
        ...relation.fields.map((field) => field.column.value),
      ]);
    } else {
      const table = entityOf(model, relation.child).table.value;
      if (tables.has(placeOf(table)))
        look(
          relation.name,
          table,
          relation.columns.filter((column) => !column.declared).map((column) => column.value),
        );
    }
  }
  return absent;
}

import { entityOf, hasTable, holdingsOf, isPivot, type Model, storedColumnsOf } from '../model/index.js';
import { placeOf, type TableName } from '../sql/index.js';
import type { Schema } from './schema.js';

/** Something that a text has and a database has not. `member` is a field or a key column; null for the whole table. */
export interface Absent {
  readonly owner: string;
  readonly table: string;
  readonly column: string | null;
}

/** The tables and columns of a model that a database has not. Names are compared as SQL does, without regard to case. */
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
  for (const entity of model.entities.values()) {
    const own = entity.kinds === null ? entity.fields : entity.fields.filter(({ owner }) => owner === entity.name);
    if (!hasTable(entity) && entity.kinds?.storage.kind !== 'single table') continue;
    look(
      entity.name,
      entity.table.value,
      (entity.kinds?.storage.kind === 'separate tables' ? entity.fields : own).map((field) => field.column.value),
    );
  }
  for (const relation of model.relations.values()) {
    const { holder, pairs } = holdingsOf(relation);
    const columns = storedColumnsOf(relation);
    if (isPivot(relation))
      look(relation.name, pairs ?? relation.table.value, [
        ...columns.map(({ value }) => value),
        ...relation.fields.map((field) => field.column.value),
      ]);
    else {
      const undeclared = columns.filter(({ declared }) => !declared).map(({ value }) => value);
      for (const name of tablesOf(model, holder ?? '')) {
        const table = entityOf(model, name).table.value;
        if (tables.has(placeOf(table))) look(relation.name, table, undeclared);
      }
    }
  }
  return absent;
}

/** The entities in whose tables an entity's columns stand. */
function tablesOf(model: Model, name: string): string[] {
  const { kinds } = entityOf(model, name);
  return kinds?.storage.kind === 'separate tables' ? kinds.concrete.map(({ entity }) => entity) : [name];
}

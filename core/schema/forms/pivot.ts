import { entityOf, type Model, type PivotRelation } from '../../model/index.js';
import type { TableBuilder } from '../tables.js';

/** A pivot's table: both keys, its own fields, and a pair that stands once unless it repeats. */
export function fillPivot(model: Model, relation: PivotRelation, table: TableBuilder): void {
  const [first, second] = relation.ends;
  const columns = relation.ends.map((end) => end.column.value);
  if (relation.repeats) {
    table.columns.push({ name: 'id', type: 'INTEGER', notNull: false, default: null });
    table.primaryKey = { columns: ['id'], autoincrement: false };
  } else {
    table.primaryKey = { columns, autoincrement: false };
  }
  for (const end of relation.ends) {
    const entity = entityOf(model, end.entity);
    const name = end.column.value;
    table.addKeyColumn(name, entity.key, true);
    table.addForeignKey(
      name,
      entity.table.value.name,
      entity.key.column.value,
      relation.onDelete.value,
      relation.onUpdate.value,
      `${table.label}.${name} points at a ${entity.name}`,
    );
  }
  for (const field of relation.fields) table.addField(field);
  if (relation.form === 'symmetric') {
    table.addCheck(
      'pair',
      table.inOrder(first.column.value, second.column.value),
      `${table.label}: each pair is kept once, the lesser key first`,
      null,
    );
  }
  table.addGroups(relation.uniques, relation.indexes);
  table.addConditions(relation.checks, relation.fields);
  if (relation.repeats) table.addIndex([first.column.value]);
  table.addIndex([second.column.value]);
}

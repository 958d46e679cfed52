import { entityOf, type KeyRelation, type Model } from '../../model/index.js';
import type { TableBuilder } from '../tables.js';

/** A key relation's column, foreign key, index and, for a one-to-one, unique, in the child's table. */
export function addKeyRelation(model: Model, relation: KeyRelation, table: TableBuilder): void {
  const parent = entityOf(model, relation.parent);
  const column = relation.column.value;
  const label = `${relation.child}.${relation.childRole ?? column}`;
  if (relation.declared) {
    if (relation.required) {
      const index = table.columns.findIndex((candidate) => candidate.name.toLowerCase() === column.toLowerCase());
      const declared = table.columns[index];
      if (declared !== undefined && !table.primaryKey.columns.includes(declared.name))
        table.columns[index] = { ...declared, notNull: true };
    }
  } else {
    table.addKeyColumn(column, parent.key, relation.required);
  }
  table.addForeignKey(
    column,
    parent.table.value.name,
    parent.key.column.value,
    relation.onDelete.value,
    relation.onUpdate.value,
    `${label} points at a ${parent.name}`,
  );
  if (relation.form === 'one-to-one')
    table.addUnique([column], `${label} is the only ${relation.child} of its ${parent.name}`, null);
}

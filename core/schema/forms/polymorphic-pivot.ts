import { entityOf, type Model, type PolymorphicPivotRelation } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import { foreignTarget } from '../holders.js';
import { markType } from '../kinds/index.js';
import type { TableBuilder } from '../tables.js';

/** A pivot's table with a key on one side, and type and id on the other. */
export function fillPolymorphicPivot(model: Model, relation: PolymorphicPivotRelation, table: TableBuilder): void {
  const near = relation.near.columns.map(({ value }) => value);
  const { type, id, idType } = relation.storage;
  const far = [type.value, id.value];
  if (relation.repeats) table.addId();
  const key = relation.withoutKey ? [] : relation.repeats ? ['id'] : [...near, ...far];
  table.primaryKey = { columns: key, name: null, autoincrement: false };
  const entity = entityOf(model, relation.near.entity);
  near.forEach((name, index) => {
    const part = entity.key.fields[index];
    if (part !== undefined) table.addKeyColumn(name, part, true);
  });
  const values = relation.targets.flatMap(({ marks }) => marks.map(({ mark }) => mark));
  table.addMark(type.value, markType(values), values, true, `${table.label}: what it points at`);
  table.addIdColumn(id.value, idType, true);
  for (const field of relation.fields) table.addField(field);
  const target = foreignTarget(model, relation.near.entity);
  if (target.kind === 'table')
    table.addForeignKey(
      near,
      target.table,
      entity.key.columns,
      relation.onDelete.value,
      relation.onUpdate.value,
      `${table.label}.${near.join(', ')} points at ${withArticle(entity.name)}`,
      { named: null, deferred: relation.deferred },
    );
  table.addGroups(relation.uniques, relation.indexes);
  table.addConditions(relation.checks, relation.fields);
  table.keep([...relation.kept, ...relation.keptInTable]);
  if (model.physical.asStated) return;
  if (relation.repeats) table.addIndex(near);
  table.addIndex(far);
}

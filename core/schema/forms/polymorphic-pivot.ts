import {
  entityOf,
  farColumns,
  isNumbered,
  type KeyColumn,
  type Model,
  type PolymorphicPivotRelation,
} from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import { foreignTarget } from '../holders.js';
import { markType } from '../kinds/index.js';
import type { TableBuilder } from '../tables.js';
import { pivotLinks } from '../triggers/links.js';
import type { RelationForm } from './form.js';

/** A pivot's table with a key on one side, and on the other type and id, or a key for each entity. */
function fillPolymorphicPivot(model: Model, relation: PolymorphicPivotRelation, table: TableBuilder): void {
  const near = relation.near.columns.map(({ value }) => value);
  const { storage } = relation;
  const far = farColumns(relation).map(({ value }) => value);
  const numbered = isNumbered(relation);
  if (numbered) table.addId();
  const key = relation.withoutKey ? [] : numbered ? ['id'] : [...near, ...far];
  table.primaryKey = { columns: key, name: null, autoincrement: false };
  const entity = entityOf(model, relation.near.entity);
  near.forEach((name, index) => {
    const part = entity.key.fields[index];
    if (part !== undefined) table.addKeyColumn(name, part, true);
  });
  if (storage.kind === 'one of') addKeyForEach(model, relation, storage.columns, table);
  else {
    const values = relation.targets.flatMap(({ marks }) => marks.map(({ mark }) => mark));
    table.addMark(storage.type.value, markType(values), values, true, `${table.label}: what it points at`);
    table.addIdColumn(storage.id.value, storage.idType, true);
  }
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
  if (storage.kind === 'type and id') {
    if (relation.repeats) table.addIndex(near);
    table.addIndex(far);
    return;
  }
  // Of columns that are null but for one, no key is made; that a pair stands once is said of each.
  if (relation.repeats) table.addIndex(near);
  for (const name of far) {
    if (!relation.repeats) table.addUnique([...near, name], `${table.label}: each pair stands once`, null);
    table.addIndex([name]);
  }
}

function addKeyForEach(
  model: Model,
  relation: PolymorphicPivotRelation,
  columns: readonly KeyColumn[],
  table: TableBuilder,
): void {
  const names = columns.map(({ value }) => value);
  relation.targets.forEach(({ entity }, index) => {
    const name = names[index] ?? '';
    const { key } = entityOf(model, entity);
    const [part] = key.fields;
    if (part !== undefined) table.addKeyColumn(name, part, false);
    const place = foreignTarget(model, entity);
    if (place.kind === 'table')
      table.addForeignKey(
        [name],
        place.table,
        key.columns,
        relation.onDelete.value,
        relation.onUpdate.value,
        `${table.label}.${name} points at ${withArticle(entity)}`,
        { named: null, deferred: relation.deferred },
      );
  });
  if (!model.physical.asStated)
    table.addCheck(`${relation.name}_one`, table.filled(names, '= 1'), `${table.label}: exactly one is given`, null);
}

/** Pairs of rows of one entity with those of several. */
export const polymorphicPivotForm: RelationForm<PolymorphicPivotRelation> = {
  add: (relation, site) => {
    const table = site.pairs(relation);
    if (table !== null) fillPolymorphicPivot(site.model, relation, table);
  },
  addIndexes: () => undefined,
  links: (relation, { model, tables }, all) => pivotLinks(model, tables, all, relation),
};

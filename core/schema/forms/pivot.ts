import { entityOf, type Model, type PivotRelation } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import { type EntityTables, foreignTarget } from '../holders.js';
import type { TableBuilder } from '../tables.js';
import { pivotLinks } from '../triggers/links.js';
import type { RelationForm } from './form.js';

/** A pivot's table: both keys, its own fields, and a pair that stands once unless it repeats. */
function fillPivot(model: Model, relation: PivotRelation, table: TableBuilder): void {
  const [first, second] = relation.ends;
  const near = first.columns.map((column) => column.value);
  const far = second.columns.map((column) => column.value);
  const columns = Array.from(new Set([...near, ...far]));
  // Lines that say more of a key's column stand among the pivot's own fields, and give its place in the table.
  const declared = relation.ends.flatMap((end) => end.columns.flatMap(({ field }) => field ?? []));
  if (relation.withoutKey) {
    table.primaryKey = { columns: [], name: null, autoincrement: false };
  } else if (relation.repeats) {
    table.addId();
    table.primaryKey = { columns: ['id'], name: null, autoincrement: false };
  } else {
    table.primaryKey = { columns, name: null, autoincrement: false };
  }
  for (const end of relation.ends) {
    const entity = entityOf(model, end.entity);
    for (const [index, { value: name, field }] of end.columns.entries()) {
      const part = entity.key.fields[index];
      // The two keys may share a column, which then stands once.
      const there = field !== null || table.columns.some((column) => column.name === name);
      if (part !== undefined && !there) table.addKeyColumn(name, part, true);
    }
  }
  const fields = [...relation.fields, ...new Set(declared)].sort((a, b) => a.span.start - b.span.start);
  for (const field of fields) table.addField(field);
  for (const end of relation.ends) {
    const entity = entityOf(model, end.entity);
    const names = end.columns.map((column) => column.value);
    const target = foreignTarget(model, end.entity);
    if (target.kind === 'tables') continue;
    table.addForeignKey(
      names,
      target.table,
      entity.key.columns,
      relation.onDelete.value,
      relation.onUpdate.value,
      `${table.label}.${names.join(', ')} points at ${withArticle(entity.name)}`,
      { ...relation, named: null },
    );
  }
  const keyTypes = entityOf(model, first.entity).key.fields.map(({ type }) => type);
  if (relation.form === 'symmetric' && !model.physical.asStated) {
    table.addCheck(
      'pair',
      table.inOrder(near, far, keyTypes),
      `${table.label}: each pair is kept once, the lesser key first`,
      null,
    );
  }
  table.addGroups(relation.uniques, relation.indexes);
  table.addConditions(relation.checks, relation.fields);
  table.keep([...relation.kept, ...relation.keptInTable]);
  if (model.physical.asStated) return;
  if (relation.repeats) table.addIndex(near);
  table.addIndex(far);
}

/** A pair stands once in an entity that holds pairs, too. */
function addPairOnce(model: Model, relation: PivotRelation, tables: EntityTables): void {
  if (relation.entity === null || relation.given || relation.repeats) return;
  const columns = relation.ends.flatMap((end) => end.columns.map(({ value }) => value));
  const same = (others: readonly string[]) => [...others].sort().join('\n') === [...columns].sort().join('\n');
  const { key, uniques } = entityOf(model, relation.entity);
  if (same(key.columns) || uniques.some((unique) => same(unique.columns))) return;
  tables.get(relation.entity)?.addUnique(columns, `relation ${relation.name}: each pair stands once`, null);
}

/** Pairs of rows of two entities. */
export const pivotForm: RelationForm<PivotRelation> = {
  add: (relation, site) => {
    const table = site.pairs(relation);
    if (table !== null) fillPivot(site.model, relation, table);
  },
  addIndexes: (relation, { model, tables }) => addPairOnce(model, relation, tables),
  links: (relation, { model, tables }, all) => pivotLinks(model, tables, all, relation),
};

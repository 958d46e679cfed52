import { entityOf, type Model, type PolymorphicRelation } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import { foreignTarget, type Holder, holdersOf } from '../holders.js';
import { markType } from '../kinds/index.js';
import { polymorphicLinks } from '../triggers/links.js';
import type { RelationForm } from './form.js';
import { isUnique } from './key.js';

/** A polymorphic key in a table of the child: type and id, or a column for each target. */
function addPolymorphic(model: Model, relation: PolymorphicRelation, holder: Holder): void {
  if (relation.storage.kind === 'one of') addOneOf(model, relation, relation.storage, holder);
  else addTypeAndId(model, relation, relation.storage, holder);
}

function labelOf(relation: PolymorphicRelation): string {
  return `${relation.child}.${relation.childRole ?? relation.name}`;
}

function addTypeAndId(
  model: Model,
  relation: PolymorphicRelation,
  { type, id, idType }: Extract<PolymorphicRelation['storage'], { kind: 'type and id' }>,
  { table, among }: Holder,
): void {
  const label = labelOf(relation);
  const values = relation.targets.flatMap(({ marks }) => marks.map(({ mark }) => mark));
  const required = relation.required && among === null;
  table.addMark(type.value, markType(values), values, required, `${label}: what it points at`);
  table.addIdColumn(id.value, idType, required);
  if (relation.required && among !== null) table.addRequiredOf(type.value, among, label);
  if (!required)
    table.addCheck(
      `${id.value}_whole`,
      table.allOrNone([type.value, id.value]),
      `${label}: type and id are both given, or neither`,
      null,
    );
  // Where every target has one at most, the pair stands once; else only an index helps to find it.
  const once = relation.targets.every(({ knows }) => knows !== 'many');
  if (once && !isUnique(entityOf(model, relation.child), [type.value, id.value]))
    table.addUnique([type.value, id.value], `${label} is the only ${relation.child} of what it points at`, null);
}

function addOneOf(
  model: Model,
  relation: PolymorphicRelation,
  { columns }: Extract<PolymorphicRelation['storage'], { kind: 'one of' }>,
  { table, among }: Holder,
): void {
  const label = labelOf(relation);
  const names = columns.map(({ value }) => value);
  relation.targets.forEach(({ entity, knows }, index) => {
    const name = names[index] ?? '';
    const target = entityOf(model, entity);
    const [part] = target.key.fields;
    const there = table.columns.some((column) => column.name.toLowerCase() === name.toLowerCase());
    if (part !== undefined && !there) table.addKeyColumn(name, part, false);
    const place = foreignTarget(model, entity);
    if (place.kind === 'table')
      table.addForeignKey(
        [name],
        place.table,
        target.key.columns,
        relation.onDelete.value,
        relation.onUpdate.value,
        `${label} points at ${withArticle(entity)}`,
        { named: null, deferred: relation.deferred },
      );
    if (knows !== 'many' && !isUnique(entityOf(model, relation.child), [name]))
      table.addUnique([name], `${label} is the only ${relation.child} of its ${entity}`, null);
  });
  // There the check is stated for itself.
  if (model.physical.asStated) return;
  const what = relation.required ? `${label}: exactly one is given` : `${label}: at most one is given`;
  const name = relation.childRole ?? relation.name;
  if (relation.required && among === null) table.addCheck(`${name}_one`, table.filled(names, '= 1'), what, null);
  else table.addCheck(`${name}_one`, table.filled(names, '<= 1'), what, null);
  if (relation.required && among !== null)
    table.addCheck(`${name}_given`, `${table.noneOf(among)} or ${table.filled(names, '= 1')}`, `${label} is given`, null);
}

/** Keys in the rows of one entity, to those of several. */
export const polymorphicForm: RelationForm<PolymorphicRelation> = {
  add: (relation, { model, tables }) => {
    for (const holder of holdersOf(model, tables, relation.child)) addPolymorphic(model, relation, holder);
  },
  addIndexes: (relation, { model, tables }) => {
    const { storage } = relation;
    for (const { table } of holdersOf(model, tables, relation.child)) {
      if (storage.kind === 'type and id') table.addIndex([storage.type.value, storage.id.value]);
      else for (const { value } of storage.columns) table.addIndex([value]);
    }
  },
  links: (relation, { model, tables }) => polymorphicLinks(model, tables, relation),
};

import { type Entity, entityOf, type KeyRelation, type Model } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import { foreignTarget, type Holder, holdersOf } from '../holders.js';
import { keyLinks } from '../triggers/links.js';
import type { RelationForm } from './form.js';

/** Do these columns stand only once already: as the key, or by a unique that the text states? */
export function isUnique(entity: Entity, columns: readonly string[]): boolean {
  const same = (others: readonly string[]) => [...others].sort().join('\n') === [...columns].sort().join('\n');
  return same(entity.key.columns) || entity.uniques.some((unique) => same(unique.columns));
}

/** A key relation's columns, foreign key and, for a one-to-one, unique, in a table of the child. */
function addKeyRelation(model: Model, relation: KeyRelation, { table, among }: Holder): void {
  const parent = entityOf(model, relation.parent);
  const child = entityOf(model, relation.child);
  const columns = relation.columns.map((column) => column.value);
  const label = `${relation.child}.${relation.childRole ?? columns.join(', ')}`;
  for (const [index, { value: column }] of relation.columns.entries()) {
    const at = table.columns.findIndex((candidate) => candidate.name.toLowerCase() === column.toLowerCase());
    const there = table.columns[at];
    const part = parent.key.fields[index];
    const required = relation.required && among === null;
    if (there === undefined) {
      if (part !== undefined) table.addKeyColumn(column, part, required || child.key.columns.includes(column));
    } else if (required && !(child.key.columns.length === 1 && child.key.columns.includes(there.name))) {
      table.columns[at] = { ...there, notNull: true };
    }
    if (there !== undefined && !model.physical.asStated) table.takeKeyFromElsewhere(there.name);
    if (relation.required && among !== null) table.addRequiredOf(column, among, label);
  }
  const target = foreignTarget(model, relation.parent);
  if (target.kind === 'table')
    table.addForeignKey(
      columns,
      target.table,
      parent.key.columns,
      relation.onDelete.value,
      relation.onUpdate.value,
      `${label} points at ${withArticle(parent.name)}`,
      relation,
    );
  const free = columns.filter((column) => table.columns.some(({ name, notNull }) => name === column && !notNull));
  if (free.length > 1 && !model.physical.asStated) {
    const what = `${label}: all parts of the key are given, or none`;
    table.addCheck(`${relation.childRole ?? columns.join('_')}_whole`, table.allOrNone(free), what, null);
  }
  if (relation.form === 'one-to-one' && !isUnique(child, columns))
    table.addUnique(columns, `${label} is the only ${relation.child} of its ${parent.name}`, null);
}

/** A key in the rows of one entity, to those of another. */
export const keyForm: RelationForm<KeyRelation> = {
  add: (relation, { model, tables }) => {
    for (const holder of holdersOf(model, tables, relation.child)) addKeyRelation(model, relation, holder);
  },
  addIndexes: (relation, { model, tables }) => {
    const columns = relation.columns.map(({ value }) => value);
    for (const { table } of holdersOf(model, tables, relation.child)) table.addIndex(columns);
  },
  links: (relation, { model, tables }) => keyLinks(model, tables, relation),
};

import type { Design } from '../design/index.js';
import {
  entityOf,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type PolymorphicTarget,
  plural,
} from '../model/index.js';
import { withArticle } from '../notation/index.js';
import { foreignTarget } from '../schema/index.js';
import { type RelationCard, type StorageCard, storage } from './card.js';
import { THEN, words } from './words.js';

type Polymorphic = PolymorphicRelation | PolymorphicPivotRelation;

function holderTable({ model }: Design, relation: Polymorphic): string {
  return relation.kind === 'polymorphic' ? entityOf(model, relation.child).table.value.name : relation.table.value.name;
}

/** The tables in which a target's rows stand. */
function tablesOf({ model }: Design, name: string): string[] {
  const target = foreignTarget(model, name);
  return target.kind === 'table' ? [target.table.name] : target.tables.map((table) => table.name);
}

/** Where a polymorphic relation is stored: type and id with their marks, or a column for each target. */
export function polymorphicStorage(design: Design, relation: Polymorphic): StorageCard[] {
  const table = holderTable(design, relation);
  const { storage: stored } = relation;
  const pivot =
    relation.kind === 'polymorphic pivot'
      ? [storage(`table ${table}`, `, ${relation.repeats ? 'a pair may repeat' : 'each pair once'}`, relation.table.origin)]
      : [];
  if (stored.kind === 'one of') {
    return stored.columns.map(({ value, origin }, index) => {
      const target = relation.targets[index]?.entity ?? '';
      return storage(
        `${table}.${value}`,
        ` → ${tablesOf(design, target).join(', ')}, one of ${stored.columns.length} is filled`,
        origin,
      );
    });
  }
  const marks = relation.targets.flatMap((target) =>
    target.marks.map(({ entity, mark }) =>
      storage(
        `'${mark}'`,
        ` → ${tablesOf(design, entity).join(', ')}`,
        target.stated ? stored.type.origin : { kind: 'convention', rule: 'the entity’s name in snake_case' },
      ),
    ),
  );
  const kept = stored.triggers ? 'triggers keep that it is there' : 'nothing keeps that it is there';
  return [
    ...pivot,
    storage(`${table}.${stored.type.value} with ${table}.${stored.id.value}`, `, ${kept}`, stored.type.origin),
    ...marks,
  ];
}

/** The delete rule of each target, in words. */
export function polymorphicDeletes(relation: Polymorphic): RelationCard['deletes'] {
  const rule = relation.onDelete.value;
  const stated = relation.onDelete.origin.kind === 'stated';
  const unkept = relation.storage.kind === 'type and id' && !relation.storage.triggers;
  return relation.targets.map((target) => ({
    when: `When ${withArticle(words(target.entity))} is deleted`,
    then: unkept
      ? `nothing happens: its ${thingsOf(relation, target)} point at a row that is gone`
      : THEN[rule](thingsOf(relation, target)),
    rule,
    stated,
  }));
}

function thingsOf(relation: Polymorphic, { knows }: PolymorphicTarget): string {
  if (relation.kind === 'polymorphic pivot') return `rows in ${relation.table.value.name}`;
  return knows === 'many' ? plural(words(relation.child)) : words(relation.child);
}

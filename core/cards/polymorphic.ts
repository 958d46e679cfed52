import type { Design } from '../design/index.js';
import {
  entityOf,
  keysOfTargets,
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

/** Where a polymorphic relation is stored: its pairs' table, and the columns of its keys with the marks of what they hold. */
export function polymorphicStorage(design: Design, relation: Polymorphic): StorageCard[] {
  const table = holderTable(design, relation);
  const pivot =
    relation.kind === 'polymorphic pivot'
      ? [storage(`table ${table}`, `, ${relation.repeats ? 'a pair may repeat' : 'each pair once'}`, relation.table.origin)]
      : [];
  const keys = keysOfTargets(relation);
  const [shared] = keys;
  if (shared === undefined || shared.mark === null) {
    const columns = keys.flatMap(({ target, columns: own }) =>
      own.map(({ value, origin }) =>
        storage(`${table}.${value}`, ` → ${tablesOf(design, target).join(', ')}, one of ${keys.length} is filled`, origin),
      ),
    );
    return [...pivot, ...columns];
  }
  const { mark, kept } = shared;
  const marks = relation.targets.flatMap((target) =>
    target.marks.map((one) =>
      storage(
        `'${one.mark}'`,
        ` → ${tablesOf(design, one.entity).join(', ')}`,
        target.stated ? mark.origin : { kind: 'convention', rule: 'the entity’s name in snake_case' },
      ),
    ),
  );
  const place = `${table}.${mark.column} with ${table}.${shared.columns[0]?.value ?? ''}`;
  const keeper = kept ? 'triggers keep that it is there' : 'nothing keeps that it is there';
  return [...pivot, storage(place, `, ${keeper}`, mark.origin), ...marks];
}

/** The delete rule of each target, in words. */
export function polymorphicDeletes(relation: Polymorphic): RelationCard['deletes'] {
  const rule = relation.onDelete.value;
  const stated = relation.onDelete.origin.kind === 'stated';
  const keys = keysOfTargets(relation);
  return relation.targets.map((target, index) => ({
    when: `When ${withArticle(words(target.entity))} is deleted`,
    then:
      keys[index]?.kept === false
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

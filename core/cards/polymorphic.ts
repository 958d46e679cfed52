import type { Design } from '../design/index.js';
import {
  type Entity,
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
      ? [storage(`table ${table}, ${relation.repeats ? 'a pair may repeat' : 'each pair once'}`, relation.table.origin)]
      : [];
  if (stored.kind === 'one of') {
    return stored.columns.map(({ value, origin }, index) => {
      const target = relation.targets[index]?.entity ?? '';
      return storage(
        `${table}.${value} → ${tablesOf(design, target).join(', ')}, one of ${stored.columns.length} is filled`,
        origin,
      );
    });
  }
  const marks = relation.targets.flatMap((target) =>
    target.marks.map(({ entity, mark }) =>
      storage(
        `'${mark}' → ${tablesOf(design, entity).join(', ')}`,
        target.stated ? stored.type.origin : { kind: 'convention', rule: 'the entity’s name in snake_case' },
      ),
    ),
  );
  const kept = stored.triggers ? 'triggers keep that it is there' : 'nothing keeps that it is there';
  return [
    ...pivot,
    storage(`${table}.${stored.type.value} with ${table}.${stored.id.value}, ${kept}`, stored.type.origin),
    ...marks,
  ];
}

/** What the delete of a row of each target does. */
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

/** The join from the holder to each target, and back from the first. */
export function polymorphicJoins(design: Design, relation: Polymorphic): RelationCard['joins'] {
  const { model, dialect } = design;
  const { quote } = dialect;
  const table = quote(holderTable(design, relation));
  const { storage: stored } = relation;
  const joins = relation.targets.map((target, index): { target: Entity; on: (own: string) => string } => {
    const entity = entityOf(model, target.entity);
    const key = quote(entity.key.columns[0] ?? '');
    return {
      target: entity,
      on: (own) => {
        if (stored.kind === 'one of') return `${own}.${key} = ${table}.${quote(stored.columns[index]?.value ?? '')}`;
        const marks = target.marks.map(({ mark }) => dialect.print({ kind: 'string', value: mark }));
        const marked = marks.length === 1 ? `= ${marks[0]}` : `in (${marks.join(', ')})`;
        return `${own}.${key} = ${table}.${quote(stored.id.value)} and ${table}.${quote(stored.type.value)} ${marked}`;
      },
    };
  });
  const forth = joins.map(({ target, on }) => {
    const own = quote(target.table.value.name);
    return `left join ${own}\n  on ${on(own)}`;
  });
  if (relation.kind === 'polymorphic') {
    const back = joins.map(({ target, on }) => {
      const own = quote(target.table.value.name);
      return { from: target.name, sql: `from ${own}\nleft join ${table}\n  on ${on(own)}` };
    });
    return [{ from: relation.child, sql: `from ${table}\n${forth.join('\n')}` }, ...back];
  }
  const near = entityOf(model, relation.near.entity);
  const own = quote(near.table.value.name);
  const pair = relation.near.columns.map(
    ({ value }, index) => `${table}.${quote(value)} = ${own}.${quote(near.key.columns[index] ?? '')}`,
  );
  return [{ from: near.name, sql: `from ${own}\nleft join ${table}\n  on ${pair.join(' and ')}\n${forth.join('\n')}` }];
}

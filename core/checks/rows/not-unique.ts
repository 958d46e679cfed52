import {
  type AnyPivotRelation,
  type Entity,
  entityOf,
  holdingsOf,
  isPivot,
  keyColumnsOf,
  type Model,
  type Relation,
} from '../../model/index.js';
import type { Span } from '../../notation/index.js';
import { lookAtEntity, lookAtTable } from '../../plan/index.js';
import type { ValueType } from '../../values/index.js';
import type { Evidence, RowCheck, RowQuestion } from '../row-check.js';
import { pairKeys } from './pair-keys.js';
import { many } from './questions.js';
import { columnType, standingTwice } from './standing-twice.js';

/** What stands in several rows though it may stand in one: where the constraint that would keep it is missing. */
export const notUnique: RowCheck = {
  code: 'not-unique',
  ask: (model) => [
    ...Array.from(model.entities.values()).flatMap((entity) => ofEntity(model, entity)),
    ...Array.from(model.relations.values()).flatMap((relation) => (isPivot(relation) ? ofPivot(model, relation) : [])),
  ],
};

/** Columns of which each value may stand once. */
interface Once {
  readonly columns: readonly string[];
  readonly what: string;
  readonly span: Span;
}

function ofEntity(model: Model, entity: Entity): RowQuestion[] {
  const { kinds, key } = entity;
  // Over several tables another check looks.
  if (kinds?.storage.kind === 'separate tables' && kinds.concrete.length > 1) return [];
  const isOwn = ({ owner }: { readonly owner: string }) => owner === entity.name;
  const inherited = kinds?.base == null ? [] : entityOf(model, kinds.base).uniques.map(({ columns }) => columns.join('\n'));
  const all: Once[] = [
    ...(kinds?.base == null && key.columns.join() !== 'rowid'
      ? [{ columns: key.columns, what: 'its key', span: entity.head }]
      : []),
    ...entity.fields
      .filter((field) => isOwn(field) && field.unique !== null && !field.key)
      .map(({ column, span }) => ({ columns: [column.value], what: 'unique', span })),
    ...entity.uniques
      .filter(({ columns }) => !inherited.includes(columns.join('\n')))
      .map(({ columns, span }) => ({ columns, what: 'unique', span })),
    ...Array.from(model.relations.values()).flatMap((relation) => heldOnce(relation, entity)),
  ];
  const seen = new Set<string>();
  return all.flatMap(({ columns, what, span }) => {
    const same = [...columns].sort().join('\n');
    if (seen.has(same)) return [];
    seen.add(same);
    const wanted = columns.map((name): Evidence => ({ column: name, type: columnType(model, entity, name) }));
    return [standingTwice(about(entity.name, columns, what, span), lookAtEntity(model, entity.name), wanted)];
  });
}

/** The keys that an entity's rows hold over a relation, where no two of them may hold the same. */
function heldOnce(relation: Relation, { name }: Entity): Once[] {
  const what = `relation ${relation.name}`;
  const span = relation.head;
  const { holder, keys } = holdingsOf(relation);
  if (holder !== name) return [];
  // Pairs that an entity holds stand once as a whole.
  if (isPivot(relation))
    return relation.kind === 'pivot' && !relation.repeats ? [{ columns: keyColumnsOf(relation).flat(), what, span }] : [];
  return keys
    .filter(({ once }) => once)
    .map(({ mark, columns }) => ({
      columns: [...(mark === null ? [] : [mark.column]), ...columns.map(({ value }) => value)],
      what,
      span,
    }));
}

function ofPivot(model: Model, relation: AnyPivotRelation): RowQuestion[] {
  if (relation.entity !== null) return [];
  const keys = pairKeys(model, relation);
  const types = new Map<string, ValueType>([
    ...keys.flatMap((key) => key.map(({ column, type }) => [column, type] as const)),
    ...relation.fields.map(({ column, type }) => [column.value, type] as const),
  ]);
  const pairs = relation.repeats ? [] : keys.map((key) => key.map(({ column }) => column));
  const all = [
    ...pairs.map((columns) => ({ columns, what: 'each pair once', span: relation.head })),
    ...relation.uniques.map(({ columns, span }) => ({ columns, what: 'unique', span })),
  ];
  return all.map(({ columns, what, span }) =>
    standingTwice(
      about(relation.table.value.name, columns, what, span),
      lookAtTable(model, relation.table.value),
      columns.map((name) => ({ column: name, type: types.get(name) ?? { kind: 'text', length: null } })),
    ),
  );
}

function about(owner: string, columns: readonly string[], what: string, span: Span) {
  return {
    code: notUnique.code,
    weight: 'error' as const,
    span,
    told: (count: number) =>
      `${owner}: ${many(count, 'value')} of ${columns.join(', ')} ${count === 1 ? 'stands' : 'stand'} in more than one row, and may stand in one only: ${what}.`,
  };
}

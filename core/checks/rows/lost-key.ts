import { entityOf, type Model, type Relation } from '../../model/index.js';
import { type HeldKey, heldKeys } from '../../profile/index.js';
import type { ValueType } from '../../values/index.js';
import type { RowCheck, Telling } from '../row-check.js';
import { many, pairsWhere, rowsWhere } from './questions.js';

/** Keys that lead to no row, or to a row of another kind: where no foreign key or trigger kept them, or was put there too late. */
export const lostKey: RowCheck = {
  code: 'lost-key',
  ask: (model) =>
    Array.from(model.relations.values()).flatMap((relation) =>
      heldKeys(model, relation).flatMap((held) => {
        const { holder, look, target, lost: where } = held;
        if (where === null) return [];
        const found = { look, where, telling: tellingOf(model, relation, held) };
        const about = {
          code: lostKey.code,
          weight: 'error' as const,
          span: relation.head,
          told: (count: number) =>
            `${holder ?? relation.name}.${held.column}: ${many(count, holder === null ? 'pair' : 'row')} hold${count === 1 ? 's' : ''} a key that no row of ${target} has.`,
        };
        return [holder === null ? pairsWhere(about, found) : rowsWhere(model, about, { ...found, entity: holder })];
      }),
    ),
};

/** The key that leads nowhere; of a pair both, since nothing else names it. */
function tellingOf(model: Model, relation: Relation, { key, target, holder, marked }: HeldKey): Telling[] {
  const typed = (columns: readonly string[], entity: string): Telling[] =>
    columns.map((column, index) => ({ column, type: entityOf(model, entity).key.fields[index]?.type ?? TEXT }));
  if (relation.kind === 'pivot' && holder === null)
    return relation.ends.flatMap(({ columns, entity }) =>
      typed(
        columns.map(({ value }) => value),
        entity,
      ),
    );
  if (relation.kind === 'polymorphic pivot' && holder === null) {
    const { near, storage, targets } = relation;
    const pointer = typed(
      near.columns.map(({ value }) => value),
      near.entity,
    );
    if (storage.kind === 'one of')
      return [...pointer, ...storage.columns.flatMap(({ value }, index) => typed([value], targets[index]?.entity ?? target))];
    return [...pointer, { column: storage.type.value, type: TEXT }, { column: storage.id.value, type: storage.idType }];
  }
  if (marked !== null && (relation.kind === 'polymorphic' || relation.kind === 'polymorphic pivot')) {
    const { storage } = relation;
    if (storage.kind === 'type and id') return key.map((column) => ({ column, type: storage.idType }));
  }
  return typed(key, target);
}

const TEXT: ValueType = { kind: 'text', length: null };

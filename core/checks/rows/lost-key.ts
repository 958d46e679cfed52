import { holdingsOf, type Model, type Relation } from '../../model/index.js';
import { type HeldKey, heldKeys } from '../../profile/index.js';
import type { Evidence, RowCheck } from '../row-check.js';
import { evidenceOf, many, pairsWhere, rowsWhere } from './questions.js';

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

/** The key that leads nowhere; of a pair all its columns, since nothing else names it. */
function tellingOf(model: Model, relation: Relation, { key, target, holder }: HeldKey): readonly Evidence[] {
  const { keys } = holdingsOf(relation);
  if (holder === null) return evidenceOf(model, keys);
  const stored = keys.find((one) => one.target === target && one.columns.map(({ value }) => value).join() === key.join());
  return stored === undefined ? [] : evidenceOf(model, [{ ...stored, mark: null }]);
}

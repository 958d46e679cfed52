import { entityOf, type PivotEnd } from '../../model/index.js';
import { lookAtTable } from '../../plan/index.js';
import type { RowCheck } from '../row-check.js';
import { many, pairsWhere } from './questions.js';

/** Symmetric pairs stand once, the lesser key first: others are found from one side only, or twice. */
export const pairOrder: RowCheck = {
  code: 'pair-order',
  ask: (model) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'pivot' || relation.form !== 'symmetric') return [];
      const [first, second] = relation.ends;
      const names = ({ columns }: PivotEnd) => columns.map(({ value }) => value);
      const [least, greatest] = [names(first), names(second)];
      const look = lookAtTable(model, relation.table.value);
      const { fields } = entityOf(model, first.entity).key;
      const telling = [least, greatest].flatMap((key) => fields.map(({ type }, index) => ({ column: key[index] ?? '', type })));
      return [
        pairsWhere(
          {
            code: pairOrder.code,
            weight: 'error',
            span: relation.head,
            told: (count) =>
              `relation ${relation.name}: ${many(count, 'pair')} ${count === 1 ? 'does' : 'do'} not stand as ${told(least)} < ${told(greatest)}, so the same two may stand twice, or one with itself.`,
          },
          {
            look,
            where: look.asks({ kind: 'out of order', least, greatest, types: fields.map(({ type }) => type) }),
            telling,
          },
        ),
      ];
    }),
};

/** A key as a condition writes it. */
function told(columns: readonly string[]): string {
  return columns.length === 1 ? columns.join() : `(${columns.join(', ')})`;
}

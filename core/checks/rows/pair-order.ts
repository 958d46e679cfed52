import { entityOf, type PivotEnd } from '../../model/index.js';
import { rowsIn } from '../../profile/index.js';
import { column, type SqlExpression } from '../../sql/index.js';
import type { RowCheck } from '../row-check.js';
import { many, pairsWhere } from './questions.js';

/** Symmetric pairs stand once, the lesser key first: others are found from one side only, or twice. */
export const pairOrder: RowCheck = {
  code: 'pair-order',
  ask: (model, { dialect: { values } }) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'pivot' || relation.form !== 'symmetric') return [];
      const [first, second] = relation.ends;
      const names = ({ columns }: PivotEnd) => columns.map(({ value }) => value);
      const [least, greatest] = [names(first), names(second)];
      const rows = rowsIn(relation.table.value);
      const { fields } = entityOf(model, first.entity).key;
      const ordered = (key: readonly string[]): SqlExpression => {
        const [only, ...more] = fields.map(({ type }, index) => values.ordered(type, column(rows.alias, key[index] ?? '')));
        return only !== undefined && more.length === 0
          ? only
          : { kind: 'tuple', items: only === undefined ? [] : [only, ...more] };
      };
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
            rows,
            where: { kind: 'binary', operator: '>=', left: ordered(least), right: ordered(greatest) },
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

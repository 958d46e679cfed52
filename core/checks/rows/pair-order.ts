import { entityOf } from '../../model/index.js';
import { rowsIn } from '../../profile/index.js';
import { column } from '../../sql/index.js';
import type { RowCheck } from '../row-check.js';
import { many, pairsWhere } from './questions.js';

/** Symmetric pairs stand once, the lesser key first: others are found from one side only, or twice. */
export const pairOrder: RowCheck = {
  code: 'pair-order',
  ask: (model) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'pivot' || relation.form !== 'symmetric') return [];
      const [first, second] = relation.ends;
      const [least, greatest] = [first.columns[0]?.value, second.columns[0]?.value];
      if (least === undefined || greatest === undefined || first.columns.length > 1) return [];
      const rows = rowsIn(relation.table.value);
      const [type] = entityOf(model, first.entity).key.fields;
      return [
        pairsWhere(
          {
            code: pairOrder.code,
            weight: 'error',
            span: relation.head,
            told: (count) =>
              `relation ${relation.name}: ${many(count, 'pair')} ${count === 1 ? 'does' : 'do'} not stand as ${least} < ${greatest}, so the same two may stand twice, or one with itself.`,
          },
          {
            rows,
            where: { kind: 'binary', operator: '>=', left: column(rows.alias, least), right: column(rows.alias, greatest) },
            telling: [least, greatest].map((name) => ({ column: name, type: type?.type ?? { kind: 'text', length: null } })),
          },
        ),
      ];
    }),
};

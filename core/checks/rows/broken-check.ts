import { type Condition, isPivot } from '../../model/index.js';
import { lookAtTable } from '../../plan/index.js';
import type { RowCheck } from '../row-check.js';
import { many, pairsWhere, rowsWith } from './questions.js';

/** Rows for which a check is false: the database has no such constraint, or has it for rows that came later only. */
export const brokenCheck: RowCheck = {
  code: 'broken-check',
  ask: (model, context) => [
    ...Array.from(model.entities.values()).flatMap((entity) =>
      entity.checks.map((check) =>
        rowsWith(model, about(entity.name, check, 'row'), {
          entity: entity.name,
          where: { kind: 'not', operand: check.expression, type: { kind: 'boolean' }, span: check.span },
          condition: `not (${context.text.slice(check.expression.span.start, check.expression.span.end)})`,
        }),
      ),
    ),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      if (!isPivot(relation)) return [];
      const look = lookAtTable(model, relation.table.value);
      return relation.checks.map((check) =>
        pairsWhere(about(`relation ${relation.name}`, check, 'pair'), {
          look,
          where: look.fails(check.expression, relation.fields),
          telling: relation.fields.map(({ column, type }) => ({ column: column.value, type })),
        }),
      );
    }),
  ],
};

function about(owner: string, { name, message, span }: Condition, one: string) {
  return {
    code: brokenCheck.code,
    weight: 'error' as const,
    span,
    told: (rows: number) =>
      `${owner}: ${many(rows, one)} break${rows === 1 ? 's' : ''} the check ${name}${message === null ? '' : `, “${message}”`}.`,
  };
}

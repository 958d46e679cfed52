import type { RowCheck } from '../row-check.js';
import { many, rowsWith } from './questions.js';

/** Rows that break a rule: no constraint can hold it, so it is looked at in the rows. A rule that is unknown is not broken, as with a check. */
export const brokenRule: RowCheck = {
  code: 'broken-rule',
  ask: (model, context) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.rules.map(({ name, expression, message, span }) =>
        rowsWith(
          model,
          {
            code: brokenRule.code,
            weight: 'error',
            span,
            told: (rows) =>
              `${entity.name}: ${many(rows, 'row')} break${rows === 1 ? 's' : ''} the rule ${name}${message === null ? '' : `, “${message}”`}.`,
          },
          {
            entity: entity.name,
            where: { kind: 'not', operand: expression, type: { kind: 'boolean' }, span },
            condition: `not (${context.text.slice(expression.span.start, expression.span.end)})`,
          },
        ),
      ),
    ),
};

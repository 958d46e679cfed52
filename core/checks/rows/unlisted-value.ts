import type { Field } from '../../model/index.js';
import type { Wire } from '../../values/index.js';
import type { RowCheck } from '../row-check.js';
import { askOfFields } from './fields.js';
import { many } from './questions.js';

/** Values that a choice does not have, or an `in (…)` does not list. */
export const unlistedValue: RowCheck = {
  code: 'unlisted-value',
  ask: (model, { dialect: { values } }) =>
    askOfFields(model, ({ owner, field, operand }) => {
      const listed = listOf(field);
      if (listed === null) return null;
      const items = listed.map((value) => values.literal(field.type, value));
      const shown = listed.slice(0, 8).map((value) => `'${String(value)}'`);
      return {
        wrong: { kind: 'in', operand, items, negated: true },
        about: {
          code: unlistedValue.code,
          weight: 'error',
          span: field.span,
          told: (count) =>
            `${owner}.${field.name}: ${many(count, 'value')} ${count === 1 ? 'is' : 'are'} none of ${shown.join(', ')}${listed.length > shown.length ? ', …' : ''}.`,
        },
      };
    }),
};

function listOf({ type, allowed }: Field): readonly Wire[] | null {
  if (allowed !== null && allowed.length > 0) return allowed;
  return type.kind === 'choice' ? type.values : null;
}

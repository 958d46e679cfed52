import type { Field } from '../../model/index.js';
import type { Wire } from '../../values/index.js';
import type { RowCheck } from '../row-check.js';
import { askOfFields } from './fields.js';
import { many } from './questions.js';

/** Values that a choice does not have, or an `in (…)` does not list. */
export const unlistedValue: RowCheck = {
  code: 'unlisted-value',
  ask: (model) =>
    askOfFields(model, ({ owner, field, look }) => {
      const listed = listOf(field);
      if (listed === null) return null;
      const shown = listed.slice(0, 8).map((value) => `'${String(value)}'`);
      return {
        wrong: look.asks({ kind: 'unlisted', field, values: listed }),
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

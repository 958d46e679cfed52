import { isDeclared } from '../../model/index.js';
import { typeName } from '../../values/index.js';
import type { RowCheck } from '../row-check.js';
import { askOfFields } from './fields.js';
import { many } from './questions.js';

/** Values that are none of their field's type, or longer than it lets them be: each is delivered as it is stored. */
export const unfitValue: RowCheck = {
  code: 'unfit-value',
  ask: (model, { dialect }) =>
    askOfFields(model, ({ owner, field, look }) => {
      const { type, name, span } = field;
      // A choice has a list of its own.
      const declared = isDeclared(model, field);
      if (type.kind === 'choice' || dialect.values.fits(type, name, declared) === null) return null;
      return {
        wrong: look.asks({ kind: 'unfit', field, declared }),
        about: {
          code: unfitValue.code,
          weight: 'error',
          span,
          told: (count) =>
            `${owner}.${name}: ${many(count, 'value')} ${count === 1 ? 'is' : 'are'} no ${typeName(type)}, and ${count === 1 ? 'is' : 'are'} delivered as stored.`,
        },
      };
    }),
};

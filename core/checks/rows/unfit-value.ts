import { isDeclared } from '../../model/index.js';
import { typeName } from '../../values/index.js';
import type { RowCheck } from '../row-check.js';
import { askOfFields } from './fields.js';
import { many } from './questions.js';

/** Values that are none of their field's type, or longer than it lets them be: each is delivered as it is stored. */
export const unfitValue: RowCheck = {
  code: 'unfit-value',
  ask: (model, { dialect }) =>
    askOfFields(model, ({ owner, field, operand }) => {
      const { type, name, span } = field;
      // A choice has a list of its own.
      const fits = type.kind === 'choice' ? null : dialect.values.fits(type, dialect.print(operand), isDeclared(model, field));
      if (fits === null) return null;
      return {
        wrong: {
          kind: 'binary',
          operator: 'and',
          left: { kind: 'is null', operand, negated: true },
          right: { kind: 'not', operand: { kind: 'written', sql: fits } },
        },
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

import { type Expression, entityOf, fieldOf, type Model, someExpression } from '../../model/index.js';
import type { DesignCheck } from '../check.js';
import { afterType } from '../places.js';

/** A text without a length that something saved seeks by its value, on an engine whose indexes cannot hold it whole. */
export const searchedText: DesignCheck = {
  code: 'searched-text',
  find: (model, dialect, syntax) =>
    model.physical.asStated || dialect.powers.indexesText === 'all of it'
      ? []
      : Array.from(soughtFields(model), ([key, by]) => {
          const [name = '', fieldName = ''] = key.split('.');
          const field = fieldOf(entityOf(model, name).fields, fieldName);
          const end = afterType(syntax, field.span);
          return {
            weight: 'note' as const,
            code: searchedText.code,
            message: `${by} seeks rows by ${name}.${fieldName}, a text without a length: every row is read, since ${dialect.powers.indexesText === 'its beginning' ? `${dialect.title} keeps no index of the whole of it` : 'an index of it refuses a long one'}. Give it a length, as text(190), and an index.`,
            span: field.span,
            fixes: end === null ? [] : [{ title: 'Make it text(190)', edits: [{ span: { start: end, end }, text: '(190)' }] }],
          };
        }),
};

/** The texts without a length whose value is compared, as `Entity.field`, each with the first that does. */
function soughtFields(model: Model): Map<string, string> {
  const sought = new Map<string, string>();
  const look = (expression: Expression, by: string): void => {
    someExpression(expression, (part) => {
      for (const side of comparedIn(part)) {
        if (side.kind !== 'field' || side.type.kind !== 'text' || side.type.length !== null) continue;
        const { key, unique, owner, physical } = fieldOf(entityOf(model, side.entity).fields, side.field);
        const known = `${owner}.${side.field}`;
        // Those that are a key or unique are told of for that.
        if (!key && unique === null && physical.declaration === null && !sought.has(known)) sought.set(known, by);
      }
      return false;
    });
  };
  for (const query of model.queries.values()) for (const where of query.where) look(where, `query ${query.name}`);
  for (const { name, conditions } of model.scopes.values())
    for (const condition of conditions.values()) look(condition, `scope ${name}`);
  return sought;
}

/** What an expression compares by its value, so that an index could find it. */
function comparedIn(expression: Expression): readonly Expression[] {
  switch (expression.kind) {
    case 'binary':
      return ['=', '<', '<=', '>', '>='].includes(expression.operator) ? [expression.left, expression.right] : [];
    case 'in':
    case 'between':
    case 'like':
      return expression.negated ? [] : [expression.operand];
    default:
      return [];
  }
}

import type { Dialect } from '../dialects/index.js';
import type { AnyPivotRelation, Expression } from '../model/index.js';
import { column, type SqlExpression, type SqlOperator } from '../sql/index.js';
import type { BoundValue } from '../values/index.js';
import { refuse } from './doing.js';

const OPERATORS: Readonly<Partial<Record<string, SqlOperator>>> = {
  '=': '=',
  '<>': '<>',
  '<': '<',
  '<=': '<=',
  '>': '>',
  '>=': '>=',
  and: 'and',
  or: 'or',
};

/**
 * A condition on what pairs hold, as their table is asked it.
 *
 * @param behind so many values stand before its own
 */
export function pairCondition(
  { values }: Dialect,
  { fields }: AnyPivotRelation,
  condition: Expression,
  behind: number,
): { readonly where: SqlExpression; readonly bound: readonly BoundValue[] } {
  const bound: BoundValue[] = [];
  const of = (part: Expression): SqlExpression => {
    switch (part.kind) {
      case 'pivot field': {
        const field = fields.find(({ name }) => name === part.field);
        return field === undefined ? unknown() : column(null, field.column.value);
      }
      case 'value': {
        const { type } = part;
        if (part.value === null) return { kind: 'null' };
        if (type.kind === 'row' || type.kind === 'interval' || type.kind === 'null') return unknown();
        bound.push(values.bind(type, part.value));
        return { kind: 'placeholder', number: behind + bound.length };
      }
      case 'binary': {
        const operator = OPERATORS[part.operator];
        return operator === undefined ? unknown() : { kind: 'binary', operator, left: of(part.left), right: of(part.right) };
      }
      case 'not':
        return { kind: 'not', operand: of(part.operand) };
      case 'is null':
        return { kind: 'is null', operand: of(part.operand), negated: part.negated };
      case 'in':
        return { kind: 'in', operand: of(part.operand), items: part.items.map(of), negated: part.negated };
      case 'between':
        return { kind: 'between', operand: of(part.operand), low: of(part.low), high: of(part.high), negated: part.negated };
      default:
        return unknown();
    }
  };
  return { where: of(condition), bound };
}

function unknown(): never {
  return refuse('The condition says which pairs, by comparing what they hold with values; it can be no more than that here.');
}

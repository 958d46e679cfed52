import { type Expression, type Field, fieldOf } from '../model/index.js';
import { allOf, anyOf, equal, type SqlExpression } from '../sql/index.js';
import type { EngineValues } from '../values/index.js';
import { familyOf, keyParts, parseWire, type ValueType } from '../values/index.js';

/** How an expression's leaves become SQL; what stands between is the same everywhere. */
export interface Leaves {
  readonly values: EngineValues;
  /** Whether the SQL stays in the database, where no session's settings hold. */
  readonly constant: boolean;
  field(expression: Extract<Expression, { kind: 'field' | 'pivot field' }>): SqlExpression;
  role(expression: Extract<Expression, { kind: 'role' }>): SqlExpression;
  named(expression: Extract<Expression, { kind: 'named' }>): SqlExpression;
  quantified(expression: Extract<Expression, { kind: 'quantified' }>): SqlExpression;
  bound(expression: Extract<Expression, { kind: 'parameter' | 'clock' | 'sample row' }>): SqlExpression;
  value(expression: Extract<Expression, { kind: 'value' }>): SqlExpression;
}

/** An expression of the model as SQL of an engine (values by the engine's column of the table of values). */
export function toSql(expression: Expression, leaves: Leaves): SqlExpression {
  const sql = (inner: Expression) => toSql(inner, leaves);
  switch (expression.kind) {
    case 'value':
      return leaves.value(expression);
    case 'clock':
    case 'parameter':
    case 'sample row':
      return leaves.bound(expression);
    case 'interval':
      // An interval stands only behind + and -, where it is taken apart.
      return { kind: 'string', value: `${expression.amount} ${expression.unit}` };
    case 'field':
    case 'pivot field':
      return leaves.field(expression);
    case 'role':
      return leaves.role(expression);
    case 'named':
      return leaves.named(expression);
    case 'quantified':
      return leaves.quantified(expression);
    case 'binary':
      return binaryToSql(expression, leaves);
    case 'not':
    case 'negate':
      return { kind: expression.kind, operand: sql(expression.operand) };
    case 'is null':
      return isNull(sql(expression.operand), expression.negated);
    case 'in':
      return { kind: 'in', operand: sql(expression.operand), items: expression.items.map(sql), negated: expression.negated };
    case 'between':
      return {
        kind: 'between',
        operand: sql(expression.operand),
        low: sql(expression.low),
        high: sql(expression.high),
        negated: expression.negated,
      };
    case 'like':
      return likeToSql(expression, leaves);
    case 'function':
      return { kind: 'function', name: leaves.values.functionName(expression.name), args: expression.args.map(sql) };
    case 'case':
      return {
        kind: 'case',
        branches: expression.branches.map((branch) => ({ when: sql(branch.when), then: sql(branch.then) })),
        otherwise: expression.otherwise === null ? null : sql(expression.otherwise),
      };
  }
}

function likeToSql(expression: Extract<Expression, { kind: 'like' }>, leaves: Leaves): SqlExpression {
  const { operand, pattern, negated } = expression;
  const constant =
    leaves.constant && pattern.kind === 'value' && typeof pattern.value === 'string'
      ? leaves.values.constantLike(toSql(operand, leaves), pattern.value)
      : null;
  if (constant !== null) return negated ? { kind: 'not', operand: constant } : constant;
  return { kind: 'like', operand: toSql(operand, leaves), pattern: toSql(pattern, leaves), negated };
}

function binaryToSql(expression: Extract<Expression, { kind: 'binary' }>, leaves: Leaves): SqlExpression {
  const { operator, left, right, type } = expression;
  const { values } = leaves;
  if (operator === '+' || operator === '-' || operator === '*' || operator === '/' || operator === '%') {
    if (right.kind === 'interval' && isValueType(left.type)) {
      return values.shift(left.type, toSql(left, leaves), right.amount, right.unit, operator === '-');
    }
    if (left.type.kind === 'date' && right.type.kind === 'date')
      return values.daysBetween(toSql(left, leaves), toSql(right, leaves));
    return values.arithmetic(operator, toSql(left, leaves), toSql(right, leaves), isValueType(type) ? type : { kind: 'integer' });
  }
  const sides = { left: toSql(left, leaves), right: toSql(right, leaves) };
  if (sides.left.kind === 'tuple' || sides.right.kind === 'tuple') {
    const same = equal(sides.left, sides.right);
    if (operator === '=') return same;
    if (operator === '<>') return { kind: 'not', operand: same };
  }
  return { kind: 'binary', operator, ...sides };
}

/** A composite key with a part that is null points at nothing. */
function isNull(operand: SqlExpression, negated: boolean): SqlExpression {
  if (operand.kind !== 'tuple') return { kind: 'is null', operand, negated };
  const parts = operand.items.map((item): SqlExpression => ({ kind: 'is null', operand: item, negated }));
  return (negated ? allOf(parts) : anyOf(parts)) ?? { kind: 'null' };
}

function isValueType(type: Expression['type']): type is ValueType {
  return type.kind !== 'row' && type.kind !== 'interval' && type.kind !== 'null';
}

/** A literal in the SQL itself, as a constraint needs it. */
export function literalSql(values: EngineValues, expression: Extract<Expression, { kind: 'value' }>): SqlExpression {
  const { value, type } = expression;
  if (type.kind === 'composite') {
    const written = typeof value === 'string' ? (keyParts(value) ?? []) : [];
    const items = type.parts.map((part, index): SqlExpression => {
      const parsed = parseWire(part, written[index] ?? '');
      return literalSql(values, { ...expression, type: part, value: parsed.ok ? parsed.value : null });
    });
    return { kind: 'tuple', items };
  }
  if (value === null || !isValueType(type)) return { kind: 'null' };
  if (familyOf(type) === 'number') return { kind: 'number', text: String(value) };
  const bound = values.bind(type, value);
  return typeof bound === 'number' ? { kind: 'number', text: String(bound) } : { kind: 'string', value: String(bound) };
}

/** The leaves of a check: nothing but the row's own columns and literals. */
export function rowLeaves(values: EngineValues, fields: readonly Field[]): Leaves {
  const never = (expression: Expression): never => {
    throw new Error(`a check cannot hold ${expression.kind}`);
  };
  return {
    values,
    constant: true,
    field: (expression) => {
      const field = fieldOf(fields, expression.field);
      return values.operand(field.type, { kind: 'column', source: null, column: field.column.value });
    },
    value: (expression) => literalSql(values, expression),
    role: never,
    named: never,
    quantified: never,
    bound: never,
  };
}

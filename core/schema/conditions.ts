import { type Expression, type Field, fieldOf } from '../model/index.js';
import { allOf, anyOf, equal, type SqlExpression } from '../sql/index.js';
import { type EngineValues, keyParts, parseWire, type Typed, type ValueType } from '../values/index.js';

/** How an expression's leaves become SQL; what stands between is the same everywhere. */
export interface Leaves {
  readonly values: EngineValues;
  /** Whether the SQL stays in the database, where no session's settings hold. */
  readonly constant: boolean;
  field(expression: Extract<Expression, { kind: 'field' | 'pivot field' }>): SqlExpression;
  role(expression: Extract<Expression, { kind: 'role' }>): SqlExpression;
  /** What kind a row is, or whether it points at something. */
  kind(expression: Extract<Expression, { kind: 'is kind' | 'points at' }>): SqlExpression;
  /** Whether a role to several leads to a row. */
  sameRow(expression: Extract<Expression, { kind: 'same row' }>): SqlExpression;
  named(expression: Extract<Expression, { kind: 'named' }>): SqlExpression;
  quantified(expression: Extract<Expression, { kind: 'quantified' }>): SqlExpression;
  bound(expression: Extract<Expression, { kind: 'parameter' | 'clock' | 'sample row' }>): SqlExpression;
  value(expression: Extract<Expression, { kind: 'value' }>): SqlExpression;
}

/** An expression of the model as SQL of an engine (values by the engine's column of the table of values). */
export function toSql(expression: Expression, leaves: Leaves): SqlExpression {
  const sql = (inner: Expression) => toSql(inner, leaves);
  const typed = (inner: Expression): Typed => ({ sql: sql(inner), type: resultType(inner) });
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
    case 'is kind':
    case 'points at':
      return leaves.kind(expression);
    case 'same row':
      return leaves.sameRow(expression);
    case 'named':
      return leaves.named(expression);
    case 'quantified':
      return leaves.quantified(expression);
    case 'binary':
      return binaryToSql(expression, leaves);
    case 'not':
      return negated(sql(expression.operand));
    case 'negate':
      return leaves.values.negate(typed(expression.operand));
    case 'is null':
      return isNull(sql(expression.operand), expression.negated);
    case 'in':
      return {
        kind: 'in',
        operand: sql(expression.operand),
        items: expression.items.map((item) => comparable(item, expression.operand, leaves)),
        negated: expression.negated,
      };
    case 'between':
      return {
        kind: 'between',
        operand: sized(expression.operand, expression.low, leaves),
        low: sized(expression.low, expression.operand, leaves),
        high: sized(expression.high, expression.operand, leaves),
        negated: expression.negated,
      };
    case 'like':
      return likeToSql(expression, leaves);
    case 'function':
      return leaves.values.apply(expression.name, expression.args.map(typed), resultType(expression));
    case 'case':
      return {
        kind: 'case',
        branches: expression.branches.map((branch) => ({ when: sql(branch.when), then: sql(branch.then) })),
        otherwise: expression.otherwise === null ? null : sql(expression.otherwise),
      };
  }
}

function negated(operand: SqlExpression): SqlExpression {
  if (operand.kind === 'is true' || operand.kind === 'is null') return { ...operand, negated: !operand.negated };
  return { kind: 'not', operand };
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
    const typed = (side: Expression): Typed => ({ sql: toSql(side, leaves), type: resultType(side) });
    return values.arithmetic(operator, typed(left), typed(right), isValueType(type) ? type : { kind: 'integer' });
  }
  if (operator === '||') return { kind: 'binary', operator, left: textOf(left, leaves), right: textOf(right, leaves) };
  const side = ['<', '<=', '>', '>='].includes(operator) ? sized : comparable;
  const sides = { left: side(left, right, leaves), right: side(right, left, leaves) };
  if (sides.left.kind === 'tuple' || sides.right.kind === 'tuple') {
    const same = equal(sides.left, sides.right);
    if (operator === '=') return same;
    if (operator === '<>') return { kind: 'not', operand: same };
  }
  return { kind: 'binary', operator, ...sides };
}

/** What an expression's value is, for the engine: of a row or of nothing known it makes no difference. */
function resultType({ type }: Expression): ValueType {
  return isValueType(type) ? type : { kind: 'text', length: null };
}

/** An expression as it is compared with another: a date beside a timestamp is its first moment. */
function comparable(expression: Expression, other: Expression, leaves: Leaves): SqlExpression {
  const sql = toSql(expression, leaves);
  return expression.type.kind === 'date' && other.type.kind === 'timestamp' ? leaves.values.dateAsTimestamp(sql) : sql;
}

/** The same, where it matters which of the two is more. */
function sized(expression: Expression, other: Expression, leaves: Leaves): SqlExpression {
  return leaves.values.ordered(resultType(expression), comparable(expression, other, leaves));
}

function textOf(expression: Expression, leaves: Leaves): SqlExpression {
  const { type } = expression;
  const sql = toSql(expression, leaves);
  return isValueType(type) ? leaves.values.asText(type, sql) : sql;
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
  return value === null || !isValueType(type) ? { kind: 'null' } : values.literal(type, value);
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
    kind: never,
    sameRow: never,
    named: never,
    quantified: never,
    bound: never,
  };
}

import {
  type Binary,
  type Call,
  type Constant,
  type ExpressionOver,
  type ExpressionType,
  type Field,
  fieldOf,
  type Like,
  type PartKind,
  type RowPart,
} from '../model/index.js';
import { allOf, anyOf, equal, type SqlExpression } from '../sql/index.js';
import {
  commonNumber,
  type EngineValues,
  keyParts,
  parseWire,
  type SqlPlace,
  type Typed,
  type ValueType,
} from '../values/index.js';

/** A constant whose value is known when the statement is run. */
export type BoundConstant = Extract<Constant, { kind: 'parameter' | 'me' | 'clock' | 'sample row' }>;

/** A part of an expression that speaks of a row, whatever it says of it. */
interface AnyRowPart {
  readonly kind: PartKind;
  readonly type: ExpressionType;
  readonly span: { readonly start: number; readonly end: number };
}

/** How an expression's leaves become SQL; what stands between is the same everywhere. */
export interface Leaves<Leaf> {
  readonly values: EngineValues;
  /** Where the SQL stands: in a table no session's settings hold. */
  readonly place: SqlPlace;
  row(part: Leaf): SqlExpression;
  bound(expression: BoundConstant): SqlExpression;
  value(expression: Extract<Constant, { kind: 'value' }>): SqlExpression;
}

/** An expression of the model as SQL of an engine (values by the engine's column of the table of values). */
export function toSql<Leaf extends AnyRowPart>(expression: ExpressionOver<Leaf>, leaves: Leaves<Leaf>): SqlExpression {
  const sql = (inner: ExpressionOver<Leaf>) => toSql(inner, leaves);
  const typed = (inner: ExpressionOver<Leaf>): Typed => ({ sql: sql(inner), type: resultType(inner) });
  switch (expression.kind) {
    case 'value':
      return leaves.value(expression);
    case 'clock':
    case 'parameter':
    case 'me':
    case 'sample row':
      return leaves.bound(expression);
    case 'interval':
      // An interval stands only behind + and -, where it is taken apart.
      return { kind: 'string', value: `${expression.amount} ${expression.unit}` };
    case 'binary':
      return binaryToSql(expression, leaves);
    case 'not':
      return negated(sql(expression.operand));
    case 'negate':
      return leaves.values.negate(typed(expression.operand));
    case 'is null':
      return isNull(sql(expression.operand), expression.negated);
    case 'in': {
      const [operand = { kind: 'null' } as const, ...items] = alike([expression.operand, ...expression.items], leaves).sides;
      return { kind: 'in', operand, items, negated: expression.negated };
    }
    case 'between': {
      const { operand, low, high, negated: outside } = expression;
      const { sides, type } = alike([operand, low, high], leaves);
      const [at, from, to] = sides;
      if (at === undefined || from === undefined || to === undefined) throw new Error('between has two bounds');
      return leaves.values.between(at, { low: from, high: to, negated: outside }, type, leaves.place);
    }
    case 'like':
      return likeToSql(expression, leaves);
    case 'function':
      return functionToSql(expression, leaves);
    case 'case':
      return {
        kind: 'case',
        branches: expression.branches.map(({ when, then }) => ({ when: sql(when), then: converted(then, expression, leaves) })),
        otherwise: expression.otherwise === null ? null : converted(expression.otherwise, expression, leaves),
      };
    default:
      return leaves.row(expression);
  }
}

function negated(operand: SqlExpression): SqlExpression {
  if (operand.kind === 'is true' || operand.kind === 'is null') return { ...operand, negated: !operand.negated };
  return { kind: 'not', operand };
}

function likeToSql<Leaf extends AnyRowPart>(expression: Like<ExpressionOver<Leaf>>, leaves: Leaves<Leaf>): SqlExpression {
  const { operand, pattern, negated } = expression;
  const constant =
    leaves.place === 'table' && pattern.kind === 'value' && typeof pattern.value === 'string'
      ? leaves.values.constantLike(toSql(operand, leaves), pattern.value)
      : null;
  if (constant !== null) return negated ? { kind: 'not', operand: constant } : constant;
  return { kind: 'like', operand: toSql(operand, leaves), pattern: patternSql(pattern, leaves), negated };
}

/** A backslash that ends a pattern stands for itself: of the engines one refuses it, and one then finds nothing. */
function patternSql<Leaf extends AnyRowPart>(pattern: ExpressionOver<Leaf>, leaves: Leaves<Leaf>): SqlExpression {
  if (pattern.kind !== 'value') return leaves.values.pattern(toSql(pattern, leaves));
  const isOdd = typeof pattern.value === 'string' && (/\\*$/.exec(pattern.value)?.[0].length ?? 0) % 2 === 1;
  return leaves.value(isOdd ? { ...pattern, value: `${pattern.value}\\` } : pattern);
}

function binaryToSql<Leaf extends AnyRowPart>(expression: Binary<ExpressionOver<Leaf>>, leaves: Leaves<Leaf>): SqlExpression {
  const { operator, left, right, type } = expression;
  const { values } = leaves;
  if (operator === '+' || operator === '-' || operator === '*' || operator === '/' || operator === '%') {
    if (right.kind === 'interval' && isValueType(left.type)) {
      return values.shift(left.type, toSql(left, leaves), right.amount, right.unit, operator === '-');
    }
    if (left.type.kind === 'date' && right.type.kind === 'date')
      return values.daysBetween(toSql(left, leaves), toSql(right, leaves));
    const typed = (side: ExpressionOver<Leaf>): Typed => ({ sql: toSql(side, leaves), type: resultType(side) });
    return values.arithmetic(operator, typed(left), typed(right), isValueType(type) ? type : { kind: 'integer' }, leaves.place);
  }
  if (operator === '||') return { kind: 'binary', operator, left: textOf(left, leaves), right: textOf(right, leaves) };
  const { sides, type: common } = alike([left, right], leaves);
  const [one, other] = sides;
  if (one === undefined || other === undefined) throw new Error(`${operator} stands between two`);
  if (operator === '<' || operator === '<=' || operator === '>' || operator === '>=')
    return values.compared(operator, one, other, common, leaves.place);
  if (one.kind === 'tuple' || other.kind === 'tuple') {
    const same = equal(one, other);
    if (operator === '=') return same;
    if (operator === '<>') return { kind: 'not', operand: same };
  }
  return { kind: 'binary', operator, left: one, right: other };
}

/** What an expression's value is, for the engine: of a row or of nothing known it makes no difference. */
function resultType<Leaf extends AnyRowPart>({ type }: ExpressionOver<Leaf>): ValueType {
  return isValueType(type) ? type : { kind: 'text', length: null };
}

/** Expressions as they are compared with each other: numbers in one form, a date beside a timestamp as its first moment. */
function alike<Leaf extends AnyRowPart>(
  expressions: readonly ExpressionOver<Leaf>[],
  leaves: Leaves<Leaf>,
): { readonly sides: readonly SqlExpression[]; readonly type: ValueType } {
  const types = expressions.map(resultType);
  const known = types.filter((_, index) => expressions[index]?.type.kind !== 'null');
  const number = commonNumber(known);
  const moment = types.some(({ kind }) => kind === 'timestamp');
  const sides = expressions.map((expression): SqlExpression => {
    const sql = toSql(expression, leaves);
    if (moment && expression.type.kind === 'date') return leaves.values.dateAsTimestamp(sql);
    return number === null || expression.type.kind === 'null'
      ? sql
      : leaves.values.converted({ sql, type: resultType(expression) }, number);
  });
  return { sides, type: number ?? known[0] ?? { kind: 'text', length: null } };
}

/** An expression that gives the value of another, in the form which that one's type has. */
function converted<Leaf extends AnyRowPart>(
  expression: ExpressionOver<Leaf>,
  wanted: ExpressionOver<Leaf>,
  leaves: Leaves<Leaf>,
): SqlExpression {
  const sql = toSql(expression, leaves);
  if (expression.type.kind === 'null' || !isValueType(wanted.type)) return sql;
  return leaves.values.converted({ sql, type: resultType(expression) }, wanted.type);
}

function functionToSql<Leaf extends AnyRowPart>(expression: Call<ExpressionOver<Leaf>>, leaves: Leaves<Leaf>): SqlExpression {
  const { name, args } = expression;
  const chooses = name === 'coalesce' || name === 'least' || name === 'greatest';
  const given = args.map(
    (arg): Typed => ({ sql: chooses ? converted(arg, expression, leaves) : toSql(arg, leaves), type: resultType(arg) }),
  );
  return leaves.values.apply(name, given, resultType(expression));
}

function textOf<Leaf extends AnyRowPart>(expression: ExpressionOver<Leaf>, leaves: Leaves<Leaf>): SqlExpression {
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

function isValueType(type: ExpressionType): type is ValueType {
  return type.kind !== 'row' && type.kind !== 'interval' && type.kind !== 'null';
}

/** A literal in the SQL itself, as a constraint needs it. */
export function literalSql(values: EngineValues, expression: Extract<Constant, { kind: 'value' }>): SqlExpression {
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
export function rowLeaves(values: EngineValues, fields: readonly Field[]): Leaves<RowPart> {
  const never = ({ kind }: RowPart | Constant): never => {
    throw new Error(`a check cannot hold ${kind}`);
  };
  return {
    values,
    place: 'table',
    row: (part) => {
      if (part.kind !== 'field' && part.kind !== 'pivot field') return never(part);
      const field = fieldOf(fields, part.field);
      return values.operand(field.type, { kind: 'column', source: null, column: field.column.value }, false);
    },
    value: (expression) => literalSql(values, expression),
    bound: never,
  };
}

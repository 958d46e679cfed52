import { call, number, type SqlExpression } from '../sql/index.js';
import type { Bounds, EngineValues, Ordering } from './engine-values.js';
import type { ValueType } from './types.js';

/**
 * `substr` as the notation has it, on an engine that counts from 1: a negative start counts from the end, what would
 * lie before the text takes its part of the length, and a negative length gives nothing.
 *
 * @param lengthName the engine's function that counts characters
 * @param standard whether the engine's own `substr` already lets what lies before the text take its part (SQL:2016, 6.30)
 */
export function substring(lengthName: string, args: readonly SqlExpression[], standard: boolean): SqlExpression {
  const [text, start, length] = args;
  if (text === undefined || start === undefined) throw new Error('substr takes a text and a start');
  const fixed = wholeNumber(start);
  if (fixed !== null && fixed > 0) return call('substr', text, number(fixed), ...(length === undefined ? [] : [counted(length)]));
  if (fixed !== null && fixed < 0 && length === undefined) return call('right', text, number(-fixed));
  const fromEnd = binary('+', binary('+', call(lengthName, text), number(1)), start);
  const from = fixed !== null && fixed >= 0 ? start : either(binary('<', start, number(0)), fromEnd, start);
  if (standard) return call('substr', text, from, ...(length === undefined ? [] : [counted(length)]));
  const first = either(binary('<', from, number(1)), number(1), from);
  if (length === undefined) return call('substr', text, first);
  const lost = either(binary('<', from, number(1)), binary('-', from, number(1)), number(0));
  return call('substr', text, first, binary('+', counted(length), lost));
}

/** A length, or 0 where it is negative. */
export function counted(length: SqlExpression): SqlExpression {
  const fixed = wholeNumber(length);
  if (fixed !== null) return number(Math.max(0, fixed));
  return either(binary('<', length, number(0)), number(0), length);
}

/** `case when … then … else … end`. */
export function either(when: SqlExpression, then: SqlExpression, otherwise: SqlExpression): SqlExpression {
  return { kind: 'case', branches: [{ when, then }], otherwise };
}

/** Two expressions with an operator between them. */
export function binary(
  operator: Extract<SqlExpression, { kind: 'binary' }>['operator'],
  left: SqlExpression,
  right: SqlExpression,
): SqlExpression {
  return { kind: 'binary', operator, left, right };
}

/** A number of weeks as days: engines differ in whether they have weeks. */
export function inDays(amount: string, unit: string): readonly [string, string] {
  return unit === 'week' ? [String(Number(amount) * 7), 'day'] : [amount, unit];
}

/** Null if any of them is: engines differ in what `least` and `greatest` make of a null. */
export function nullIfAny(args: readonly SqlExpression[], otherwise: SqlExpression): SqlExpression {
  const free = args.filter(({ kind }) => kind !== 'number' && kind !== 'string');
  if (free.length === 0) return otherwise;
  const anyNull = free
    .map((operand): SqlExpression => ({ kind: 'is null', operand, negated: false }))
    .reduce((left, right) => binary('or', left, right));
  return either(anyNull, { kind: 'null' }, otherwise);
}

function wholeNumber(expression: SqlExpression): number | null {
  if (expression.kind === 'number' && /^\d+$/.test(expression.text)) return Number(expression.text);
  if (expression.kind === 'negate') {
    const inner = wholeNumber(expression.operand);
    return inner === null ? null : -inner;
  }
  return null;
}

const DAY =
  '([0-9]{4}-((0[13578]|1[02])-(0[1-9]|[12][0-9]|3[01])|(0[469]|11)-(0[1-9]|[12][0-9]|30)|02-(0[1-9]|1[0-9]|2[0-8]))|([0-9]{2}(0[48]|[2468][048]|[13579][26])|([02468][048]|[13579][26])00)-02-29)';
const CLOCK = '([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9]';

/** The pattern of a type's wire form as text, which no cast to the type fails on; null where any text does. */
export function wirePattern(type: ValueType): string | null {
  switch (type.kind) {
    case 'integer':
      return '^-?[0-9]{1,10}$';
    case 'bigint':
      return '^-?[0-9]{1,19}$';
    case 'decimal':
      return '^-?[0-9]+([.][0-9]+)?$';
    case 'real':
      return '^-?[0-9]+([.][0-9]+)?([eE][-+]?[0-9]{1,2})?$';
    case 'boolean':
      return '^(true|false)$';
    case 'date':
      return `^${DAY}$`;
    case 'time':
      return `^${CLOCK}([.][0-9]{6})?$`;
    case 'timestamp':
      return `^${DAY}T${CLOCK}[.][0-9]{6}Z$`;
    case 'uuid':
      return '^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$';
    case 'bytes':
      return '^([0-9a-f]{2})*$';
    default:
      return null;
  }
}

/** A type of which every text of another's pattern is: whole numbers of so many digits may be larger than it. */
export function widened(type: ValueType): ValueType {
  if (type.kind === 'integer') return { kind: 'bigint' };
  return type.kind === 'bigint' ? { kind: 'decimal', precision: 19, scale: 0 } : type;
}

/** The place of a name in a JSON object, as the engines' paths write it. */
export function jsonPath(name: string): string {
  return `$.${JSON.stringify(name)}`;
}

/** A pattern with one backslash more where an odd number of them ends it. */
export function endedPattern(pattern: SqlExpression): SqlExpression {
  const backslash: SqlExpression = { kind: 'string', value: '\\' };
  const atEnd = binary('-', call('length', pattern), call('length', call('rtrim', pattern, backslash)));
  return binary('||', pattern, call('substr', backslash, number(1), binary('%', atEnd, number(2))));
}

/** Comparisons as SQL has them, of values as they are ordered. */
export function comparing(ordered: EngineValues['ordered']): Pick<EngineValues, 'compared' | 'between'> {
  return {
    compared: (operator: Ordering, left: SqlExpression, right: SqlExpression, type: ValueType) =>
      binary(operator, ordered(type, left), ordered(type, right)),
    between: (operand: SqlExpression, { low, high, negated }: Bounds, type: ValueType) => ({
      kind: 'between',
      operand: ordered(type, operand),
      low: ordered(type, low),
      high: ordered(type, high),
      negated,
    }),
  };
}

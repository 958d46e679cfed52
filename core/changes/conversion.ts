import { boundsOf, type Dialect } from '../dialects/index.js';
import { importEngines } from '../import/index.js';
import type { Column } from '../schema/index.js';
import { call, number, type SqlExpression, string, withoutNumbering } from '../sql/index.js';
import { familyOf, type ValueType } from '../values/index.js';
import { enumeratedValues } from './enumerated.js';
import type { Shaping } from './shaping.js';

/** The type that a column stands for. */
export function typeOfColumn(dialect: Dialect, { type }: Pick<Column, 'type'>): ValueType {
  return importEngines[dialect.name].typeOf(type);
}

/**
 * A value of one column as one of another. One of an enumerated type that is made, or that lists other values than it did, is a
 * text until it is written (`declared`): what the type does not list is none.
 *
 * @param value the value as it stands in the column as it was
 * @returns the value as the new column has it; null where there is none that it could be
 */
export function converted(
  { dialect, enumerated }: Pick<Shaping, 'dialect' | 'enumerated'>,
  before: Column,
  after: Column,
  value: SqlExpression,
): SqlExpression {
  const [was, is] = [enumeratedValues(enumerated.before, before.type), enumeratedValues(enumerated.after, after.type)];
  const isSame = before.type.toLowerCase() === after.type.toLowerCase() && JSON.stringify(was) === JSON.stringify(is);
  if (is === null || isSame) return conversion(dialect, before, after, value);
  const text = dialect.conversions.text(value);
  if (was?.every((one) => is.includes(one)) === true) return text;
  return only({ kind: 'in', operand: text, items: is.map(string), negated: false }, text);
}

/**
 * A value of one column as one of another. What has no such form (a text of letters as a number, a number over 32 bits as an
 * integer) becomes nothing, which the plan counts and asks about; nothing is rounded or cut unasked.
 *
 * @param value the value as it stands in the column as it was
 * @returns the value as the new column has it; null where there is none that it could be
 */
function conversion(dialect: Dialect, before: Column, after: Column, value: SqlExpression): SqlExpression {
  if (before.type.toLowerCase() === after.type.toLowerCase()) return value;
  const from = typeOfColumn(dialect, before);
  const to = typeOfColumn(dialect, after);
  const { conversions } = dialect;
  const declared = withoutNumbering(after.type);
  if (from.kind === 'sql' || to.kind === 'sql') return conversions.declared(value, declared);
  if (isNumber(from) && isNumber(to)) return numberAs(dialect, from, to, value);
  if (from.kind === 'boolean' && isNumber(to)) return conversions.truthAsNumber(value, declared);
  if (isNumber(from) && to.kind === 'boolean') return only(isOneOf(value, ['0', '1']), equals(value, number(1)));
  if (from.kind === 'date' && to.kind === 'timestamp') return dialect.values.dateAsTimestamp(value);
  return byText(dialect, from, to, value);
}

function isNumber(type: ValueType): boolean {
  return familyOf(type) === 'number';
}

/** By the text of the value's wire form: what that of the new type cannot be becomes nothing. */
function byText({ values, conversions, print }: Dialect, from: ValueType, to: ValueType, value: SqlExpression): SqlExpression {
  const whole = values.asText(from, value);
  if (to.kind === 'text' || to.kind === 'choice') {
    const length = to.kind === 'text' ? to.length : null;
    const text = familyOf(from) === 'text' ? value : conversions.text(whole);
    if (length === null || (from.kind === 'text' && from.length !== null && from.length <= length)) return text;
    const isShort: SqlExpression = { kind: 'binary', operator: '<=', left: conversions.length(text), right: number(length) };
    return only(isShort, text);
  }
  // The day of a moment that is the day's first.
  const midnight = from.kind === 'timestamp' && to.kind === 'date' ? 'T00:00:00.000000Z' : null;
  const text = midnight === null ? whole : call('substr', whole, number(1), number(10));
  const read = values.fromText(to, text);
  const guard = midnight === null ? null : equals(call('substr', whole, number(11)), string(midnight));
  const [first, second] = [guard, conversions.matches(to, text, read, print)].flatMap((condition) => condition ?? []);
  if (first === undefined) return read;
  const condition: SqlExpression = second === undefined ? first : { kind: 'binary', operator: 'and', left: first, right: second };
  return only(condition, read);
}

/** A number as one of another type: what it would have to be rounded for, or is too large for, becomes nothing. */
function numberAs({ values, conversions }: Dialect, from: ValueType, to: ValueType, value: SqlExpression): SqlExpression {
  const converted = conversions.number(from, to, value);
  if (isWithin(from, to)) return values.converted({ sql: converted, type: to }, to);
  const bounds = boundsOf(to);
  if (bounds === null) return only({ kind: 'is null', operand: value, negated: true }, converted);
  const plain = conversions.comparable(from, value);
  const whole = equals(plain, conversions.rounded(to, plain));
  const inside: SqlExpression = {
    kind: 'between',
    operand: plain,
    low: number(bounds[0]),
    high: number(bounds[1]),
    negated: false,
  };
  return only({ kind: 'binary', operator: 'and', left: whole, right: inside }, converted);
}

/** Whether every value of one type of number is one of another. */
function isWithin(from: ValueType, to: ValueType): boolean {
  const digits = (type: ValueType): readonly [number, number] | null => {
    switch (type.kind) {
      case 'integer':
        return [10, 0];
      case 'bigint':
        return [19, 0];
      case 'decimal':
        return [type.precision - type.scale, type.scale];
      default:
        return null;
    }
  };
  const one = digits(from);
  const other = digits(to);
  if (one === null || other === null) return from.kind === to.kind;
  if (to.kind === 'integer') return from.kind === 'integer';
  if (to.kind === 'bigint') return from.kind !== 'decimal';
  return one[0] <= other[0] && one[1] <= other[1];
}

function equals(left: SqlExpression, right: SqlExpression): SqlExpression {
  return { kind: 'binary', operator: '=', left, right };
}

function isOneOf(operand: SqlExpression, numbers: readonly string[]): SqlExpression {
  return { kind: 'in', operand, items: numbers.map((text) => number(text)), negated: false };
}

/** A value where a condition holds, else nothing. */
function only(when: SqlExpression, then: SqlExpression): SqlExpression {
  return { kind: 'case', branches: [{ when, then }], otherwise: null };
}

import type { Dialect } from '../dialects/index.js';
import { importEngines } from '../import/index.js';
import type { Column } from '../schema/index.js';
import { call, number, type SqlExpression, string, withoutNumbering } from '../sql/index.js';
import { familyOf, isLongDecimal, type ValueType, wirePattern } from '../values/index.js';

/** How the values of a column pass into one of another type. */
export interface Conversion {
  /** The value as the new column has it; null where there is none that it could be. */
  readonly value: SqlExpression;
  /** Whether a value may be there that becomes none. */
  readonly mayFail: boolean;
}

/** The type that a column stands for. */
export function typeOfColumn(dialect: Dialect, { type }: Pick<Column, 'type'>): ValueType {
  return importEngines[dialect.name].typeOf(type);
}

/**
 * A value of one column as one of another. What has no such form (a text of letters as a number, a number over 32 bits as an
 * integer) becomes nothing, which the plan counts and asks about; nothing is rounded or cut unasked.
 *
 * @param value the value as it stands in the column as it was
 */
export function conversion(dialect: Dialect, before: Column, after: Column, value: SqlExpression): Conversion {
  if (before.type.toLowerCase() === after.type.toLowerCase()) return { value, mayFail: false };
  const from = typeOfColumn(dialect, before);
  const to = typeOfColumn(dialect, after);
  if (from.kind === 'sql' || to.kind === 'sql') return { value: asDeclared(dialect, value, after), mayFail: false };
  if (isNumber(from) && isNumber(to)) return numberAs(dialect, from, to, value);
  if (from.kind === 'boolean' && isNumber(to)) return { value: asNumber(dialect, value, after), mayFail: false };
  if (isNumber(from) && to.kind === 'boolean')
    return { value: only(isOneOf(value, ['0', '1']), equals(value, number(1))), mayFail: true };
  if (from.kind === 'date' && to.kind === 'timestamp') return { value: dialect.values.dateAsTimestamp(value), mayFail: false };
  return byText(dialect, from, to, value);
}

function isNumber(type: ValueType): boolean {
  return familyOf(type) === 'number';
}

/** By the text of the value's wire form: what that of the new type cannot be becomes nothing. */
function byText(dialect: Dialect, from: ValueType, to: ValueType, value: SqlExpression): Conversion {
  const { values } = dialect;
  const whole = values.asText(from, value);
  const isTextual = to.kind === 'text' || to.kind === 'choice';
  if (isTextual) {
    const length = to.kind === 'text' ? to.length : null;
    const text = familyOf(from) === 'text' ? value : textOf(dialect, whole);
    if (length === null || (from.kind === 'text' && from.length !== null && from.length <= length))
      return { value: text, mayFail: false };
    return { value: only(compared('<=', lengthOf(dialect, text), number(length)), text), mayFail: true };
  }
  // The day of a moment that is the day's first.
  const midnight = from.kind === 'timestamp' && to.kind === 'date' ? 'T00:00:00.000000Z' : null;
  const text = midnight === null ? whole : call('substr', whole, number(1), number(10));
  const read = values.fromText(to, text);
  const guard = midnight === null ? null : equals(call('substr', whole, number(11)), string(midnight));
  const matched = matches(dialect, to, text, read);
  const both = [guard, matched].flatMap((condition) => condition ?? []);
  const [first, second] = both;
  if (first === undefined) return { value: read, mayFail: false };
  const condition: SqlExpression = second === undefined ? first : { kind: 'binary', operator: 'and', left: first, right: second };
  return { value: only(condition, read), mayFail: true };
}

/** Whether a text is the wire form of a type; null where the engine itself says so when it reads it. */
function matches(
  { name, print, values }: Dialect,
  to: ValueType,
  text: SqlExpression,
  read: SqlExpression,
): SqlExpression | null {
  const pattern = wirePattern(to);
  switch (name) {
    case 'sqlite': {
      // It has no patterns: the value is read, and has to be of its type and to be written as it was.
      const fits = values.check(to, `(${print(read)})`, false);
      const again = isNumber(to) ? castTo(read, 'text') : values.asText(to, read);
      const same = to.kind === 'real' || to.kind === 'decimal' || to.kind === 'json' ? null : equals(again, text);
      const isNumeral: SqlExpression | null =
        to.kind === 'real' || to.kind === 'decimal' ? { kind: 'written', sql: numeral(print(text)) } : null;
      const parts = [isNumeral, same, fits === null ? null : ({ kind: 'written', sql: `(${fits.sql})` } as const)];
      return parts.reduce<SqlExpression | null>(
        (all, part) => (part === null ? all : all === null ? part : { kind: 'binary', operator: 'and', left: all, right: part }),
        null,
      );
    }
    case 'postgres':
      if (pattern === null) return null;
      return within(to, text, {
        kind: 'is null',
        operand: call('regexp_match', text, string(pattern)),
        negated: true,
      });
    case 'mariadb':
      if (pattern === null) return to.kind === 'json' ? call('json_valid', text) : null;
      return within(to, text, equals(call('regexp_instr', text, string(pattern)), number(1)));
  }
}

/** A text that SQLite reads as a number whole. */
function numeral(text: string): string {
  return `(${text} not glob '*[^0-9.eE+-]*' and ${text} glob '*[0-9]' and ${text} not glob '*[0-9]*[+-]*[+-]*')`;
}

/** Digits may be more than a type holds. */
function within(to: ValueType, text: SqlExpression, matched: SqlExpression): SqlExpression {
  const bounds = boundsOf(to);
  if (bounds === null) return matched;
  const wide = castTo(text, `decimal(65, ${to.kind === 'decimal' ? Math.min(30, to.scale + 8) : 0})`);
  const inside: SqlExpression = {
    kind: 'between',
    operand: wide,
    low: number(bounds[0]),
    high: number(bounds[1]),
    negated: false,
  };
  // A condition behind one that fails may be looked at all the same, but not within a case.
  return { kind: 'case', branches: [{ when: matched, then: inside }], otherwise: { kind: 'boolean', value: false } };
}

function boundsOf(type: ValueType): readonly [string, string] | null {
  switch (type.kind) {
    case 'integer':
      return ['-2147483648', '2147483647'];
    case 'bigint':
      return ['-9223372036854775808', '9223372036854775807'];
    case 'decimal': {
      const whole = '9'.repeat(Math.max(1, type.precision - type.scale));
      const most = type.scale === 0 ? whole : `${type.precision === type.scale ? '0' : whole}.${'9'.repeat(type.scale)}`;
      return [`-${most}`, most];
    }
    default:
      return null;
  }
}

/** A number as one of another type: what it would have to be rounded for, or is too large for, becomes nothing. */
function numberAs(dialect: Dialect, from: ValueType, to: ValueType, value: SqlExpression): Conversion {
  const { values, name } = dialect;
  if (isWithin(from, to))
    return { value: values.converted({ sql: cast(dialect, from, to, value), type: to }, to), mayFail: false };
  const scale = to.kind === 'decimal' ? to.scale : 0;
  const plain = name === 'sqlite' && isLongDecimal(from) ? castTo(value, 'real') : value;
  const rounded = scale === 0 ? call('round', plain) : call('round', exactly(dialect, plain, to), number(scale));
  const whole: SqlExpression = equals(plain, rounded);
  const bounds = boundsOf(to);
  const inside: SqlExpression | null =
    bounds === null ? null : { kind: 'between', operand: plain, low: number(bounds[0]), high: number(bounds[1]), negated: false };
  const condition: SqlExpression =
    to.kind === 'real' || inside === null
      ? { kind: 'is null', operand: value, negated: true }
      : { kind: 'binary', operator: 'and', left: whole, right: inside };
  return { value: only(condition, cast(dialect, from, to, value)), mayFail: true };
}

/** PostgreSQL rounds a double to places only as a numeric. */
function exactly({ name }: Dialect, value: SqlExpression, to: ValueType): SqlExpression {
  return name === 'postgres' && to.kind === 'decimal' ? castTo(value, 'numeric') : value;
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

function cast(dialect: Dialect, from: ValueType, to: ValueType, value: SqlExpression): SqlExpression {
  switch (dialect.name) {
    case 'sqlite':
      if (to.kind === 'integer' || to.kind === 'bigint') return castTo(value, 'integer');
      if (to.kind === 'real') return castTo(value, 'real');
      return dialect.values.converted({ sql: value, type: from }, to);
    case 'postgres':
      return castTo(value, { integer: 'integer', bigint: 'bigint', real: 'double precision' }[to.kind as string] ?? numeric(to));
    case 'mariadb':
      return castTo(value, { integer: 'signed', bigint: 'signed', real: 'double' }[to.kind as string] ?? numeric(to));
  }
}

function numeric(type: ValueType): string {
  return type.kind === 'decimal' ? `decimal(${type.precision}, ${type.scale})` : 'decimal';
}

function asNumber(dialect: Dialect, value: SqlExpression, after: Column): SqlExpression {
  return dialect.name === 'postgres' ? castTo(castTo(value, 'integer'), withoutNumbering(after.type)) : value;
}

/** PostgreSQL casts to any type by its name; the others read what is put into a column by themselves. */
function asDeclared({ name }: Dialect, value: SqlExpression, after: Column): SqlExpression {
  return name === 'postgres' ? castTo(castTo(value, 'text'), withoutNumbering(after.type)) : value;
}

function textOf({ name }: Dialect, value: SqlExpression): SqlExpression {
  return name === 'mariadb' ? value : castTo(value, 'text');
}

function lengthOf({ name }: Dialect, text: SqlExpression): SqlExpression {
  return call(name === 'mariadb' ? 'char_length' : 'length', text);
}

function castTo(operand: SqlExpression, type: string): SqlExpression {
  return { kind: 'cast', operand, type };
}

function compared(operator: '<=', left: SqlExpression, right: SqlExpression): SqlExpression {
  return { kind: 'binary', operator, left, right };
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

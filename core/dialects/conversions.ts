import { call, number, type SqlExpression, string } from '../sql/index.js';
import { type EngineValues, familyOf, isLongDecimal, type ValueType, wirePattern } from '../values/index.js';
import { isJsonText } from './json-text.js';

/** How values of one type are made into those of another. */
export interface Conversions {
  /**
   * Whether a text is the wire form of a type; null where that is told when it is read.
   *
   * @param read the value that the text is read as
   * @param print the dialect's own
   */
  matches(
    to: ValueType,
    text: SqlExpression,
    read: SqlExpression,
    print: (expression: SqlExpression) => string,
  ): SqlExpression | null;
  /** A number as one of another type; it fits it. */
  number(from: ValueType, to: ValueType, value: SqlExpression): SqlExpression;
  /** A number as it is compared with others. */
  comparable(from: ValueType, value: SqlExpression): SqlExpression;
  /** A number with so many places as a type has. */
  rounded(to: ValueType, value: SqlExpression): SqlExpression;
  /** A truth value as a number of a declared type. */
  truthAsNumber(value: SqlExpression, declared: string): SqlExpression;
  /** A value as one of a declared type that the notation has no word for. */
  declared(value: SqlExpression, declared: string): SqlExpression;
  /** A value's text, where it is not one by itself. */
  text(value: SqlExpression): SqlExpression;
  /** A value as it can stand in a case beside one that comes from another column. */
  beside(value: SqlExpression, type: ValueType): SqlExpression;
  /** How many characters a text has. */
  length(text: SqlExpression): SqlExpression;
}

const cast = (operand: SqlExpression, type: string): SqlExpression => ({ kind: 'cast', operand, type });
const equals = (left: SqlExpression, right: SqlExpression): SqlExpression => ({ kind: 'binary', operator: '=', left, right });
const placesOf = (type: ValueType): number => (type.kind === 'decimal' ? type.scale : 0);
const asNumeric = (type: ValueType): string =>
  type.kind === 'decimal' ? `decimal(${type.precision}, ${type.scale})` : 'decimal';

/** The least and the most that a type of number holds; null where that is no whole number of digits. */
export function boundsOf(type: ValueType): readonly [string, string] | null {
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

/** Digits may be more than a type holds. A condition behind one that fails may be looked at all the same, but not within a case. */
function within(to: ValueType, text: SqlExpression, matched: SqlExpression): SqlExpression {
  const bounds = boundsOf(to);
  if (bounds === null) return matched;
  const operand = cast(text, `decimal(65, ${to.kind === 'decimal' ? Math.min(30, to.scale + 8) : 0})`);
  const inside: SqlExpression = { kind: 'between', operand, low: number(bounds[0]), high: number(bounds[1]), negated: false };
  return { kind: 'case', branches: [{ when: matched, then: inside }], otherwise: { kind: 'boolean', value: false } };
}

/** SQLite has no patterns: a text is read, and has to be of its type and to be written as it was. */
export function sqliteConversions(values: EngineValues): Conversions {
  return {
    matches(to, text, read, print) {
      const fits = values.check(to, `(${print(read)})`, false);
      const isNumber = familyOf(to) === 'number';
      const again = isNumber ? cast(read, 'text') : values.asText(to, read);
      const isExact = to.kind === 'real' || to.kind === 'decimal';
      const written = print(text);
      const numeral = `(${written} not glob '*[^0-9.eE+-]*' and ${written} glob '*[0-9]' and ${written} not glob '*[0-9]*[+-]*[+-]*')`;
      const parts: readonly (SqlExpression | null)[] = [
        isExact ? { kind: 'written', sql: numeral } : null,
        isExact || to.kind === 'json' ? null : equals(again, text),
        fits === null ? null : { kind: 'written', sql: `(${fits.sql})` },
      ];
      return parts.reduce<SqlExpression | null>(
        (all, part) => (part === null ? all : all === null ? part : { kind: 'binary', operator: 'and', left: all, right: part }),
        null,
      );
    },
    number(from, to, value) {
      if (to.kind === 'integer' || to.kind === 'bigint') return cast(value, 'integer');
      return to.kind === 'real' ? cast(value, 'real') : values.converted({ sql: value, type: from }, to);
    },
    comparable: (from, value) => (isLongDecimal(from) ? cast(value, 'real') : value),
    rounded: (to, value) => call('round', value, number(placesOf(to))),
    truthAsNumber: (value) => value,
    declared: (value) => value,
    text: (value) => cast(value, 'text'),
    beside: (value) => value,
    length: (text) => call('length', text),
  };
}

export const postgresConversions: Conversions = {
  matches(to, text) {
    if (to.kind === 'json') return isJsonText(text);
    const pattern = wirePattern(to);
    if (pattern === null) return null;
    return within(to, text, { kind: 'is null', operand: call('regexp_match', text, string(pattern)), negated: true });
  },
  number: (_from, to, value) =>
    cast(value, { integer: 'integer', bigint: 'bigint', real: 'double precision' }[to.kind as string] ?? asNumeric(to)),
  comparable: (_from, value) => value,
  // A double is rounded to places only as a numeric (PostgreSQL, “Mathematical Functions”).
  rounded: (to, value) =>
    placesOf(to) === 0 ? call('round', value) : call('round', cast(value, 'numeric'), number(placesOf(to))),
  truthAsNumber: (value, declared) => cast(cast(value, 'integer'), declared),
  declared: (value, declared) => cast(cast(value, 'text'), declared),
  text: (value) => cast(value, 'text'),
  beside: (value) => value,
  length: (text) => call('length', text),
};

export const mariadbConversions: Conversions = {
  matches(to, text) {
    const pattern = wirePattern(to);
    if (pattern === null) return to.kind === 'json' ? call('json_valid', text) : null;
    return within(to, text, equals(call('regexp_instr', text, string(pattern)), number(1)));
  },
  number: (_from, to, value) =>
    cast(value, { integer: 'signed', bigint: 'signed', real: 'double' }[to.kind as string] ?? asNumeric(to)),
  comparable: (_from, value) => value,
  rounded: (to, value) => call('round', value, number(placesOf(to))),
  truthAsNumber: (value) => value,
  declared: (value) => value,
  text: (value) => value,
  // Columns of texts may have two collations, as one of JSON has its own, and a case takes no two unless one is said (MariaDB, “Coercibility”).
  beside: (value, type) =>
    familyOf(type) === 'text' || type.kind === 'json'
      ? { kind: 'collate', operand: { kind: 'convert', operand: value, charset: 'utf8mb4' }, collation: 'utf8mb4_bin' }
      : value,
  length: (text) => call('char_length', text),
};

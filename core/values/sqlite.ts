import { call, number, type SqlExpression, string } from '../sql/index.js';
import { keyListText } from './composite.js';
import { decimals } from './decimals.js';
import type { BoundValue, EngineValues, Typed } from './engine-values.js';
import { binary, counted, either, endedPattern, jsonPath } from './pieces.js';
import { bytesOf, hexOf, parsedJson } from './reading.js';
import { aggregateType, isLongDecimal, scaled } from './results.js';
import { familyOf, type ValueType } from './types.js';
import { joined, single } from './value-condition.js';
import { isDate, type Wire } from './wire.js';

const DIGIT = '[0-9]';
const DATE_GLOB = [4, 2, 2].map((digits) => DIGIT.repeat(digits)).join('-');
const TIME_GLOB = `[0-2]${DIGIT}:[0-5]${DIGIT}:[0-5]${DIGIT}`;
const CLOCK = '(?:[01]\\d|2[0-3]):[0-5]\\d:[0-5]\\d';
const TIME_FORM = new RegExp(`^${CLOCK}(?:\\.(?!000000)\\d{6})?$`);
const TIMESTAMP_FORM = new RegExp(`^(\\d{4}-\\d{2}-\\d{2})T${CLOCK}\\.\\d{6}Z$`);
const UUID_FORM = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;
const HEX = '[0-9a-f]';
const UUID_GLOB = [8, 4, 4, 4, 12].map((digits) => HEX.repeat(digits)).join('-');

/**
 * SQLite's column of the table of values. SQLite converts by affinity and keeps what does not convert
 * (https://www.sqlite.org/datatype3.html), so each type has a check that keeps anything else out.
 */
export const sqliteValues: EngineValues = {
  columnType(type) {
    switch (type.kind) {
      case 'decimal':
        return `${isLongDecimal(type) ? 'DECIMAL_TEXT' : 'DECIMAL'}(${type.precision},${type.scale})`;
      case 'text':
        return type.length === null ? 'TEXT' : `VARCHAR(${type.length})`;
      case 'choice':
        return `VARCHAR(${type.length})`;
      case 'bytes':
        return 'BLOB';
      case 'sql':
        return type.declaration;
      case 'composite':
        throw new Error('a key of several columns has no column of its own');
      default:
        return type.kind.toUpperCase();
    }
  },

  keyedType: (type) => sqliteValues.columnType(type),

  keyType: (type) => (type.kind === 'bigint' ? 'INTEGER' : sqliteValues.columnType(type)),

  check(type, column, key) {
    switch (type.kind) {
      case 'integer':
        if (key) return joined(`${column} between -2147483648 and 2147483647`);
        return joined(`typeof(${column}) = 'integer' and ${column} between -2147483648 and 2147483647`);
      case 'bigint':
        return key ? null : single(`typeof(${column}) = 'integer'`);
      case 'real':
        return joined(`typeof(${column}) = 'real' and abs(${column}) <= 1.7976931348623157e308`);
      case 'decimal': {
        if (isLongDecimal(type)) return joined(longDecimalForm(column, type.precision, type.scale));
        const whole = type.precision - type.scale;
        return joined(
          `typeof(${column}) in ('integer', 'real') and abs(${column}) < 1e${whole} and ${column} = round(${column}, ${type.scale})`,
        );
      }
      case 'boolean':
        return single(`${column} in (0, 1)`);
      case 'text': {
        const text = `typeof(${column}) = 'text' and instr(${column}, char(0)) = 0`;
        return joined(type.length === null ? text : `${text} and length(${column}) <= ${type.length}`);
      }
      case 'choice':
        return single(`${column} in (${type.values.map((value) => `'${value.replaceAll("'", "''")}'`).join(', ')})`);
      case 'date':
        return joined(`${column} is date(${column}) and ${column} >= '0001-'`);
      case 'time':
        return joined(
          `typeof(${column}) = 'text' and (${column} glob '${TIME_GLOB}' or ${column} glob '${TIME_GLOB}.${DIGIT.repeat(6)}' and ${column} not glob '*.000000') and ${column} < '24:'`,
        );
      case 'timestamp':
        return joined(
          `${column} glob '${DATE_GLOB}T${TIME_GLOB}.${DIGIT.repeat(6)}Z' and substr(${column}, 1, 10) is date(substr(${column}, 1, 10)) and substr(${column}, 12) < '24' and ${column} >= '0001-'`,
        );
      case 'uuid':
        return joined(`typeof(${column}) = 'text' and ${column} glob '${UUID_GLOB}'`);
      case 'json':
        return joined(`typeof(${column}) <> 'blob' and json_valid(${column})`);
      case 'bytes':
        return single(`typeof(${column}) = 'blob'`);
      case 'composite':
      case 'sql':
        return null;
    }
  },

  morePlacesThanDigits: false,
  fits(type, column, declared) {
    if (!declared || type.kind !== 'decimal' || !isLongDecimal(type)) return sqliteValues.check(type, column, false)?.sql ?? null;
    const isExact = `coalesce(decimal_cmp(${column}, decimal_scale(${column}, ${type.scale})) = 0, 0)`;
    return `${isExact} and abs(${column}) < 1e${type.precision - type.scale}`;
  },

  collation: null,

  bind(type, value) {
    if (value === null || (typeof value === 'object' && 'asStored' in value)) return null;
    switch (type.kind) {
      case 'bigint':
        return typeof value === 'string' ? smallestInteger(value) : (value as number);
      case 'decimal':
        return isLongDecimal(type) ? scaled(String(value), type.scale) : Number(value);
      case 'boolean':
        return value === true ? 1 : 0;
      case 'json':
        return JSON.stringify(value);
      case 'bytes':
        return typeof value === 'string' ? bytesOf(value) : null;
      default:
        return typeof value === 'number' || typeof value === 'string' ? value : String(value);
    }
  },

  bindKeys: (type, keys) => keyListText(type, keys),

  parameterType: () => null,

  listType: () => '',

  literal: (type, value) =>
    value !== null && familyOf(type) === 'number' && !isLongDecimal(type)
      ? number(String(value))
      : literalOf(sqliteValues.bind(type, value)),

  // A type of another name keeps numbers, or whatever text.
  operand: (type, column, declared) =>
    type.kind === 'decimal' && isLongDecimal(type) && declared ? call('decimal_scale', column, number(type.scale)) : column,

  converted({ sql, type }, wanted) {
    if (wanted.kind === 'real' && isLongDecimal(type)) return { kind: 'cast', operand: sql, type: 'real' };
    return wanted.kind === 'decimal' && isLongDecimal(wanted) ? asLongDecimal(sql, type, wanted.scale) : sql;
  },

  ordered: (type, value) => (isLongDecimal(type) ? call('decimal_order', value) : value),

  compared(operator, left, right, type, place) {
    if (!isLongDecimal(type)) return binary(operator, left, right);
    if (place === 'query') return binary(operator, call('decimal_cmp', left, right), number(0));
    return binary(operator, orderOfTexts(left, right), number(0));
  },

  between(operand, { low, high, negated }, type, place) {
    if (!isLongDecimal(type)) return { kind: 'between', operand, low, high, negated };
    const lower = sqliteValues.compared('>=', operand, low, type, place);
    const inside = binary('and', lower, sqliteValues.compared('<=', operand, high, type, place));
    return negated ? { kind: 'not', operand: inside } : inside;
  },

  json: { toJson, guardedJson },

  elements: {
    value: (type, column, madeHere) => (madeHere ? toJson(type, column) : guardedJson(type, column)),
    json: (column) => call('json', column),
  },

  decode(type) {
    switch (type.kind) {
      case 'integer':
      case 'real':
        return (value) => (value === null || Number.isFinite(value) ? (value as number | null) : unfit(value));
      case 'decimal':
        if (isLongDecimal(type)) return (value) => (value === null ? null : (decimalAt(value, type.scale) ?? unfit(value)));
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'bigint':
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'boolean':
        return (value) => (value === null ? null : value === 1 ? true : value === 0 ? false : unfit(value));
      case 'text':
      case 'choice':
      case 'bytes':
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'date':
        return (value) => (value === null || (typeof value === 'string' && isDay(value)) ? value : unfit(value));
      case 'time':
        return (value) => (value === null || (typeof value === 'string' && TIME_FORM.test(value)) ? value : unfit(value));
      case 'timestamp':
        return (value) => (value === null || (typeof value === 'string' && isMoment(value)) ? value : unfit(value));
      case 'uuid':
        return (value) => (value === null || (typeof value === 'string' && UUID_FORM.test(value)) ? value : unfit(value));
      case 'json':
        return (value) =>
          value === null
            ? null
            : typeof value === 'string'
              ? parsedJson(value)
              : typeof value === 'number'
                ? value
                : unfit(value);
      case 'composite':
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'sql':
        return (value) => (value === null || typeof value === 'string' || typeof value === 'number' ? value : unfit(value));
    }
  },

  asText(type, value) {
    switch (type.kind) {
      case 'decimal':
        return isLongDecimal(type) ? value : withPlaces(value, type.scale);
      case 'real':
        return call('real_text', value);
      case 'boolean':
        return { kind: 'case', branches: [{ when: value, then: string('true') }, falseWhenNot(value)], otherwise: null };
      case 'bytes':
        return call('lower', call('hex', value));
      default:
        return value;
    }
  },

  // A number would be compared with a column of texts as a number, and past its index.
  toText: (type, value) =>
    familyOf(type) === 'number'
      ? { kind: 'cast', operand: sqliteValues.asText(type, value), type: 'text' }
      : sqliteValues.asText(type, value),

  fromText(type, text) {
    switch (type.kind) {
      case 'integer':
      case 'bigint':
        return { kind: 'cast', operand: text, type: 'integer' };
      case 'real':
        return { kind: 'cast', operand: text, type: 'real' };
      case 'decimal':
        return isLongDecimal(type) ? text : { kind: 'cast', operand: text, type: 'numeric' };
      case 'bytes':
        return call('unhex', text);
      default:
        return text;
    }
  },

  soughtKey: (type, text) => sqliteValues.fromText(type, text),

  fromJson(type, json, name, sure) {
    const value = call('json_extract', json, string(jsonPath(name)));
    if (type.kind === 'json') return call('nullif', call('json_quote', value), string('null'));
    const read = type.kind === 'integer' ? value : sqliteValues.fromText(type, value);
    if (sure) return read;
    return {
      kind: 'case',
      branches: [{ when: isOfType(type, value, call('json_type', json, string(jsonPath(name)))), then: read }],
      otherwise: null,
    };
  },

  jsonText: (json, name) => binary('->', json, string(jsonPath(name))),

  jsonIs(sort, json, name) {
    const type = call('json_type', json, string(jsonPath(name)));
    const words = { number: ['integer', 'real'], text: ['text'], truth: ['true', 'false'] }[sort];
    return { kind: 'in', operand: call('nullif', type, string('null')), items: words.map(string), negated: false };
  },

  isJson: (json) => binary('and', binary('<>', call('typeof', json), string('blob')), call('json_valid', json)),

  absent: () => ({ kind: 'null' }),

  dateAsTimestamp: (date) => ({ kind: 'binary', operator: '||', left: date, right: string('T00:00:00.000000Z') }),

  arithmetic(operator, one, other, result, place) {
    const whole = result.kind === 'integer' || result.kind === 'bigint';
    const [left, right] = [one, other].map((side) =>
      isLongDecimal(side.type) && (place === 'table' || !isLongDecimal(result) || operator === '/') ? asReal(side.sql) : side.sql,
    ) as [SqlExpression, SqlExpression];
    if (operator === '/') {
      if (whole) return { kind: 'binary', operator, left, right };
      return { kind: 'binary', operator, left: asReal(left), right };
    }
    if (result.kind === 'decimal' && isLongDecimal(result)) {
      if (place === 'query') return exactly(operator, one, other, result.scale);
      // A table can do no better: a finding says so.
      return withPlaces(binary(operator, left, right), result.scale);
    }
    // The % of SQLite cuts its operands to whole numbers first.
    if (operator === '%' && !whole) {
      const rest = call('mod', left, right);
      return result.kind === 'decimal' ? call('round', rest, number(result.scale)) : rest;
    }
    const plain: SqlExpression = { kind: 'binary', operator, left, right };
    // Beyond 64 bits SQLite goes on with a double, and says nothing.
    const mayOverflow = result.kind === 'bigint' || [left, right].some(({ kind }) => kind === 'binary' || kind === 'function');
    if (whole && operator !== '%' && mayOverflow && place === 'query') return call('whole_number', plain);
    // Doubles carry the digits; rounding after each step keeps 0.10 + 0.20 = 0.30 true.
    return result.kind === 'decimal' ? call('round', plain, number(result.scale)) : plain;
  },

  negate({ sql, type }) {
    if (!isLongDecimal(type)) return { kind: 'negate', operand: sql };
    const isZero: SqlExpression = { kind: 'not', operand: call('glob', string('*[1-9]*'), sql) };
    const isNegative = call('glob', string('-*'), sql);
    return {
      kind: 'case',
      branches: [
        { when: isZero, then: sql },
        { when: isNegative, then: call('substr', sql, number(2)) },
      ],
      otherwise: binary('||', string('-'), sql),
    };
  },

  shift(type, value, amount, unit, subtract) {
    const [count, word] = unit === 'week' ? [`(${amount} * 7)`, 'day'] : [amount, unit];
    const written = /^\d+$/.test(amount) && unit === 'week' ? String(Number(amount) * 7) : count;
    const modifiers = [string(`${subtract ? '-' : '+'}${written} ${word}${written === '1' ? '' : 's'}`)];
    // Without it 31 January and a month would be 3 March.
    if (word === 'month' || word === 'year') modifiers.push(string('floor'));
    if (type.kind === 'date') return call('date', value, ...modifiers);
    if (type.kind === 'time')
      return { kind: 'binary', operator: '||', left: call('time', value, ...modifiers), right: call('substr', value, number(9)) };
    const moved = call('strftime', string('%Y-%m-%dT%H:%M:%S'), value, ...modifiers);
    return { kind: 'binary', operator: '||', left: moved, right: call('substr', value, number(20)) };
  },

  daysBetween(left, right) {
    const days: SqlExpression = { kind: 'binary', operator: '-', left: call('julianday', left), right: call('julianday', right) };
    return { kind: 'cast', operand: call('round', days), type: 'integer' };
  },

  // https://www.sqlite.org/lang_expr.html#like: LIKE folds case unless a pragma says otherwise, GLOB never does.
  constantLike(operand, pattern) {
    const glob = pattern.replace(/\\([\s\S]?)|[%_*?[]/g, (part, escaped?: string) => {
      if (part === '%') return '*';
      if (part === '_') return '?';
      const letter = escaped === undefined ? part : escaped || '\\';
      return /[*?[]/.test(letter) ? `[${letter}]` : letter;
    });
    return call('glob', string(glob), operand);
  },

  pattern: endedPattern,

  apply(name, args, result) {
    const given = args.map(({ sql }) => sql);
    const long = result.kind === 'decimal' && isLongDecimal(result) ? longDecimalCall(name, given, result.scale) : null;
    if (long !== null) return long;
    switch (name) {
      case 'least':
        return call('min', ...given);
      case 'greatest':
        return call('max', ...given);
      case 'round':
        // SQLite's round makes a real of a whole number.
        if (result.kind === 'integer' || result.kind === 'bigint')
          return { kind: 'cast', operand: call('round', ...given), type: 'integer' };
        return roundedReal(given[0] ?? number(0), given.slice(1));
      case 'substr':
        // A negative length would give what stands before the start.
        return call('substr', ...given.slice(0, 2), ...given.slice(2).map(counted));
      default:
        return call(name, ...given);
    }
  },

  aggregate(name, { sql, type }) {
    if (type.kind !== 'decimal') return call(name, sql);
    if (name === 'avg') return call('avg', isLongDecimal(type) ? asReal(sql) : sql);
    const total = aggregateType(name, type) ?? type;
    if (isLongDecimal(total)) return call(`decimal_${name}`, asLongDecimal(sql, type, type.scale));
    return name === 'sum' ? call('round', call(name, sql), number(type.scale)) : call(name, sql);
  },

  defaultOf(type, value) {
    switch (value.kind) {
      case 'sql':
        return value.sql;
      case 'today':
        return type.kind === 'timestamp' ? "(strftime('%Y-%m-%dT00:00:00.000000Z', 'now'))" : "(date('now'))";
      case 'now':
        if (type.kind === 'date') return "(date('now'))";
        if (type.kind === 'time') return "(time('now'))";
        return "(strftime('%Y-%m-%dT%H:%M:%f000Z', 'now'))";
      case 'value': {
        const bound = sqliteValues.bind(type, value.value);
        if (bound === null) return 'null';
        if (bound instanceof Uint8Array) return `x'${hexOf(bound)}'`;
        return typeof bound === 'string' ? `'${bound.replaceAll("'", "''")}'` : String(bound);
      }
    }
  },
};

/** A long decimal as it is delivered, also where a column of another declaration keeps it as a number; null for any other value. */
function decimalAt(value: unknown, scale: number): string | null {
  if (typeof value !== 'string' && typeof value !== 'number') return null;
  const delivered = decimals.scaled(String(value), scale);
  return delivered !== null && decimals.compare(delivered, String(value)) === 0 ? delivered : null;
}

function isDay(text: string): boolean {
  return isDate(text) && !text.startsWith('0000');
}

function isMoment(text: string): boolean {
  return isDay(TIMESTAMP_FORM.exec(text)?.[1] ?? '');
}

/** Whether a value out of JSON is of the sort that a type has there. */
function isOfType(type: ValueType, value: SqlExpression, sort: SqlExpression): SqlExpression {
  const sortIn = (...sorts: readonly string[]): SqlExpression => ({
    kind: 'in',
    operand: sort,
    items: sorts.map(string),
    negated: false,
  });
  switch (type.kind) {
    case 'integer':
      return sortIn('integer');
    case 'real':
      return sortIn('integer', 'real');
    case 'boolean':
      return sortIn('true', 'false');
    case 'bigint': {
      const whole: SqlExpression = { kind: 'cast', operand: { kind: 'cast', operand: value, type: 'integer' }, type: 'text' };
      return binary('and', sortIn('text'), binary('=', whole, value));
    }
    case 'decimal': {
      const odd = call('glob', string('*[^-.0-9]*'), value);
      return binary('and', sortIn('text'), binary('and', { kind: 'not', operand: odd }, call('glob', string('*[0-9]'), value)));
    }
    default:
      return sortIn('text');
  }
}

function toJson(type: ValueType, column: SqlExpression): SqlExpression {
  switch (type.kind) {
    case 'bigint':
      return { kind: 'cast', operand: column, type: 'text' };
    case 'decimal':
      if (isLongDecimal(type)) return column;
      return whenNumber(column, call('printf', string(`%.${type.scale}f`), column));
    case 'bytes':
      return {
        kind: 'case',
        branches: [{ when: typeIs(column, 'blob'), then: call('lower', call('hex', column)) }],
        otherwise: column,
      };
    default:
      return column;
  }
}

function guardedJson(type: ValueType, column: SqlExpression): SqlExpression {
  const marked = call('json_object', string('bytes'), call('lower', call('hex', column)));
  const blob = { when: typeIs(column, 'blob'), then: type.kind === 'bytes' ? call('lower', call('hex', column)) : marked };
  const whole = { when: typeIs(column, 'integer'), then: { kind: 'cast', operand: column, type: 'text' } as const };
  switch (type.kind) {
    // What is no blob in a column of bytes is told apart from hex by standing in an object of its own.
    case 'bytes':
      return {
        kind: 'case',
        branches: [
          blob,
          { when: { kind: 'is null', operand: column, negated: true }, then: call('json_object', string('stored'), column) },
        ],
        otherwise: null,
      };
    case 'bigint':
      return {
        kind: 'case',
        branches: [whole, blob, { when: typeIs(column, 'text'), then: call('json_object', string('stored'), column) }],
        otherwise: column,
      };
    case 'decimal':
      if (isLongDecimal(type)) return { kind: 'case', branches: [blob], otherwise: column };
      return {
        kind: 'case',
        branches: [
          blob,
          { when: typeIs(column, 'text'), then: call('json_object', string('stored'), column) },
          // More digits than the type has: rounding them would tell of another value than the one that is stored.
          { when: binary('<>', column, call('round', column, number(type.scale))), then: column },
        ],
        otherwise: toJson(type, column),
      };
    default:
      return { kind: 'case', branches: [blob], otherwise: column };
  }
}

/**
 * Half away from zero by the digits that a person reads: the value is moved by a hair, so that a half which no double
 * holds, as that of 1.005, is one. Beyond those digits there is nothing to round.
 */
function roundedReal(value: SqlExpression, places: readonly SqlExpression[]): SqlExpression {
  const rounded = call('round', binary('*', value, number('1.0000000000000002')), ...places);
  return either(binary('<', call('abs', value), number('1e15')), rounded, value);
}

/** A number with so many digits behind the point: of no number, none, where `printf` would write a zero. */
function withPlaces(value: SqlExpression, scale: number): SqlExpression {
  const written = call('printf', string(`%.${scale}f`), value);
  if (value.kind === 'number') return written;
  return {
    kind: 'case',
    branches: [{ when: { kind: 'is null', operand: value, negated: true }, then: written }],
    otherwise: null,
  };
}

function asReal(operand: SqlExpression): SqlExpression {
  return { kind: 'cast', operand, type: 'real' };
}

/** A number as the text that a long decimal is: so many digits behind the point, always. */
function asLongDecimal(sql: SqlExpression, type: ValueType, scale: number): SqlExpression {
  if (sql.kind === 'number') return string(scaled(sql.text, scale));
  const given = type.kind === 'decimal' ? type.scale : 0;
  if (isLongDecimal(type) && given === scale) return sql;
  if (isLongDecimal(type) || given > scale) return call('decimal_scale', sql, number(scale));
  const text: SqlExpression = type.kind === 'decimal' ? withPlaces(sql, given) : { kind: 'cast', operand: sql, type: 'text' };
  if (given === scale) return text;
  return binary('||', text, string(`${given === 0 ? '.' : ''}${'0'.repeat(scale - given)}`));
}

/**
 * What is computed exactly, by functions that the program brings along. Those of the engine's own shell bear the same
 * names (https://www.sqlite.org/floatingpoint.html#the_decimal_c_extension).
 */
function exactly(operator: '+' | '-' | '*' | '%', left: Typed, right: Typed, scale: number): SqlExpression {
  const name = { '+': 'decimal_add', '-': 'decimal_sub', '*': 'decimal_mul', '%': 'decimal_mod' }[operator];
  const scales = [left, right].map(({ type }) => (type.kind === 'decimal' ? type.scale : 0));
  const [one = 0, other = 0] = scales;
  const natural = operator === '*' ? one + other : Math.max(one, other);
  const result = call(name, asLongDecimal(left.sql, left.type, one), asLongDecimal(right.sql, right.type, other));
  return natural === scale ? result : call('decimal_scale', result, number(scale));
}

function longDecimalCall(name: string, given: readonly SqlExpression[], scale: number): SqlExpression | null {
  switch (name) {
    case 'abs':
      return call('ltrim', ...given, string('-'));
    case 'round':
      return call('decimal_round', ...given.slice(0, 1), given[1] ?? number(0), number(scale));
    case 'least':
    case 'greatest':
      return call(`decimal_${name}`, ...given);
    default:
      return null;
  }
}

/** Less than 0, 0, or more, as one text of a long decimal is less than another of the same scale: in what any SQLite has. */
function orderOfTexts(left: SqlExpression, right: SqlExpression): SqlExpression {
  const negative = (value: SqlExpression) => binary('<', value, string('0'));
  const sized = (value: SqlExpression): SqlExpression => ({ kind: 'tuple', items: [call('length', value), value] });
  const more = (one: SqlExpression, other: SqlExpression) => binary('>', sized(one), sized(other));
  const difference = (one: SqlExpression, other: SqlExpression) => binary('-', more(one, other), more(other, one));
  return {
    kind: 'case',
    branches: [
      { when: binary('<>', negative(left), negative(right)), then: binary('-', negative(right), negative(left)) },
      { when: negative(left), then: difference(right, left) },
    ],
    otherwise: difference(left, right),
  };
}

/** The one text of each decimal: no needless zero, no sign before a zero, so many digits behind the point. */
function longDecimalForm(column: string, precision: number, scale: number): string {
  const whole = Math.max(1, precision - scale);
  const longest = whole + (scale > 0 ? scale + 1 : 0);
  const point = scale > 0 ? `.${'[0-9]'.repeat(scale)}` : '';
  return [
    `typeof(${column}) = 'text'`,
    `${column} glob '*[0-9]${point}'`,
    `${column} not glob '*[^-.0-9]*'`,
    `${column} not glob '?*-*'`,
    ...(scale > 0 ? [`${column} not glob '*.*.*'`] : [`${column} not glob '*.*'`]),
    `ltrim(${column}, '-') not glob '0[0-9]*'`,
    `length(ltrim(${column}, '-')) <= ${longest}`,
    ...(precision === scale ? [`ltrim(${column}, '-') glob '0*'`] : []),
    `(${column} not glob '-*' or ${column} glob '*[1-9]*')`,
  ].join(' and ');
}

function falseWhenNot(value: SqlExpression): { when: SqlExpression; then: SqlExpression } {
  return { when: { kind: 'not', operand: value }, then: string('false') };
}

function literalOf(bound: BoundValue): SqlExpression {
  if (bound === null) return { kind: 'null' };
  if (bound instanceof Uint8Array) return { kind: 'bytes', hex: hexOf(bound) };
  return typeof bound === 'string' ? string(bound) : number(String(bound));
}

function typeIs(column: SqlExpression, name: string): SqlExpression {
  return { kind: 'binary', operator: '=', left: call('typeof', column), right: string(name) };
}

function whenNumber(column: SqlExpression, then: SqlExpression): SqlExpression {
  const when: SqlExpression = {
    kind: 'in',
    operand: call('typeof', column),
    items: [string('integer'), string('real')],
    negated: false,
  };
  return { kind: 'case', branches: [{ when, then }], otherwise: column };
}

/** What does not fit: the marks of `guardedJson` come as objects, and a text that looks like one is a text. */
function unfit(value: unknown): Wire {
  if (typeof value === 'object' && value !== null) {
    if ('bytes' in value && typeof value.bytes === 'string') return { asStored: { bytes: value.bytes } };
    if ('stored' in value) return unfit(value.stored);
  }
  // JSON has no word for what is beyond all numbers.
  return { asStored: Number.isFinite(value) ? (value as number) : String(value) };
}

function smallestInteger(digits: string): number | bigint {
  const value = BigInt(digits);
  return value <= BigInt(Number.MAX_SAFE_INTEGER) && value >= BigInt(Number.MIN_SAFE_INTEGER) ? Number(value) : value;
}

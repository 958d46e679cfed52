import { call, number, type SqlExpression, string } from '../sql/index.js';
import { keyListText } from './composite.js';
import type { BoundValue, EngineValues } from './engine-values.js';
import { binary, counted, either, jsonPath } from './pieces.js';
import { bytesOf, hexOf, parsedJson } from './reading.js';
import { EXACT_DIGITS } from './results.js';
import { familyOf, type ValueType } from './types.js';
import { isDate, type Wire } from './wire.js';

const TIMESTAMP_PATTERN = '____-__-__T__:__:__.______Z';
const TIME_FORM = /^\d{2}:\d{2}:\d{2}(\.\d{6})?$/;
const TIMESTAMP_FORM = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{6}Z$/;
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
        return `${type.precision > EXACT_DIGITS ? 'DECIMAL_TEXT' : 'DECIMAL'}(${type.precision},${type.scale})`;
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
        if (key) return `${column} between -2147483648 and 2147483647`;
        return `typeof(${column}) = 'integer' and ${column} between -2147483648 and 2147483647`;
      case 'bigint':
        return key ? null : `typeof(${column}) = 'integer'`;
      case 'real':
        return `typeof(${column}) = 'real' and abs(${column}) <= 1.7976931348623157e308`;
      case 'decimal': {
        const whole = type.precision - type.scale;
        if (type.precision > EXACT_DIGITS) {
          return `typeof(${column}) = 'text' and ${column} not glob '*[^-0-9.]*' and length(replace(replace(${column}, '-', ''), '.', '')) <= ${type.precision}`;
        }
        return `typeof(${column}) in ('integer', 'real') and abs(${column}) < 1e${whole} and ${column} = round(${column}, ${type.scale})`;
      }
      case 'boolean':
        return `${column} in (0, 1)`;
      case 'text':
        return type.length === null
          ? `typeof(${column}) = 'text'`
          : `typeof(${column}) = 'text' and length(${column}) <= ${type.length}`;
      case 'choice':
        return `${column} in (${type.values.map((value) => `'${value.replaceAll("'", "''")}'`).join(', ')})`;
      case 'date':
        return `${column} is date(${column})`;
      case 'time':
        return `${column} is strftime('%H:%M:%S', ${column}) or (length(${column}) = 15 and ${column} glob '*.[0-9][0-9][0-9][0-9][0-9][0-9]' and substr(${column}, 1, 8) is strftime('%H:%M:%S', ${column}))`;
      case 'timestamp':
        return `${column} like '${TIMESTAMP_PATTERN}' and substr(${column}, 1, 19) is strftime('%Y-%m-%dT%H:%M:%S', ${column}) and substr(${column}, 21, 6) not glob '*[^0-9]*'`;
      case 'uuid':
        return `${column} glob '${UUID_GLOB}'`;
      case 'json':
        return `json_valid(${column})`;
      case 'bytes':
        return `typeof(${column}) = 'blob'`;
      case 'composite':
      case 'sql':
        return null;
    }
  },

  collation: null,

  bind(type, value) {
    if (value === null || (typeof value === 'object' && 'asStored' in value)) return null;
    switch (type.kind) {
      case 'bigint':
        return typeof value === 'string' ? smallestInteger(value) : (value as number);
      case 'decimal':
        return type.precision > EXACT_DIGITS ? String(value) : Number(value);
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
    value !== null && familyOf(type) === 'number' ? number(String(value)) : literalOf(sqliteValues.bind(type, value)),

  operand: (type, column) =>
    type.kind === 'decimal' && type.precision > EXACT_DIGITS ? { kind: 'cast', operand: column, type: 'real' } : column,

  ordered: (_type, value) => value,

  json: { toJson, guardedJson },

  decode(type) {
    switch (type.kind) {
      case 'integer':
      case 'real':
        return (value) => (value === null || typeof value === 'number' ? value : unfit(value));
      case 'bigint':
      case 'decimal':
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'boolean':
        return (value) => (value === null ? null : value === 1 ? true : value === 0 ? false : unfit(value));
      case 'text':
      case 'choice':
      case 'bytes':
        return (value) => (value === null || typeof value === 'string' ? value : unfit(value));
      case 'date':
        return (value) => (value === null || (typeof value === 'string' && isDate(value)) ? value : unfit(value));
      case 'time':
        return (value) => (value === null || (typeof value === 'string' && TIME_FORM.test(value)) ? value : unfit(value));
      case 'timestamp':
        return (value) => (value === null || (typeof value === 'string' && TIMESTAMP_FORM.test(value)) ? value : unfit(value));
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
        return type.precision > EXACT_DIGITS ? value : call('printf', string(`%.${type.scale}f`), value);
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
        return type.precision > EXACT_DIGITS ? text : { kind: 'cast', operand: text, type: 'numeric' };
      case 'bytes':
        return call('unhex', text);
      default:
        return text;
    }
  },

  fromJson(type, json, name) {
    const value = call('json_extract', json, string(jsonPath(name)));
    if (type.kind === 'json') return call('nullif', call('json_quote', value), string('null'));
    return type.kind === 'integer' ? value : sqliteValues.fromText(type, value);
  },

  absent: () => ({ kind: 'null' }),

  dateAsTimestamp: (date) => ({ kind: 'binary', operator: '||', left: date, right: string('T00:00:00.000000Z') }),

  arithmetic(operator, { sql: left }, { sql: right }, result) {
    const whole = result.kind === 'integer' || result.kind === 'bigint';
    if (operator === '/') {
      if (whole) return { kind: 'binary', operator, left, right };
      return { kind: 'binary', operator, left: { kind: 'cast', operand: left, type: 'real' }, right };
    }
    // The % of SQLite cuts its operands to whole numbers first.
    if (operator === '%' && !whole) {
      const rest = call('mod', left, right);
      return result.kind === 'decimal' ? call('round', rest, number(result.scale)) : rest;
    }
    const plain: SqlExpression = { kind: 'binary', operator, left, right };
    // Doubles carry the digits; rounding after each step keeps 0.10 + 0.20 = 0.30 true.
    return result.kind === 'decimal' ? call('round', plain, number(result.scale)) : plain;
  },

  negate: ({ sql }) => ({ kind: 'negate', operand: sql }),

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
    if (pattern.includes('\\')) return null;
    const glob = pattern
      .replace(/[*?[]/g, (special) => `[${special}]`)
      .replaceAll('%', '*')
      .replaceAll('_', '?');
    return call('glob', string(glob), operand);
  },

  apply(name, args, result) {
    const given = args.map(({ sql }) => sql);
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
    const operand = sqliteValues.operand(type, sql);
    const total = call(name, operand);
    return type.kind === 'decimal' && name === 'sum' ? call('round', total, number(type.scale)) : total;
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

function toJson(type: ValueType, column: SqlExpression): SqlExpression {
  switch (type.kind) {
    case 'bigint':
      return { kind: 'cast', operand: column, type: 'text' };
    case 'decimal':
      if (type.precision > EXACT_DIGITS) return column;
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
      if (type.precision > EXACT_DIGITS) return { kind: 'case', branches: [blob], otherwise: column };
      return {
        kind: 'case',
        branches: [blob, { when: typeIs(column, 'text'), then: call('json_object', string('stored'), column) }],
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

function unfit(value: unknown): Wire {
  if (typeof value === 'string' && value.startsWith('{')) {
    const inner: unknown = JSON.parse(value);
    return unfit(inner);
  }
  if (typeof value === 'object' && value !== null) {
    if ('bytes' in value && typeof value.bytes === 'string') return { asStored: { bytes: value.bytes } };
    if ('stored' in value) return unfit(value.stored);
  }
  return { asStored: typeof value === 'number' ? value : String(value) };
}

function smallestInteger(digits: string): number | bigint {
  const value = BigInt(digits);
  return value <= BigInt(Number.MAX_SAFE_INTEGER) && value >= BigInt(Number.MIN_SAFE_INTEGER) ? Number(value) : value;
}

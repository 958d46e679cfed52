import { call, number, type SqlExpression, string } from '../sql/index.js';
import type { EngineValues } from './engine-values.js';
import { binary, comparing, either, inDays, jsonPath, nullIfAny, substring, widened, wirePattern } from './pieces.js';
import { bytesOf, decoded, NUMBER_FORM, parsedJson, readDate, readTime, readTimestamp } from './reading.js';
import { scaled } from './results.js';
import type { ValueType } from './types.js';
import { joined, single } from './value-condition.js';
import type { Wire } from './wire.js';

/** A longer VARCHAR does not fit a row of four-byte characters (MariaDB, VARCHAR). */
const LONGEST_VARCHAR = 16_383;
/** The longest text that a key or an index of InnoDB takes whole: 3072 bytes of four-byte characters. */
export const LONGEST_KEY_TEXT = 768;
const COLLATION = 'utf8mb4_nopad_bin';

/**
 * MariaDB's column of the table of values. In strict mode its types keep other values out, but for those beyond what the
 * wire can say (zero dates, times over a day); JSON is text that is checked to be JSON (MariaDB, Data Types).
 *
 * Relies on `time_zone = '+00:00'`, a strict `sql_mode` and `utf8mb4`, which the adapter pins.
 */
export const mariadbValues: EngineValues = {
  columnType(type) {
    switch (type.kind) {
      case 'integer':
        return 'int';
      case 'real':
        return 'double';
      case 'decimal':
        return `decimal(${type.precision},${type.scale})`;
      case 'text':
        return type.length === null || type.length > LONGEST_VARCHAR ? 'longtext' : `varchar(${type.length})`;
      case 'choice':
        return `varchar(${type.length})`;
      case 'boolean':
        return 'tinyint(1)';
      case 'time':
        return 'time(6)';
      case 'timestamp':
        return 'datetime(6)';
      case 'bytes':
        return 'longblob';
      case 'sql':
        return type.declaration;
      case 'composite':
        throw new Error('a key of several columns has no column of its own');
      default:
        return type.kind;
    }
  },

  keyedType(type) {
    const tooLong = type.kind === 'text' && (type.length === null || type.length > LONGEST_KEY_TEXT);
    return tooLong ? `varchar(${LONGEST_KEY_TEXT})` : mariadbValues.columnType(type);
  },

  keyType: (type) => `${mariadbValues.columnType(type)} auto_increment`,

  check(type, column) {
    switch (type.kind) {
      case 'boolean':
        return single(`${column} in (0, 1)`);
      case 'text': {
        const text = `locate(char(0 using utf8mb4), ${column}) = 0`;
        return type.length !== null && type.length > LONGEST_VARCHAR
          ? joined(`${text} and char_length(${column}) <= ${type.length}`)
          : single(text);
      }
      case 'choice':
        return single(
          `${column} in (${type.values.map((value) => `'${value.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`).join(', ')})`,
        );
      case 'date':
        return joined(`${column} between '0001-01-01' and '9999-12-31' and month(${column}) > 0 and dayofmonth(${column}) > 0`);
      case 'time':
        return joined(`${column} between '00:00:00' and '23:59:59.999999'`);
      case 'timestamp':
        return joined(
          `${column} between '0001-01-01 00:00:00' and '9999-12-31 23:59:59.999999' and month(${column}) > 0 and dayofmonth(${column}) > 0`,
        );
      default:
        return null;
    }
  },

  morePlacesThanDigits: false,
  fits(type, column) {
    const kept = mariadbValues.check(type, column, false)?.sql ?? null;
    switch (type.kind) {
      case 'integer':
        return `${column} between -2147483648 and 2147483647`;
      case 'bigint':
        return `${column} between -9223372036854775808 and 9223372036854775807`;
      case 'decimal':
        return `abs(${column}) < 1e${type.precision - type.scale} and ${column} = round(${column}, ${type.scale})`;
      case 'text': {
        const short = type.length !== null && type.length <= LONGEST_VARCHAR;
        return short ? `${kept} and char_length(${column}) <= ${type.length}` : kept;
      }
      case 'json':
        return `json_valid(${column})`;
      default:
        return kept;
    }
  },

  collation: null,

  bind(type, value) {
    if (value === null || (typeof value === 'object' && 'asStored' in value)) return null;
    switch (type.kind) {
      case 'bigint':
        return BigInt(String(value));
      case 'boolean':
        return value === true ? 1 : 0;
      case 'json':
        return JSON.stringify(value);
      case 'bytes':
        return bytesOf(String(value));
      case 'timestamp':
        return String(value).replace('T', ' ').replace('Z', '');
      default:
        return typeof value === 'number' || typeof value === 'string' ? value : String(value);
    }
  },

  bindKeys: (type, keys) =>
    type.kind === 'composite' ? `[${keys.join(',')}]` : keys.map((key) => mariadbValues.bind(type, key)),

  parameterType(type) {
    switch (type.kind) {
      // A decimal bound as text would be compared as a double.
      case 'decimal':
        return `decimal(${Math.min(65, Math.max(type.precision, type.scale + 20))},${type.scale})`;
      case 'date':
        return 'date';
      case 'time':
        return 'time(6)';
      case 'timestamp':
        return 'datetime(6)';
      default:
        return null;
    }
  },

  listType(type) {
    switch (type.kind) {
      case 'integer':
        return 'bigint';
      case 'uuid':
        return 'varchar(36)';
      case 'text':
      case 'choice':
        return `varchar(${LONGEST_KEY_TEXT}) character set utf8mb4 collate ${COLLATION}`;
      default:
        return mariadbValues.columnType(type);
    }
  },

  literal(type, value) {
    if (value === null) return { kind: 'null' };
    switch (type.kind) {
      case 'integer':
      case 'bigint':
      case 'decimal':
        return number(String(value));
      // A number with an exponent is a double, one without is a decimal.
      case 'real':
        return number(/e/i.test(String(value)) ? String(value) : `${String(value)}e0`);
      case 'boolean':
        return { kind: 'boolean', value: value === true };
      case 'bytes':
        return { kind: 'bytes', hex: String(value) };
      case 'date':
        return { kind: 'typed literal', type: 'date', value: String(value) };
      case 'time':
        return { kind: 'typed literal', type: 'time', value: String(value) };
      case 'timestamp':
        return { kind: 'typed literal', type: 'timestamp', value: String(mariadbValues.bind(type, value)) };
      case 'json':
        return string(JSON.stringify(value));
      default:
        return string(String(value));
    }
  },

  operand: (_type, column) => column,

  converted: ({ sql }) => sql,

  ordered,

  ...comparing(ordered),

  json: null,

  elements: {
    value: (type, column) =>
      type.kind === 'bytes' ? call('lower', call('hex', column)) : { kind: 'cast', operand: column, type: 'char' },
    json: (column) => call('json_compact', column),
  },

  decode(type) {
    switch (type.kind) {
      case 'integer':
        return whole;
      case 'real':
        return real;
      case 'bigint':
        return decoded((text) => (NUMBER_FORM.test(text) ? text : null));
      case 'decimal':
        return decoded((text) => (NUMBER_FORM.test(text) ? scaled(text, type.scale) : null));
      case 'boolean':
        return decoded((text) => (text === '1' ? true : text === '0' ? false : null));
      case 'date':
        return decoded(readDate);
      case 'time':
        return decoded(readTime);
      case 'timestamp':
        return decoded(readTimestamp);
      case 'json':
        return (value) => (value === null ? null : parsedJson(String(value)));
      default:
        return textual;
    }
  },

  asText(type, value) {
    switch (type.kind) {
      case 'text':
      case 'choice':
        return value;
      case 'boolean':
        return {
          kind: 'case',
          branches: [
            { when: value, then: string('true') },
            { when: { kind: 'not', operand: value }, then: string('false') },
          ],
          otherwise: null,
        };
      case 'bytes':
        return collated(call('lower', call('hex', value)));
      case 'timestamp':
        return collated(call('date_format', value, string('%Y-%m-%dT%H:%i:%s.%fZ')));
      case 'decimal':
        if (value.kind === 'column') return castToText(value);
        return castToText({ kind: 'cast', operand: value, type: `decimal(65,${type.scale})` });
      case 'real':
        return realText(value);
      case 'time':
        return call('replace', castToText(value), string('.000000'), string(''));
      default:
        return castToText(value);
    }
  },

  toText: (type, value) => mariadbValues.asText(type, value),

  fromText(type, text) {
    switch (type.kind) {
      case 'integer':
      case 'bigint':
        return { kind: 'cast', operand: text, type: 'signed' };
      case 'boolean':
        return { kind: 'in', operand: text, items: [string('true'), string('1')], negated: false };
      case 'timestamp': {
        const plain = call('replace', call('replace', text, string('T'), string(' ')), string('Z'), string(''));
        return { kind: 'cast', operand: plain, type: 'datetime(6)' };
      }
      case 'bytes':
        return call('unhex', text);
      case 'text':
      case 'choice':
      case 'json':
      case 'sql':
        return text;
      default:
        return { kind: 'cast', operand: text, type: mariadbValues.columnType(type) };
    }
  },

  soughtKey: (type, text) => mariadbValues.fromText(type, text),

  fromJson(type, json, name, sure) {
    const path = string(jsonPath(name));
    if (type.kind === 'json') return call('nullif', call('json_extract', json, path), string('null'));
    const text = call('json_value', json, path);
    const isText = type.kind === 'text' || type.kind === 'choice' || type.kind === 'sql';
    if (isText) return collated(text);
    const pattern = sure ? null : wirePattern(type);
    if (pattern === null) return mariadbValues.fromText(type, text);
    // A boolean of JSON comes as 1 or 0, as a number does.
    const looked = type.kind === 'boolean' ? call('json_extract', json, path) : text;
    const matches = binary('=', call('regexp_instr', looked, string(pattern)), number(1));
    return either(matches, mariadbValues.fromText(widened(type), text), { kind: 'null' });
  },

  jsonText: (json, name) => call('json_extract', json, string(jsonPath(name))),

  jsonIs(sort, json, name) {
    const type = call('json_type', call('json_extract', json, string(jsonPath(name))));
    const words = { number: ['INTEGER', 'DOUBLE'], text: ['STRING'], truth: ['BOOLEAN'] }[sort];
    return { kind: 'in', operand: call('nullif', type, string('NULL')), items: words.map(string), negated: false };
  },

  isJson: (json) => call('json_valid', json),

  absent: () => ({ kind: 'null' }),

  dateAsTimestamp: (date) => ({ kind: 'cast', operand: date, type: 'datetime(6)' }),

  arithmetic(operator, { sql: left }, { sql: right }, result) {
    const whole = result.kind === 'integer' || result.kind === 'bigint';
    if (operator !== '/') return binary(operator, left, right);
    return whole ? binary('div', left, right) : binary('/', { kind: 'cast', operand: left, type: 'double' }, right);
  },

  negate: ({ sql }) => ({ kind: 'negate', operand: sql }),

  shift(type, value, amount, unit, subtract) {
    const [count, word] = inDays(amount, unit);
    // A time alone would go on past midnight.
    const start = type.kind === 'time' ? call('timestamp', string('2000-01-02'), value) : value;
    const moved = call(subtract ? 'date_sub' : 'date_add', start, { kind: 'interval', amount: count, unit: word });
    return type.kind === 'time' ? { kind: 'cast', operand: moved, type: 'time(6)' } : moved;
  },

  daysBetween: (left, right) => call('datediff', left, right),

  constantLike: () => null,

  pattern: (pattern) => pattern,

  apply(name, args) {
    const given = args.map(({ sql }) => sql);
    const [first] = args;
    switch (name) {
      case 'lower':
      case 'upper':
        return asciiCase(name, given[0] ?? string(''));
      case 'length':
        return call('char_length', ...given);
      case 'substr':
        return substring('char_length', given, false);
      case 'round':
        if (first?.type.kind !== 'real') return call('round', ...given);
        return roundedReal(first.sql, given.slice(1));
      // Where nothing is replaced there, a replacement that is null makes no null.
      case 'replace':
        return nullIfAny(given.slice(2), call(name, ...given));
      default:
        return call(name, ...given);
    }
  },

  aggregate(name, { sql, type }) {
    if (name === 'avg') return call('avg', { kind: 'cast', operand: sql, type: 'double' });
    return call(name, mariadbValues.ordered(type, sql));
  },

  defaultOf(type, value) {
    switch (value.kind) {
      case 'sql':
        return value.sql;
      case 'today':
        return type.kind === 'timestamp' ? '(cast(utc_date() as datetime(6)))' : '(utc_date())';
      case 'now':
        if (type.kind === 'date') return '(utc_date())';
        if (type.kind === 'time') return '(utc_time(6))';
        return '(utc_timestamp(6))';
      case 'value': {
        if (value.value === null) return 'null';
        const bound = mariadbValues.bind(type, value.value);
        if (bound instanceof Uint8Array) return `(x'${String(value.value)}')`;
        if (typeof bound !== 'string' || type.kind === 'decimal') return String(bound);
        return `'${bound.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`;
      }
    }
  },
};

/** MariaDB orders a uuid by its last group first. */
function ordered(type: ValueType, value: SqlExpression): SqlExpression {
  return type.kind === 'uuid' ? { kind: 'cast', operand: value, type: 'char(36)' } : value;
}

function textual(value: unknown): Wire {
  return typeof value === 'string' ? value : otherText(value);
}

const otherText = decoded((text) => text);

/** Numbers come as such from the driver; nothing has to be read. */
function whole(value: unknown): Wire {
  return typeof value === 'number' ? value : wholeText(value);
}

const wholeText = decoded((text) => (NUMBER_FORM.test(text) ? Number(text) : null));

// Adding 0 takes the sign off a zero.
function real(value: unknown): Wire {
  return typeof value === 'number' ? value + 0 : realOf(value);
}

const realOf = decoded((text) => (Number.isFinite(Number(text)) ? Number(text) + 0 : null));

/**
 * The shortest digits that tell a double apart, with an exponent from 1e21 on and below 1e-6 (ECMA-262, Number::toString).
 * The engine's own text has the digits, and writes an exponent sooner, without its sign.
 */
function realText(value: SqlExpression): SqlExpression {
  const text = castToText(value);
  const exact = castToText({ kind: 'cast', operand: text, type: 'decimal(65,30)' });
  const plain: SqlExpression = { kind: 'trimmed', operand: { kind: 'trimmed', operand: exact, of: '0' }, of: '.' };
  const size = call('abs', value);
  const inside = binary('and', binary('>=', size, number('1e-6')), binary('<', size, number('1e21')));
  const signed = call('replace', call('replace', text, string('e'), string('e+')), string('e+-'), string('e-'));
  return either(binary('or', binary('=', value, number(0)), inside), collated(plain), signed);
}

/** A cast that stands in a table has the character set's own collation, whatever that of the session was. */
function castToText(value: SqlExpression): SqlExpression {
  return collated({ kind: 'cast', operand: value, type: 'char' });
}

function collated(operand: SqlExpression): SqlExpression {
  return { kind: 'collate', operand, collation: COLLATION };
}

/**
 * `lower` and `upper` over ASCII letters alone: the text's bytes are taken for Thai (TIS-620), whose letters have no
 * case, and put back.
 */
function asciiCase(name: 'lower' | 'upper', text: SqlExpression): SqlExpression {
  const bytes: SqlExpression = { kind: 'cast', operand: text, type: 'binary' };
  const changed = call(name, { kind: 'convert', operand: bytes, charset: 'tis620' });
  const back: SqlExpression = {
    kind: 'convert',
    operand: { kind: 'cast', operand: changed, type: 'binary' },
    charset: 'utf8mb4',
  };
  return collated(back);
}

/** Half away from zero by the digits that a person reads; beyond those of a decimal there is nothing to round. */
function roundedReal(value: SqlExpression, places: readonly SqlExpression[]): SqlExpression {
  const exact: SqlExpression = { kind: 'cast', operand: value, type: 'decimal(65,30)' };
  const rounded: SqlExpression = { kind: 'cast', operand: call('round', exact, ...places), type: 'double' };
  return either(binary('<', call('abs', value), number('1e15')), rounded, value);
}

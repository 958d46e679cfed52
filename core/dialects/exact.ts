import { call, type SqlExpression, string, withoutNumbering } from '../sql/index.js';
import { type BoundValue, bytesFrom } from '../values/index.js';

/** Values of columns of any type as texts, from which each can be made again to the last bit. */
export interface ExactValues {
  /** A column's value as such a text; null where it is null. */
  read(column: SqlExpression, declared: string): SqlExpression;
  /** The value again: what is bound for it, and what stands in the statement where the placeholder does. */
  write(text: string, declared: string, placeholder: SqlExpression): { readonly bound: BoundValue; readonly as: SqlExpression };
  /** The value as a person is shown it. */
  shown(text: string, declared: string): string;
}

const joined = (left: SqlExpression, right: SqlExpression): SqlExpression => ({ kind: 'binary', operator: '||', left, right });
const cast = (operand: SqlExpression, type: string): SqlExpression => ({ kind: 'cast', operand, type });
const utf8 = (hex: string): string => new TextDecoder().decode(bytesFrom(hex));

/**
 * SQLite: each value says what it is, whatever its column is declared as. A real is quoted, since only that gives all of its
 * digits (https://www.sqlite.org/lang_corefunc.html#quote).
 */
export const sqliteExact: ExactValues = {
  read: (column) => {
    const is = (type: string, then: SqlExpression) => ({
      when: { kind: 'binary', operator: '=', left: call('typeof', column), right: string(type) } as const,
      then,
    });
    return {
      kind: 'case',
      branches: [
        is('integer', joined(string('i'), column)),
        is('real', joined(string('r'), call('quote', column))),
        is('text', joined(string('t'), call('hex', column))),
        is('blob', joined(string('b'), call('hex', column))),
      ],
      otherwise: { kind: 'null' },
    };
  },
  write: (text, _declared, placeholder) => {
    const rest = text.slice(1);
    switch (text[0]) {
      case 'i':
        return { bound: rest, as: cast(placeholder, 'integer') };
      case 'r':
        return { bound: rest, as: cast(placeholder, 'real') };
      case 't':
        return { bound: bytesFrom(rest), as: cast(placeholder, 'text') };
      default:
        return { bound: bytesFrom(rest), as: placeholder };
    }
  },
  shown: (text) => (text.startsWith('t') ? utf8(text.slice(1)) : text.slice(1)),
};

/** PostgreSQL: the text form of every type is read as the same value again (PostgreSQL, “CREATE TYPE”, input and output functions). */
export const postgresExact: ExactValues = {
  read: (column) => cast(column, 'text'),
  // As a text first, so that no driver takes the value for one of its own.
  write: (text, declared, placeholder) => ({ bound: text, as: cast(cast(placeholder, 'text'), withoutNumbering(declared)) }),
  shown: (text) => text,
};

const BYTES = /^(?:\w*blob|(?:var)?binary|bit|geometry|point|linestring|polygon|multi\w+)\b/i;
const TEXTS = /^(?:\w*text|(?:var)?char|enum|set|json|uuid|inet[46])\b/i;

/** MariaDB: bytes and texts as hexadecimal, so that no character set comes between; a float as the double that it is. */
export const mariadbExact: ExactValues = {
  read: (column, declared) => {
    if (BYTES.test(declared)) return call('hex', column);
    if (TEXTS.test(declared)) return call('hex', { kind: 'convert', operand: column, charset: 'utf8mb4' });
    return cast(/^float\b/i.test(declared) ? cast(column, 'double') : column, 'char');
  },
  write: (text, declared, placeholder) => {
    if (BYTES.test(declared)) return { bound: text, as: call('unhex', placeholder) };
    if (TEXTS.test(declared))
      return { bound: text, as: { kind: 'convert', operand: call('unhex', placeholder), charset: 'utf8mb4' } };
    return { bound: text, as: placeholder };
  },
  shown: (text, declared) => (TEXTS.test(declared) ? utf8(text) : text),
};

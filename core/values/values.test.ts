import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { sqliteDialect } from '../dialects/index.js';
import { column } from '../sql/index.js';
import {
  characters,
  daysInMonth,
  decimals,
  familyOf,
  isDate,
  normalTimestamp,
  parseWire,
  resultOf,
  sqliteValues,
  typeName,
  type ValueType,
  type Wire,
} from './index.js';

const CHOICE: ValueType = { kind: 'choice', choice: 'Condition', values: ['mint', "it's worn"], length: 63 };
const DECIMAL: ValueType = { kind: 'decimal', precision: 6, scale: 2 };
const LONG_DECIMAL: ValueType = { kind: 'decimal', precision: 30, scale: 4 };

describe('what a person writes is read as a value of its type', () => {
  test.each<[ValueType, string, Wire]>([
    [{ kind: 'integer' }, '42', 42],
    [{ kind: 'integer' }, '-2147483648', -2147483648],
    [{ kind: 'bigint' }, '9223372036854775807', '9223372036854775807'],
    [{ kind: 'bigint' }, '007', '7'],
    [{ kind: 'real' }, '2.5e3', 2500],
    [DECIMAL, '2.5', '2.50'],
    [DECIMAL, '-0', '0.00'],
    [DECIMAL, '0012.30', '12.30'],
    [DECIMAL, '2.500', '2.50'],
    [{ kind: 'decimal', precision: 3, scale: 0 }, '120', '120'],
    [{ kind: 'boolean' }, 'true', true],
    [{ kind: 'text', length: 3 }, 'äöü', 'äöü'],
    [{ kind: 'text', length: 2 }, '🐎🐎', '🐎🐎'],
    [CHOICE, "it's worn", "it's worn"],
    [{ kind: 'date' }, '2032-02-29', '2032-02-29'],
    [{ kind: 'time' }, '09:30', '09:30:00'],
    [{ kind: 'time' }, '09:30:15.5', '09:30:15.500000'],
    [{ kind: 'time' }, '09:30:15.000', '09:30:15'],
    [{ kind: 'timestamp' }, '2031-04-12', '2031-04-12T00:00:00.000000Z'],
    [{ kind: 'timestamp' }, '2031-04-12 09:30', '2031-04-12T09:30:00.000000Z'],
    [{ kind: 'timestamp' }, '2031-04-12T01:30:00+02:00', '2031-04-11T23:30:00.000000Z'],
    [{ kind: 'timestamp' }, '2031-04-12T23:30:00.25-01:00', '2031-04-13T00:30:00.250000Z'],
    [{ kind: 'uuid' }, '0B0C1D2E-0000-4000-8000-00000000ABCD', '0b0c1d2e-0000-4000-8000-00000000abcd'],
    [{ kind: 'json' }, '{"a":[1,null]}', { a: [1, null] }],
    [{ kind: 'bytes' }, '00FF', '00ff'],
    [{ kind: 'sql', declaration: 'POINT' }, 'anything', 'anything'],
  ])('%o takes %s', (type, written, value) => {
    expect(parseWire(type, written)).toEqual({ ok: true, value });
  });

  test.each<[ValueType, string, string]>([
    [{ kind: 'integer' }, '2147483648', 'it goes from -2147483648 to 2147483647'],
    [{ kind: 'integer' }, '1.5', 'write digits only'],
    [{ kind: 'integer' }, '', 'write digits only'],
    [{ kind: 'bigint' }, '9223372036854775808', 'it goes from'],
    [{ kind: 'real' }, 'Infinity', 'write a number'],
    [{ kind: 'real' }, 'NaN', 'write a number'],
    [{ kind: 'real' }, ' ', 'write a number'],
    [DECIMAL, '12345.00', '4 digits before the point'],
    [DECIMAL, '0.125', '2 digits behind the point'],
    [DECIMAL, '1e3', 'write a number'],
    [{ kind: 'boolean' }, 'yes', 'write true or false'],
    [{ kind: 'text', length: 2 }, 'abc', 'longer than 2 characters'],
    [{ kind: 'text', length: null }, 'a\0b', 'U+0000'],
    [CHOICE, 'broken', "choose 'mint', 'it's worn'"],
    [{ kind: 'date' }, '2031-02-29', "'2031-04-12'"],
    [{ kind: 'date' }, '2031-2-9', "'2031-04-12'"],
    [{ kind: 'time' }, '24:00', "'09:30'"],
    [{ kind: 'timestamp' }, '2031-04-12 25:00', 'UTC'],
    [{ kind: 'uuid' }, 'abc', '32 hexadecimal digits'],
    [{ kind: 'json' }, '{a', 'not valid JSON'],
    [{ kind: 'bytes' }, '0', 'hexadecimal'],
  ])('%o refuses %s, and says what it expects', (type, written, expected) => {
    const parsed = parseWire(type, written);
    expect(parsed.ok ? '' : parsed.problem).toContain(expected);
  });

  test('a long value is shortened in the message', () => {
    const parsed = parseWire({ kind: 'integer' }, 'x'.repeat(500));
    expect(parsed.ok ? '' : parsed.problem.length).toBeLessThan(120);
  });
});

describe('moments', () => {
  test('a day is one that the calendar has', () => {
    expect(['2000-02-29', '1900-02-29', '2100-02-29', '2031-12-31', '2031-00-10', '2031-13-01', 'x'].map(isDate)).toEqual([
      true,
      false,
      false,
      true,
      false,
      false,
      false,
    ]);
    expect([2, 4, 12].map((month) => daysInMonth(2032, month))).toEqual([29, 30, 31]);
  });

  test('a normal timestamp is its own normal form', () => {
    fc.assert(
      fc.property(fc.date({ min: new Date('1000-01-01'), max: new Date('9999-12-30'), noInvalidDate: true }), (date) => {
        const wire = `${date.toISOString().slice(0, 23)}000Z`;
        expect(normalTimestamp(wire)).toBe(wire);
        expect(normalTimestamp(wire.replace('T', ' ').replace('Z', ''))).toBe(wire);
      }),
    );
  });

  test('characters are code points', () => {
    expect([characters(''), characters('aä'), characters('🐎')]).toEqual([0, 2, 1]);
  });
});

describe('types', () => {
  test('are written as the notation writes them', () => {
    const types: ValueType[] = [
      { kind: 'integer' },
      DECIMAL,
      { kind: 'text', length: 9 },
      { kind: 'text', length: null },
      CHOICE,
      { kind: 'sql', declaration: "a'b" },
    ];
    expect(types.map(typeName)).toEqual(['integer', 'decimal(6, 2)', 'text(9)', 'text', 'Condition', "sql('a''b')"]);
  });

  test('belong to families whose values can be equal', () => {
    expect([{ kind: 'integer' } as const, DECIMAL, CHOICE, { kind: 'uuid' } as const].map(familyOf)).toEqual([
      'number',
      'number',
      'text',
      'uuid',
    ]);
  });

  test('of results follow the operators: larger scale for sums, both for products, real for quotients of decimals', () => {
    const two: ValueType = { kind: 'decimal', precision: 8, scale: 2 };
    const three: ValueType = { kind: 'decimal', precision: 8, scale: 3 };
    expect(resultOf('+', two, three)).toMatchObject({ kind: 'decimal', scale: 3 });
    expect(resultOf('*', two, three)).toMatchObject({ kind: 'decimal', scale: 5 });
    expect(resultOf('/', two, three)).toEqual({ kind: 'real' });
    expect(resultOf('/', { kind: 'integer' }, { kind: 'integer' })).toEqual({ kind: 'integer' });
    expect(resultOf('+', { kind: 'integer' }, { kind: 'bigint' })).toEqual({ kind: 'bigint' });
    expect(resultOf('-', { kind: 'real' }, two)).toEqual({ kind: 'real' });
  });
});

describe('a value goes into SQLite and comes back in the same wire form', () => {
  const db = new Database(':memory:');
  db.pragma('foreign_keys = on');

  /** Puts a value into a column of its type, with its check, and reads it as a load does. */
  function thereAndBack(type: ValueType, value: Wire, guarded: boolean): Wire {
    const check = sqliteValues.check(type, 'x', false)?.sql ?? null;
    db.exec(
      `drop table if exists t; create table t (x ${sqliteValues.columnType(type)}${check === null ? '' : ` check (x is null or (${check}))`})`,
    );
    db.prepare('insert into t values (?)').run(sqliteValues.bind(type, value));
    const json =
      (guarded ? sqliteValues.json?.guardedJson : sqliteValues.json?.toJson)?.(type, column('t', 'x')) ?? column('t', 'x');
    const text = db
      .prepare(`select json_group_array(${sqliteDialect.print(json)}) from t`)
      .pluck()
      .get() as string;
    return sqliteValues.decode(type)((JSON.parse(text) as unknown[])[0]);
  }

  const digits = (length: number) => fc.stringMatching(new RegExp(`^[0-9]{1,${length}}$`));
  const day = fc
    .date({ min: new Date('0001-01-01'), max: new Date('9999-12-30'), noInvalidDate: true })
    .map((date) => date.toISOString().slice(0, 10));
  const ofType: [string, ValueType, fc.Arbitrary<Wire>][] = [
    ['integer', { kind: 'integer' }, fc.integer({ min: -2147483648, max: 2147483647 })],
    ['bigint', { kind: 'bigint' }, fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String)],
    [
      'real',
      { kind: 'real' },
      fc.double({ noNaN: true, noDefaultInfinity: true }).map((value) => (Object.is(value, -0) ? 0 : value)),
    ],
    [
      'decimal',
      DECIMAL,
      fc.integer({ min: -999999, max: 999999 }).map((cents) => (cents / 100).toFixed(2).replace(/^-0\.00$/, '0.00')),
    ],
    [
      'long decimal',
      LONG_DECIMAL,
      fc.tuple(digits(26), digits(4)).map(([whole, part]) => `${BigInt(whole)}.${part.padEnd(4, '0')}`),
    ],
    ['boolean', { kind: 'boolean' }, fc.boolean()],
    ['text', { kind: 'text', length: null }, fc.string({ unit: 'grapheme' }).filter((text) => !text.includes('\0'))],
    ['choice', CHOICE, fc.constantFrom('mint', "it's worn")],
    ['date', { kind: 'date' }, day],
    [
      'time',
      { kind: 'time' },
      fc.tuple(fc.nat(23), fc.nat(59), fc.nat(59)).map((parts) => parts.map((part) => String(part).padStart(2, '0')).join(':')),
    ],
    [
      'timestamp',
      { kind: 'timestamp' },
      fc.tuple(day, fc.nat(999999)).map(([date, micros]) => `${date}T10:20:30.${String(micros).padStart(6, '0')}Z`),
    ],
    ['uuid', { kind: 'uuid' }, fc.uuid()],
    [
      'json',
      { kind: 'json' },
      fc
        .jsonValue({ noUnicodeString: false } as never)
        .filter(
          (value) => value !== null && !JSON.stringify(value).includes('\\u0000') && !JSON.stringify(value).includes('-0'),
        ) as fc.Arbitrary<Wire>,
    ],
    ['bytes', { kind: 'bytes' }, fc.uint8Array().map((bytes) => Buffer.from(bytes).toString('hex'))],
  ];

  test.each(ofType)('%s', (_name, type, values) => {
    fc.assert(
      fc.property(values, fc.boolean(), (value, guarded) => {
        expect(thereAndBack(type, value, guarded)).toEqual(value);
      }),
      { numRuns: 120, seed: 1 },
    );
    expect(thereAndBack(type, null, false)).toBeNull();
    expect(thereAndBack(type, null, true)).toBeNull();
  });

  test('the numbers are ordered as numbers, those of many digits too', () => {
    db.function('decimal_order', (value) => decimals.order(String(value)));
    db.exec(`drop table if exists t; create table t (x ${sqliteValues.columnType(LONG_DECIMAL)})`);
    for (const value of ['9.0000', '10.0000', '-3.0000'])
      db.prepare('insert into t values (?)').run(sqliteValues.bind(LONG_DECIMAL, value));
    const order = sqliteDialect.print(sqliteValues.ordered(LONG_DECIMAL, column(null, 'x')));
    expect(db.prepare(`select x from t order by ${order}`).pluck().all()).toEqual(['-3.0000', '9.0000', '10.0000']);
  });
});

import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addDecimals } from '../../engines/sqlite/decimals.js';
import { readDesign } from '../design/index.js';
import { sqliteDialect } from '../dialects/index.js';
import { entityOf } from '../model/index.js';
import { literalSql, toSql } from '../schema/index.js';
import { type Computed, evaluate } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

interface Row {
  readonly a: number | null;
  readonly b: number | null;
  readonly s: string | null;
  readonly t: string | null;
  readonly d: string | null;
  readonly e: string | null;
  readonly y: boolean | null;
}

const FIELDS =
  '  a integer optional\n  b integer optional\n  s text optional\n  t text optional\n  d date optional\n  e date optional\n  y boolean optional\n';

/** The value of an expression over a row, in the program and in SQLite. */
function bothWays(text: string, row: Row): { program: Computed | undefined; engine: unknown } {
  const design = readDesign(`entity Thing\n  id integer key\n${FIELDS}  z = ${text}\n`);
  expect(design.findings.map((finding) => finding.message)).toEqual([]);
  const [derived] = entityOf(design.model, 'Thing').derived;
  if (derived === undefined) throw new Error('no derived field');
  const program = evaluate(derived.expression, (field) => (row as unknown as Record<string, Computed>)[field] ?? null, NOW);
  const never = (): never => {
    throw new Error('out of reach');
  };
  const sql = toSql(derived.expression, {
    values: sqliteDialect.values,
    place: 'query',
    row: (part) => (part.kind === 'field' ? { kind: 'parameter', type: null, name: part.field } : never()),
    value: (expression) => literalSql(sqliteDialect.values, expression),
    bound: (expression) => ({
      kind: 'string',
      value: expression.kind === 'clock' && expression.which === 'now' ? NOW : NOW.slice(0, 10),
    }),
  });
  const db = new Database(':memory:');
  addDecimals(db);
  db.pragma('case_sensitive_like = on');
  const given = Object.fromEntries(
    Object.entries(row).map(([name, value]) => [
      name,
      typeof value === 'boolean' ? Number(value) : typeof value === 'number' ? BigInt(value) : value,
    ]),
  );
  let engine: unknown = db
    .prepare(`select ${sqliteDialect.print(sql)}`)
    .pluck()
    .get(given);
  if (typeof program === 'boolean' && (engine === 0 || engine === 1)) engine = engine === 1;
  db.close();
  return { program, engine };
}

const number: fc.Arbitrary<string> = fc.letrec<{ value: string }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    fc.constantFrom('a', 'b', '0', '1', '7', 'length(s)'),
    fc
      .tuple(tie('value'), fc.constantFrom('+', '-', '*', '/', '%'), tie('value'))
      .map(([left, operator, right]) => `(${left} ${operator} ${right})`),
    tie('value').map((value) => `abs(${value})`),
    tie('value').map((value) => `(- ${value})`),
    fc.tuple(tie('value'), tie('value')).map(([left, right]) => `least(${left}, ${right})`),
    fc.tuple(tie('value'), tie('value')).map(([left, right]) => `coalesce(${left}, ${right})`),
  ),
})).value;

const word: fc.Arbitrary<string> = fc.letrec<{ value: string }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 2 },
    fc.constantFrom('s', 't', "'Ab'", "'it''s'", "''"),
    fc.tuple(fc.constantFrom('lower', 'upper', 'trim'), tie('value')).map(([name, value]) => `${name}(${value})`),
    fc.tuple(tie('value'), tie('value')).map(([left, right]) => `${left} || ${right}`),
    tie('value').map((value) => `substr(${value}, 2, 2)`),
    tie('value').map((value) => `replace(${value}, 'b', 'xx')`),
    fc.tuple(tie('value'), tie('value')).map(([left, right]) => `greatest(${left}, ${right})`),
  ),
})).value;

const date: fc.Arbitrary<string> = fc.oneof(
  fc.constantFrom('d', 'e', 'today', 'd + 7 days', 'd - 2 weeks', 'd + 1 month', 'e - 1 month', 'd + 1 year'),
);

const condition: fc.Arbitrary<string> = fc.letrec<{ value: string }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 3 },
    fc.tuple(number, fc.constantFrom('=', '<>', '<', '<=', '>', '>='), number).map((parts) => parts.join(' ')),
    fc.tuple(word, fc.constantFrom('=', '<>', '<', '>='), word).map((parts) => parts.join(' ')),
    fc.tuple(date, fc.constantFrom('=', '<>', '<', '>='), date).map((parts) => parts.join(' ')),
    fc
      .tuple(fc.constantFrom('s', 't'), fc.constantFrom("'A%'", "'%b_'", "'_'"))
      .map(([value, pattern]) => `${value} like ${pattern}`),
    fc.tuple(number, number, number).map(([value, low, high]) => `${value} between ${low} and ${high}`),
    fc.tuple(number, number).map(([value, other]) => `${value} not in (1, ${other}, 7)`),
    fc.constantFrom('a is null', 's is not null', 'y', 'not y', 'd - e > 3'),
    tie('value').map((value) => `not (${value})`),
    fc
      .tuple(tie('value'), fc.constantFrom('and', 'or'), tie('value'))
      .map(([left, operator, right]) => `(${left} ${operator} ${right})`),
    fc.tuple(tie('value'), tie('value')).map(([when, then]) => `case when ${when} then ${then} else false end`),
  ),
})).value;

const row: fc.Arbitrary<Row> = fc.record({
  a: fc.option(fc.integer({ min: -20, max: 20 })),
  b: fc.option(fc.integer({ min: -20, max: 20 })),
  s: fc.option(fc.constantFrom('', 'Ab', 'abc', ' b ', 'ÄB', 'it’s', 'Abb')),
  t: fc.option(fc.constantFrom('', 'b', 'ABC', 'zz')),
  d: fc.option(fc.constantFrom('2031-01-31', '2032-02-29', '2031-04-12', '1999-12-31')),
  e: fc.option(fc.constantFrom('2031-03-31', '2031-04-05', '2031-12-31')),
  y: fc.option(fc.boolean()),
});

describe('the program and the engine compute the same', () => {
  test.each([
    ['numbers', number],
    ['texts', word],
    ['dates', date],
    ['conditions', condition],
  ])('%s', (_name, texts) => {
    fc.assert(
      fc.property(texts, row, (text, values) => {
        const { program, engine } = bothWays(text, values);
        expect(program, text).toEqual(engine);
      }),
      { numRuns: 400, seed: 9 },
    );
  });

  test.each([
    ['-7 / 2', -3],
    ['7 % 0', null],
    ['1 / 0', null],
    ["'a' || null", null],
    ["lower('ÄB')", 'Äb'],
    ['round(2.5)', 3],
    ['round(- 2.5)', -3],
    ['case when null then 1 end', null],
    ['least(1, null)', null],
    ["substr('abc', -2)", 'bc'],
  ])('%s is %s', (text, value) => {
    const { program, engine } = bothWays(text, { a: 1, b: 2, s: 's', t: 't', d: null, e: null, y: null });
    expect(program).toEqual(value);
    expect(engine).toEqual(value);
  });
});

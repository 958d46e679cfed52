import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  column,
  number,
  type Select,
  type SqlExpression,
  type SqlOperator,
  selectOf,
  string,
  tableSource,
} from '../sql/index.js';
import { dialects, sqliteDialect } from './index.js';

const { print, printQuery, quote } = sqliteDialect;
const binary = (operator: SqlOperator, left: SqlExpression, right: SqlExpression): SqlExpression => ({
  kind: 'binary',
  operator,
  left,
  right,
});

/** The same expression with a bracket around every part, so that no rule of precedence can matter. */
function bracketed(expression: SqlExpression): string {
  switch (expression.kind) {
    case 'binary':
      return `(${bracketed(expression.left)} ${expression.operator} ${bracketed(expression.right)})`;
    case 'not':
      return `(not ${bracketed(expression.operand)})`;
    case 'negate':
      return `(- ${bracketed(expression.operand)})`;
    case 'is null':
      return `(${bracketed(expression.operand)} is ${expression.negated ? 'not ' : ''}null)`;
    case 'in':
      return `(${bracketed(expression.operand)} ${expression.negated ? 'not ' : ''}in (${expression.items.map(bracketed).join(', ')}))`;
    case 'between':
      return `(${bracketed(expression.operand)} between ${bracketed(expression.low)} and ${bracketed(expression.high)})`;
    default:
      return print(expression);
  }
}

const expression: fc.Arbitrary<SqlExpression> = fc.letrec<{ value: SqlExpression }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 4 },
    fc.constantFrom(number(0), number(1), number(3), { kind: 'null' } as const, string('2')),
    fc
      .tuple(
        fc.constantFrom<SqlOperator>('or', 'and', '=', '<>', '<', '<=', '>', '>=', '+', '-', '*', '/', '%', '||'),
        tie('value'),
        tie('value'),
      )
      .map(([operator, left, right]) => binary(operator, left, right)),
    tie('value').map((operand): SqlExpression => ({ kind: 'not', operand })),
    tie('value').map((operand): SqlExpression => ({ kind: 'negate', operand })),
    fc.tuple(tie('value'), fc.boolean()).map(([operand, negated]): SqlExpression => ({ kind: 'is null', operand, negated })),
    fc
      .tuple(tie('value'), tie('value'), fc.boolean())
      .map(([operand, item, negated]): SqlExpression => ({ kind: 'in', operand, items: [item, number(1)], negated })),
    fc
      .tuple(tie('value'), tie('value'), tie('value'))
      .map(([operand, low, high]): SqlExpression => ({ kind: 'between', operand, low, high, negated: false })),
  ),
})).value;

describe('expressions', () => {
  test('printed with the fewest brackets mean what they mean with all of them', () => {
    const db = new Database(':memory:');
    fc.assert(
      fc.property(expression, (value) => {
        const plain = print(value);
        expect(db.prepare(`select ${plain}`).pluck().get(), plain).toEqual(
          db
            .prepare(`select ${bracketed(value)}`)
            .pluck()
            .get(),
        );
      }),
      { numRuns: 1500, seed: 4 },
    );
  });

  test.each<[SqlExpression, string]>([
    [binary('and', binary('or', column('t', 'a'), column('t', 'b')), column('t', 'c')), '(t.a or t.b) and t.c'],
    [binary('-', number(1), binary('-', number(2), number(3))), '1 - (2 - 3)'],
    [binary('-', binary('-', number(1), number(2)), number(3)), '1 - 2 - 3'],
    [{ kind: 'not', operand: binary('=', column(null, 'a'), number(1)) }, 'not a = 1'],
    [{ kind: 'is true', negated: true, operand: binary('or', column(null, 'a'), column(null, 'b')) }, '(a or b) is not true'],
    [{ kind: 'like', operand: column(null, 'a'), pattern: string('x%'), negated: true }, "a not like 'x%' escape '\\'"],
    [
      { kind: 'in keys', operand: column('t', 'id'), parameter: 'keys', types: [''] },
      't.id in (select value from json_each(:keys))',
    ],
    [{ kind: 'cast', operand: column(null, 'a'), type: 'text' }, 'cast(a as text)'],
    [{ kind: 'count distinct', operand: column('t', 'id') }, 'count(distinct t.id)'],
    [
      { kind: 'case', branches: [{ when: column(null, 'a'), then: number(1) }], otherwise: number(2) },
      'case when a then 1 else 2 end',
    ],
    [string("it's"), "'it''s'"],
  ])('%o', (value, sql) => {
    expect(print(value)).toBe(sql);
  });
});

describe('names', () => {
  test.each([
    ['loans', 'loans'],
    ['order', '"order"'],
    ['Loans', '"Loans"'],
    ['two words', '"two words"'],
    ['a"b', '"a""b"'],
    ['1st', '"1st"'],
    ['', '""'],
  ])('%s is written %s', (name, written) => {
    expect(quote(name)).toBe(written);
  });

  test('whatever it is, a name names its own column', () => {
    const db = new Database(':memory:');
    fc.assert(
      fc.property(
        fc.string({ minLength: 1 }).filter((name) => !name.includes('\0')),
        (name) => {
          db.exec(`drop table if exists t; create table t (${quote(name)} int)`);
          expect(db.prepare("select name from pragma_table_info('t')").pluck().get()).toBe(name);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('selects are laid out one clause a line', () => {
  const loans: Select = {
    kind: 'select',
    distinct: false,
    having: null,
    columns: [
      { expression: column('l', 'id'), as: 'id' },
      { expression: binary('||', column('l', 'a'), string('!')), as: 'loud' },
    ],
    from: { from: { kind: 'table', table: { schema: null, name: 'loans' } }, alias: 'l' },
    joins: [],
    groupBy: [],
    where: binary('and', binary('=', column('l', 'a'), number(1)), binary('or', column('l', 'b'), column('l', 'c'))),
    orderBy: [
      { expression: column('l', 'a'), descending: true, nulls: true },
      { expression: column('l', 'id'), descending: false, nulls: false },
    ],
    limit: null,
    lock: null,
    offset: number(5),
  };

  test('with conditions below each other, and an offset that needs a limit', () => {
    expect(printQuery(loans)).toBe(
      "select l.id, l.a || '!' as loud\nfrom loans l\nwhere l.a = 1\n  and (l.b or l.c)\norder by l.a desc, l.id\nlimit -1\noffset 5",
    );
  });

  test('a join that is too long for its line puts its condition on the next', () => {
    const join = {
      kind: 'left' as const,
      source: { ...loans.from, alias: 'a_rather_long_alias_for_a_table' },
      on: binary('=', column('a_rather_long_alias_for_a_table', 'id'), column('l', 'id')),
    };
    expect(printQuery({ ...loans, joins: [join], where: null, orderBy: [], offset: null })).toContain(
      'left join loans a_rather_long_alias_for_a_table\n  on a_rather_long_alias_for_a_table.id = l.id',
    );
  });

  test('many columns wrap', () => {
    const columns = Array.from({ length: 12 }, (_, index) => ({ expression: column('l', `column_${index}`), as: null }));
    const lines = printQuery({ ...loans, columns }).split('\n');
    expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(64);
    expect(lines[1]).toMatch(/^ {7}l\.column_/);
  });

  test('several selects stand one after the other', () => {
    const plain: Select = { ...loans, where: null, orderBy: [], offset: null };
    expect(printQuery({ kind: 'union all', selects: [plain, plain] })).toMatch(/loans l\nunion all\nselect/);
  });
});

test('SQLite has no schemas: a table is called by its name alone, wherever it is spoken of', () => {
  const table = { schema: 'cinder', name: 'halls' };
  const { printChange, printQuery } = sqliteDialect;
  expect(printChange({ kind: 'insert', into: table, columns: ['id'], rows: [] })).toContain('insert into halls (id)');
  expect(printQuery(selectOf(tableSource(table), { columns: [{ expression: number(1), as: null }] }))).toBe(
    'select 1\nfrom halls',
  );
  expect(dialects.postgres.printChange({ kind: 'delete', from: table, where: null })).toBe('delete from cinder.halls');
});

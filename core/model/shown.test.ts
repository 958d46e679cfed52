import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';

const design = readDesign(`
entity Player
  id    integer key
  name  text(40)
  notes json optional

entity Loan
  id     integer key
  fee    decimal(6, 2)
  begun  date

entity Hall
  id     integer key
  seats  integer

entity Remark
  id    integer key
  body  text(40)

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation subject_of
  Remark knows one Loan | Hall as subject
  each knows many Remark as remarks

relation seating
  Player knows many Hall as halls
  Hall knows many Player as players
  stored in table chairs (player_id, hall_id)
    chair  integer
`);

function told(text: string): string[] {
  const { query, findings } = design.queryOf(text);
  return query === null ? findings.map(({ message }) => message) : [];
}

function shownTypes(text: string): string[] {
  const { query, findings } = design.queryOf(text);
  if (query === null) throw new Error(findings.map(({ message }) => message).join('\n'));
  return (query.show ?? []).map(({ name, expression }) => `${name}: ${expression.type.kind}`);
}

describe('what is shown', () => {
  test('has the name that it is given, else that of its field or role, else is called as it is written', () => {
    expect(shownTypes('from Loan\nshow borrower.name, borrower, fee *  2, begun as day')).toEqual([
      'name: text',
      'borrower: row',
      'fee * 2: decimal',
      'day: date',
    ]);
  });

  test('is of the type of its aggregate: whole numbers sum up to 64 bits, means are doubles', () => {
    expect(
      shownTypes('from Player\nshow sum(loans.fee), avg(loans.fee), max(loans.begun), sum(halls.seats), sum(halls.chairs.chair)'),
    ).toEqual([
      'sum(loans.fee): decimal',
      'avg(loans.fee): real',
      'max(loans.begun): date',
      'sum(halls.seats): bigint',
      'sum(halls.chairs.chair): bigint',
    ]);
  });

  test('has no name twice, and no load beside it', () => {
    expect(told('from Loan\nshow fee, begun as fee')).toEqual([
      'the query shows two columns called fee. Name one of them, as in “… as fee_2”.',
    ]);
    expect(told('from Loan\nshow fee\nload borrower')[0]).toContain('what is shown is flat');
  });

  test('is the order of distinct lines, which is by something shown', () => {
    expect(told('from Loan\nshow distinct borrower.name as who\norder by who desc')).toEqual([]);
    expect(told('from Loan\nshow distinct borrower.name\norder by fee')[0]).toContain('by a column that is shown');
  });
});

describe('a group', () => {
  test('has its terms and aggregates; anything else can differ among its rows', () => {
    expect(told('from Loan\ngroup by borrower.name\nshow borrower.name, lower(borrower.name), count(*), sum(fee)')).toEqual([]);
    expect(told("from Loan\ngroup by lower(borrower.name)\nshow lower(borrower.name) || '!' as loud")).toEqual([]);
    expect(told('from Loan\ngroup by borrower\nshow fee')[0]).toContain('can differ among the rows of a group');
    expect(told('from Loan\ngroup by borrower\nshow count(remarks)')[0]).toContain('can differ');
    expect(told('from Loan\ngroup by borrower\nshow nothing')).toEqual([
      'There is no field, role or scope of Loan called nothing.',
    ]);
  });

  test('is all rows, where an aggregate is shown and nothing is grouped by', () => {
    expect(design.queryOf('from Loan\nshow count(*), max(fee)').query?.groupBy).toEqual([]);
    expect(design.queryOf('from Player\nshow count(loans), max(loans.fee)').query?.groupBy).toBeNull();
    expect(told('from Loan\nshow count(*), fee')[0]).toContain('can differ among the rows of a group');
  });

  test('needs something that is shown of it, and is what a condition on groups is for', () => {
    expect(told('from Loan\ngroup by borrower')[0]).toContain('say what is shown of each group');
    expect(told('from Loan\nhaving fee > 1')[0]).toContain('a condition on groups, and there are none');
    expect(told('from Player\ngroup by notes\nshow count(*)')[0]).toContain('this is json');
  });

  test('sums up what each row counts', () => {
    expect(told('from Player\nshow sum(count(loans)) as loans')).toEqual([]);
  });
});

describe('an aggregate', () => {
  test('takes numbers, or values that have an order', () => {
    expect(told('from Player\nwhere sum(loans.begun) > 1')[0]).toBe('the query: sum( ) takes numbers, and this is a date.');
    expect(told('from Player\nwhere max(loans.borrower) is null')[0]).toContain('takes values that have an order');
  });

  test('walks a path to many rows, and ends in a value', () => {
    for (const wrong of ['sum(loans)', 'sum(loans[fee > 1])', 'sum(name)', 'sum(*)', 'sum(loans.fee, 1)'])
      expect(told(`from Player\nwhere ${wrong} > 1`)[0], wrong).toMatch(/takes a path to many rows|takes numbers/);
  });

  test('goes over each of several entities alike, but for a mean', () => {
    expect(told("from Loan\nwhere max(remarks.body) > 'm'")).toEqual([]);
    expect(told('from Hall\nwhere count(remarks) > 1 and min(remarks.body) is not null')).toEqual([]);
  });

  test('of a pair walks no way on which the pair could come twice', () => {
    expect(told('from Hall\nwhere sum(players.halls.chairs.chair) > 1')[0]).toContain('can be reached several times');
  });

  test('counts the rows of a group alone with a star', () => {
    expect(told('from Player\nwhere count(*) > 1')[0]).toContain('counts the rows of a group');
  });
});

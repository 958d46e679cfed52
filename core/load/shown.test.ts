import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { sqlOf } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';

const design = readDesign(readFileSync('demo/library.kin', 'utf8'));
const sql = (text: string) => sqlOf(design, text);

test('to-one roles that are shown are joined once, and an order by what is shown computes nothing again', () => {
  expect(sql('from Loan\nshow borrower.name as who, borrower.email, count(borrower.loans) as n\norder by n desc')).toBe(
    `select players.name as who, players.email,
       (
    select count(*)
    from players borrower
    join loans loans_2 on loans_2.borrower_id = borrower.id
    where borrower.id = loans.borrower_id
  ) as n
from loans
join players on players.id = loans.borrower_id
order by n desc, loans.id`,
  );
});

test('rows are grouped by a column where each term is one', () => {
  expect(
    sql(
      'from Repair\ngroup by instrument.branch.name\nshow instrument.branch.name, count(*) as n\nhaving n > 2\norder by n desc',
    ),
  ).toBe(
    `select branches.name, count(*) as n
from repairs
join instruments on instruments.id = repairs.instrument_id
join branches on branches.id = instruments.branch_id
group by branches.name
having count(*) > 2
order by n desc, branches.name`,
  );
});

test('rows are grouped by what a select within computed where a term is no column', () => {
  expect(sql('from Piece\ngroup by minutes > 10\nshow minutes > 10 as long, max(minutes)')).toBe(
    `select grouped.term_1 as long,
       max(grouped.value_2) as "max(minutes)"
from (
  select pieces.minutes > 10 as term_1,
         pieces.minutes as value_2
  from pieces
) grouped
group by grouped.term_1
order by grouped.term_1`,
  );
});

test('all rows are one group where nothing is grouped by', () => {
  expect(sql('from Piece\nshow count(*) as n, avg(minutes) as mean')).toBe(
    'select count(*) as n, avg(pieces.minutes) as mean\nfrom pieces',
  );
});

test('a row that is reached on several ways is aggregated once, one that is reached on one way is not sought again', () => {
  expect(sql('from Player\nshow max(ensembles.concerts.starts_at) as last')).not.toContain(' in (');
  expect(sql('from Player\nshow sum(loans.instrument.worth) as worth')).toContain(
    'where instruments.id in (\n        select loans.instrument_id\n        from loans\n',
  );
});

test('distinct lines are put in order by what they show', () => {
  expect(sql('from Player\nshow distinct branch.town as town\norder by town desc')).toBe(
    `select distinct branches.town
from players
join branches on branches.id = players.branch_id
order by branches.town desc`,
  );
});

test('lines are counted behind groups and distinct ones, and found by the first', () => {
  expect(sql('from Loan\ngroup by borrower\nshow borrower\ncount')).toBe(
    `select count(*) as count
from (
  select loans.borrower_id as borrower
  from loans
  group by loans.borrower_id
) counted`,
  );
  expect(sql('from Loan\nwhere overdue\nexists')).toContain('limit 1');
});

test('a name that an engine would cut or refuse is the answer’s alone', () => {
  const long = `${'a'.repeat(80)}`;
  expect(sql(`from Piece\nshow minutes as ${long}, title as ${long}b\norder by ${long}`)).toBe(
    'select pieces.minutes as shown, pieces.title as shown_2\nfrom pieces\norder by pieces.minutes, pieces.id',
  );
});

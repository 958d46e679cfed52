import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { type LoggedStatement, LogLines, LogReading, shapeOf } from './index.js';

const design = readDesign(readFileSync('demo/library.kin', 'utf8'));

function statements(log: string): LoggedStatement[] {
  const lines = new LogLines();
  const found = log.split('\n').flatMap((line) => lines.next(line) ?? []);
  return [...found, ...[lines.end()].filter((one) => one !== null)];
}

function report(log: readonly string[]) {
  const reading = new LogReading();
  for (const one of statements(log.join('\n'))) reading.take(one);
  return reading.report(design);
}

describe('the statements of a log', () => {
  test('plain SQL stands on a line each, with a time beside it where there is one', () => {
    expect(statements("select 1;\n(1.5ms) SELECT * FROM loans\nStarted GET /loans\ninsert into tags values (1, 'x')")).toEqual([
      { sql: 'select 1', milliseconds: null },
      { sql: 'SELECT * FROM loans', milliseconds: 1.5 },
      { sql: "insert into tags values (1, 'x')", milliseconds: null },
    ]);
  });

  test('PostgreSQL writes the time before a statement or after it, and prepares what it carries out', () => {
    const head = '2031-04-12 09:00:00.123 UTC [77] LOG:  ';
    const log = [
      `${head}duration: 0.041 ms  parse <unnamed>: select * from loans where id = $1`,
      `${head}duration: 0.012 ms  bind <unnamed>: select * from loans where id = $1`,
      `2031-04-12 09:00:00.123 UTC [77] DETAIL:  parameters: $1 = '4'`,
      `${head}duration: 0.250 ms  execute <unnamed>: select * from loans`,
      '\twhere id = $1',
      `2031-04-12 09:00:00.123 UTC [77] DETAIL:  parameters: $1 = '4'`,
      `${head}statement: select 1`,
      `${head}duration: 2.000 ms`,
    ];
    expect(statements(log.join('\n'))).toEqual([
      { sql: 'select * from loans\nwhere id = $1', milliseconds: 0.25 },
      { sql: 'select 1', milliseconds: 2 },
    ]);
  });

  test('MariaDB writes its general log and its slow one', () => {
    const general =
      '310412  9:00:00\t    12 Connect\troot@localhost on library\n\t\t    12 Query\tselect * from loans\n\t\t    12 Query\tselect *\nfrom tags\n\t\t    12 Quit\t';
    expect(statements(general).map(({ sql }) => sql)).toEqual(['select * from loans', 'select *\nfrom tags']);
    const slow =
      '# Time: 310412  9:00:00\n# User@Host: root[root] @ localhost []\n# Query_time: 0.250000  Lock_time: 0.000100  Rows_sent: 1\nSET timestamp=1;\nselect * from loans;';
    expect(statements(slow)).toEqual([{ sql: 'select * from loans', milliseconds: 250 }]);
  });
});

test('statements that differ in their values alone are of one shape', () => {
  const shapes = [
    "SELECT * FROM loans WHERE id = 4 AND memo = 'it''s'",
    'select *\n  from loans where id = $1 and memo = $2',
    'select * from loans where id = ? and memo = :memo',
  ].map((sql) => shapeOf(sql));
  expect(new Set(shapes)).toEqual(new Set(['select * from loans where id = ? and memo = ?']));
  expect(shapeOf('select * from t2 where a in (1, 2, 3) and b is not null')).toBe(
    'select * from t2 where a in (?) and b is not null',
  );
  // What is a name elsewhere is a value in MariaDB.
  const quoted = 'select * from players where name = "Ines \\" Quill"';
  expect(shapeOf(quoted, 'text')).toBe('select * from players where name = ?');
  expect(shapeOf('select "name" from players')).toBe('select "name" from players');
  expect(shapeOf('select t1.c2 from t1 limit 10')).toBe('select t1.c2 from t1 limit ?');
});

describe('what is asked once for each row', () => {
  const times = (number: number, line: (at: number) => string) => Array.from({ length: number }, (_, at) => line(at + 1));

  test('by the key that the rows hold, is a load of the role that leads to many', () => {
    const {
      onceForEachRow,
      statements: all,
      shapes,
    } = report(['select * from players', ...times(40, (at) => `select * from loans where borrower_id = ${at}`)]);
    expect([all, shapes]).toEqual([41, 2]);
    expect(onceForEachRow.map(({ count, longestRun, load }) => [count, longestRun, load])).toEqual([
      [40, 40, { entity: 'Player', role: 'loans', relation: 'borrowing', line: 'load loans' }],
    ]);
  });

  test('by a key of its own, is a load of the rows that were read before', () => {
    const log = [
      'select * from loans order by due_on',
      ...times(9, (at) => `select * from "players" where "players"."id" = ${at} limit 1`),
    ];
    expect(report(log).onceForEachRow.map(({ load }) => load?.line)).toEqual(['load borrower']);
    expect(report(log).onceForEachRow[0]?.load).toMatchObject({ entity: 'Loan', relation: 'borrowing' });
  });

  test('over pairs, is told by the table that holds them', () => {
    const log = [
      'select * from players',
      ...times(5, (at) => `select e.* from ensembles e join seats s on s.ensemble_id = e.id where s.player_id = ${at}`),
    ];
    expect(report(log).onceForEachRow[0]?.load).toMatchObject({ entity: 'Player', role: 'ensembles', relation: 'seating' });
  });

  test('is nothing where a statement is asked now and then', () => {
    const log = times(30, (at) =>
      at % 2 === 0 ? `select * from loans where borrower_id = ${at}` : `select * from tags where id = ${at}`,
    );
    expect(report(log).onceForEachRow).toEqual([]);
  });
});

test('what cost most comes first, by time where there is any, and what has no index is told with the line that makes it', () => {
  const log = ['(90ms) select * from players where name = 4', '(1ms) select * from loans', '(1ms) select * from loans'];
  const { costliest, withoutIndex } = report(log);
  expect(costliest.map(({ milliseconds }) => milliseconds)).toEqual([90, 2]);
  expect(withoutIndex.map(({ unindexed }) => unindexed)).toEqual([{ entity: 'Player', columns: ['name'], line: 'index (name)' }]);
  expect(report(['select * from loans where borrower_id = 4 and due_on = 5']).withoutIndex).toEqual([]);
});

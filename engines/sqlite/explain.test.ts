import Database from 'better-sqlite3';
import { afterAll, describe, expect, test } from 'vitest';
import { explain } from './explain.js';

const db = new Database(':memory:');
db.exec(`create table players (id integer primary key, name text, email text unique);
  create table loans (id integer primary key, borrower_id int references players (id), due_on text);
  create index loans_borrower on loans (borrower_id)`);
afterAll(() => db.close());

const steps = (sql: string) => explain(db, sql).map(({ text, mark }) => `${mark === 'full scan' ? '!' : ''}${text}`);

describe('a plan in words', () => {
  test('says which rows are read, and how they are found', () => {
    expect(steps('select * from loans')).toEqual(['!reads every row of loans']);
    expect(steps('select * from loans where id = :id')).toEqual(['finds rows of loans by the key (rowid=?)']);
    expect(steps('select * from loans where borrower_id = :id')).toEqual([
      'finds rows of loans by index loans_borrower (borrower_id=?)',
    ]);
    expect(steps('select borrower_id from loans')).toEqual([
      '!reads every entry of index loans_borrower, and not the rows of loans',
    ]);
  });

  test('says when it sorts', () => {
    expect(steps('select * from players order by name')).toEqual(['!reads every row of players', 'sorts for order by']);
  });

  test('does not take keys that are bound for a scan', () => {
    const found = explain(db, 'select * from players where id in (select value from json_each(:keys))');
    expect(found.some(({ mark }) => mark === 'full scan')).toBe(false);
    expect(found.map(({ text }) => text)).toContain('goes through the keys that are bound');
  });

  test('tells what is asked for each row from what is asked once, one level deeper', () => {
    const found = explain(db, 'select name, (select count(due_on) from loans where borrower_id = players.id) from players');
    expect(found.map(({ depth, text }) => `${depth} ${text}`)).toEqual([
      '0 reads every row of players',
      '0 asks this for each row:',
      '1 finds rows of loans by index loans_borrower (borrower_id=?)',
    ]);
    expect(steps('select * from players where exists (select 1 from loans where borrower_id = players.id)').join()).toContain(
      'finds rows of loans by index loans_borrower',
    );
  });

  test('marks an index that is made for one run alone', () => {
    expect(steps('select * from players a join players b on a.name = b.name').join()).toContain('for this run alone');
  });

  test('that is measured counts a table that is read whole, whatever the statement calls it', () => {
    const found = (sql: string) => explain(db, sql, 'measured').map((step) => step.found);
    db.exec('insert into players (name) values (1), (2), (3)');
    expect(found('select players.name from players')).toEqual([3]);
    expect(found('select p.name from players p')).toEqual([3]);
    expect(found('select p.name from "players" as p where p.name = 1')).toEqual([3]);
    expect(found('select name from players where id = 1')).toEqual([null]);
    // A limit ends the reading, unless all is sorted before.
    expect(found('select name from players limit 1')).toEqual([null]);
    expect(found('select name from players order by name limit 1')).toEqual([3, null]);
  });

  test('of what cannot be explained is empty', () => {
    expect(explain(db, 'select * from nothing')).toEqual([]);
  });
});

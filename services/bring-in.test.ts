import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { temporaryFolder } from '../tests/database.js';
import { bringIn, bringInScript } from './index.js';

const folder = temporaryFolder();
const at = (name: string) => join(folder.path, name);
afterAll(() => folder.remove());

const print = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');

function made(path: string, sql: string): Database.Database {
  const db = new Database(path);
  db.exec(sql);
  return db;
}

describe('a database file', () => {
  test('is looked at where it lies, and nothing is written to it or beside it', async () => {
    made(at('plain.db'), 'create table a (id integer primary key)').close();
    const before = [print(at('plain.db')), ...readdirSync(folder.path)];
    const brought = await bringIn(at('plain.db'), 'Plain', at('plain.copy'));
    expect(brought).toMatchObject({ ok: true, value: { copied: null, path: at('plain.db') } });
    expect([print(at('plain.db')), ...readdirSync(folder.path)]).toEqual(before);
  });

  test('that is kept with a write-ahead log is copied, with what stands in the log, and says so', async () => {
    const writer = made(at('logged.db'), 'pragma journal_mode = wal; create table a (id integer primary key)');
    writer.exec('create table in_the_log (id integer primary key)');
    const before = print(at('logged.db'));
    const steps: string[] = [];
    const brought = await bringIn(at('logged.db'), 'Logged', at('logged.copy'), (step) => steps.push(step));
    expect(brought.ok && brought.value.copied).toContain('write-ahead log');
    expect(brought.ok && brought.value.path).toBe(at('logged.copy'));
    expect(brought.ok && brought.value.text).toContain('entity InTheLog');
    expect(steps[0]).toContain('Copied it');
    expect(print(at('logged.db'))).toBe(before);
    writer.close();
  });

  test('beside which a transaction was left half done is copied, and the transaction taken back there', async () => {
    const writer = made(at('writing.db'), 'create table a (id integer primary key); insert into a values (1)');
    writer.pragma('cache_spill = 1');
    writer.pragma('cache_size = 1');
    writer.exec('begin; create table half (id integer primary key, x text)');
    const fill = writer.prepare('insert into half values (null, ?)');
    for (let row = 0; row < 2000; row++) fill.run('x'.repeat(500));
    for (const suffix of ['', '-journal']) copyFileSync(`${at('writing.db')}${suffix}`, `${at('left.db')}${suffix}`);
    writer.exec('rollback');
    writer.close();
    const before = print(at('left.db'));
    const brought = await bringIn(at('left.db'), 'Left', at('left.copy'));
    expect(brought.ok && brought.value.copied).toContain('transaction half done');
    expect(brought.ok && brought.value.text).toContain('entity A in a');
    expect(brought.ok && brought.value.text).not.toContain('Half');
    expect(print(at('left.db'))).toBe(before);
    expect(existsSync(`${at('left.db')}-journal`)).toBe(true);
  });

  test('that is not there is told in words', async () => {
    const brought = await bringIn(at('nowhere.db'), 'Nowhere', at('nowhere.copy'));
    expect(brought.ok ? '' : brought.problem.message).toBe(
      'nowhere.db cannot be opened. Is it there, and may this program read it?',
    );
  });
});

describe('a SQL script', () => {
  const run = async (name: string, sql: string) => {
    writeFileSync(at(name), sql);
    return bringInScript(at(name), 'Script', at(`${name}.db`));
  };

  test('runs into a database of its own, whatever of the shell and of transactions it holds', async () => {
    const brought = await run(
      'dump.sql',
      `PRAGMA foreign_keys=OFF;
.mode list
BEGIN TRANSACTION;
CREATE TABLE players (id INTEGER PRIMARY KEY, branch_id INTEGER NOT NULL REFERENCES branches (id), note TEXT DEFAULT 'a;b'); -- a; comment
/* create table no (id); */
CREATE TABLE branches (id INTEGER PRIMARY KEY, name TEXT);
INSERT INTO players VALUES (1, 1, 'x''; drop table players; --');
CREATE TRIGGER t AFTER INSERT ON players BEGIN UPDATE branches SET name = CASE WHEN 1 THEN 'a' ELSE 'b' END; SELECT 1; END;
COMMIT;
SELECT count(*) FROM players;
`,
    );
    if (!brought.ok) throw new Error(brought.problem.message);
    expect(brought.value.script).toMatchObject({ made: 4, failures: 0, failed: [], refused: [] });
    expect(brought.value.text).toContain('Player knows one Branch as branch');
    expect(brought.value.text).toContain("kept 'CREATE TRIGGER t");
    const db = new Database(at('dump.sql.db'), { readonly: true });
    expect(db.prepare('select note from players').pluck().get()).toBe("x'; drop table players; --");
    db.close();
  });

  test('a statement that fails is told with its line, and the rest goes on', async () => {
    const brought = await run(
      'other.sql',
      'create table a (id integer primary key);\n\ncreate table b (id int auto_increment) engine=none;\ncreate table c (id integer primary key);\n',
    );
    expect(brought.ok && brought.value.script).toMatchObject({
      made: 2,
      failures: 1,
      failed: [{ line: 3, message: 'near "=": syntax error' }],
    });
  });

  test('nothing in it reaches beyond the new database', async () => {
    made(at('other.db'), 'create table secret (id)').close();
    const brought = await run(
      'reaching.sql',
      `create table a (id integer primary key);\nattach database '${at('other.db')}' as o;\ncreate table b as select * from o.secret;\nvacuum into '${at('out.db')}';\npragma writable_schema = on;\ncreate table c (id integer primary key); attach '${at('other.db')}' as p;\n`,
    );
    expect(brought.ok && brought.value.script).toMatchObject({
      made: 2,
      failures: 1,
      refused: [{ line: 2 }, { line: 4 }, { line: 6 }],
    });
    expect(existsSync(at('out.db'))).toBe(false);
  });

  test('one of which nothing runs is refused, with the first reason', async () => {
    const brought = await run('none.sql', 'this is no sql;\n');
    expect(brought.ok ? '' : brought.problem.message).toBe(
      'Nothing in this script runs on SQLite. It holds no statement that makes a table.',
    );
    const wrong = await run('wrong.sql', '\ncreate tabel a (id);\n');
    expect(wrong.ok ? '' : wrong.problem.message).toContain('Line 2: near "tabel": syntax error');
  });
});

test('500 tables are told in one text without an error, and the same text each time', async () => {
  const statements = Array.from({ length: 500 }, (_, index) => {
    const up =
      index === 0
        ? ''
        : `, parent_id integer references thing_${Math.floor(index / 3)} (id), other_id integer references thing_${index - 1} (id)`;
    return `create table thing_${index} (id integer primary key, name varchar(80) not null, made datetime${up})`;
  });
  made(at('many.db'), statements.join(';')).close();
  const brought = await bringIn(at('many.db'), 'Many', at('many.copy'));
  if (!brought.ok) throw new Error(brought.problem.message);
  expect(brought.value.report).toEqual([]);
  expect(readDesign(brought.value.text).findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  expect(brought.value.summary.was).toContain('500 tables');
  const again = await bringIn(at('many.db'), 'Many', at('many.copy'));
  expect(again.ok && again.value.text === brought.value.text).toBe(true);
}, 600_000);

test('a script that makes far more than it holds is ended, and told', async () => {
  const endless =
    'create table big (b);\ninsert into big with recursive n(i) as (select 1 union all select i + 1 from n) select randomblob(100000) from n;\n';
  writeFileSync(at('endless.sql'), endless);
  const brought = await bringInScript(at('endless.sql'), 'Endless', at('endless.db'));
  expect(brought).toMatchObject({ ok: false, problem: { message: expect.stringContaining('makes more than 64 MB') } });
});

import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../../core/design/index.js';
import { scriptOf, sqliteDialect } from '../../core/dialects/index.js';
import { importSchema } from '../../core/import/index.js';
import { catalogueOf } from '../../tests/catalogue.js';
import { temporaryFolder } from '../../tests/database.js';
import { openSqlite } from '../index.js';
import { introspect } from './introspect.js';
import { openDatabase } from './open.js';
import { problemOf } from './problems.js';

const GOOD = `
  create table branches (id integer primary key, name text not null unique, code text collate nocase default 'x');
  create table players (id integer primary key autoincrement, branch_id integer references branches (id) on delete cascade, name text check (length(name) < 40));
  create table seats (player_id integer references players, chair integer, note text, primary key (player_id, chair)) without rowid;
  create index by_name on players (lower(name)) where name is not null;
  create view everybody as select * from players;
  create trigger t after insert on players begin update branches set name = new.name where id = new.branch_id; end;
`;

function goodFile(pageSize: number): Buffer {
  const db = new Database(':memory:');
  db.pragma(`page_size = ${pageSize}`);
  db.exec(GOOD);
  const branch = db.prepare('insert into branches values (?, ?, ?)');
  const player = db.prepare('insert into players values (null, ?, ?)');
  for (let row = 1; row <= 30; row++) {
    branch.run(row, `Branch ${row}`, 'é'.repeat(row));
    player.run(row, `Player ${row}`);
  }
  return db.serialize();
}

/** Looks a file over as bringing in does; gives what a person would be told, or null where all was read. */
function lookedOver(file: Buffer | string, told: boolean): string | null {
  let db: Database.Database | null = null;
  try {
    db = openDatabase(file, 'look');
    const found = introspect(db);
    if (told) importSchema(found, 'Damaged');
    for (const { name } of found.schema.tables) db.prepare(`select count(*) from "${name.name.replaceAll('"', '""')}"`).get();
    return null;
  } catch (error) {
    // Anything but a problem in words is thrown on, and fails the test.
    return problemOf(error, 'damaged.db').message;
  } finally {
    db?.close();
  }
}

test('10,000 damaged files are each read as far as they can be, or refused in words', () => {
  const bases = [512, 1024, 4096].map(goodFile);
  const damage = fc.record({
    base: fc.nat(2),
    bytes: fc.noBias(fc.array(fc.tuple(fc.nat(99_999), fc.nat(255)), { minLength: 1, maxLength: 8 })),
    early: fc.boolean(),
    cut: fc.option(fc.double({ min: 0, max: 1, noNaN: true }), { freq: 8 }),
  });
  const folder = temporaryFolder();
  const path = join(folder.path, 'damaged.db');
  let refused = 0;
  let read = 0;
  let count = 0;
  fc.assert(
    fc.property(damage, ({ base, bytes, early, cut }) => {
      const good = bases[base] ?? Buffer.alloc(0);
      const damaged = Buffer.from(good);
      // Early damage meets the header and the catalogue, other damage the pages of rows and indexes.
      for (const [place, value] of bytes) damaged[early ? place % 600 : 100 + (place % (damaged.length - 100))] = value;
      const file = cut === null ? damaged : damaged.subarray(0, Math.max(1, Math.floor(cut * damaged.length)));
      count += 1;
      // Most are looked at in memory, which is the same code but for the file system; some as files.
      if (count % 20 === 0) writeFileSync(path, file);
      const told = lookedOver(count % 20 === 0 ? path : Buffer.from(file), count % 25 === 0);
      if (told === null) read += 1;
      else {
        refused += 1;
        expect(told).toMatch(/^damaged\.db (is|cannot|could|has|holds)|^SQLite could not/);
      }
    }),
    { numRuns: 10_000, seed: 5 },
  );
  folder.remove();
  expect(read).toBeGreaterThan(1000);
  expect(refused).toBeGreaterThan(1000);
}, 600_000);

describe('a catalogue that lies', () => {
  const lying = (sql: string): Buffer => {
    const db = new Database(':memory:');
    db.exec(GOOD);
    db.unsafeMode(true);
    db.pragma('writable_schema = on');
    db.exec(sql);
    return db.serialize();
  };
  const tablesIn = (file: Buffer) => {
    const db = openDatabase(file, 'look');
    const found = introspect(db);
    db.close();
    return found;
  };

  test.each([
    ['a statement that is none', "update sqlite_schema set sql = 'create table players (' where name = 'players'", 'players'],
    [
      '10,000 columns',
      `update sqlite_schema set sql = 'create table players (${Array.from({ length: 10_000 }, (_, at) => `c${at}`).join(',')})' where name = 'players'`,
      'players',
    ],
    ['another table’s statement', "update sqlite_schema set sql = 'create table other (id)' where name = 'players'", 'players'],
    ['a page that is not there', "update sqlite_schema set rootpage = 99999 where name = 'players'", null],
    ['an entry of no kind', "insert into sqlite_schema values ('thing', 'x', 'x', 0, 'create thing x')", null],
    ['no statement at all', "update sqlite_schema set sql = null where name = 'players'", 'players'],
    ['a name with NUL in it', "update sqlite_schema set name = 'pl' || char(0) || 'ay' where name = 'players'", 'pl\\u0000ay'],
  ])('%s costs that entry at most, and is told', (_what, sql, lost) => {
    const { schema, unreadable, statements } = tablesIn(lying(sql));
    const names = schema.tables.map(({ name }) => name.name);
    expect(names).toEqual(lost === null ? ['branches', 'players', 'seats'] : ['branches', 'seats']);
    const told = lost === null ? [] : [`The catalogue has an entry "${lost}" that SQLite cannot read; it is left out.`];
    expect(unreadable).toEqual(told);
    const { text } = importSchema({ dialect: 'sqlite', choices: [], schema, statements }, 'Lying');
    expect(readDesign(text).findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  });
});

test('names with quotes, brackets, line breaks and letters of all sorts come in and go out again', () => {
  const db = new Database(':memory:');
  db.exec(`
    create table "a ""quoted"" [name]" ("the ""id""" integer primary key, "with 'single'" text, "é ö 漢" text, "select" integer);
    create table "two
lines" ("col
umn" integer primary key, x text default 'a
b');
    create index "i""x" on "a ""quoted"" [name]" ("select");
    create view "v
w" as select * from "two
lines";
  `);
  const imported = importSchema(introspect(db), 'Names');
  expect(imported.report).toEqual([]);
  expect(imported.kept.some((line) => line.includes('one of its names holds a character'))).toBe(true);
  const back = new Database(':memory:');
  back.exec(scriptOf(sqliteDialect, readDesign(imported.text).schema));
  expect(catalogueOf(back)).toEqual(catalogueOf(db));
});

test('a file that another program changes while it is looked at is read whole, before or after', async () => {
  const folder = temporaryFolder();
  const path = join(folder.path, 'busy.db');
  const writer = new Database(path);
  writer.exec('create table t0 (id integer primary key)');
  const engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
  for (let round = 1; round <= 20; round++) {
    const looking = engine.introspect();
    writer.exec(
      `begin; create table t${round} (id integer primary key); create table u${round} (t_id integer references t${round}); commit`,
    );
    const looked = await looking;
    if (!looked.ok) throw new Error(looked.problem.message);
    const names = looked.value.schema.tables.map(({ name }) => name.name);
    expect(names.includes(`t${round}`)).toBe(names.includes(`u${round}`));
  }
  writer.exec('begin exclusive');
  const locked = await engine.introspect();
  expect(locked.ok ? '' : locked.problem.message).toContain('in use by another program');
  writer.exec('commit');
  writer.close();
  // Written over in the middle of it all, with something else.
  writeFileSync(path, Buffer.concat([readFileSync(path).subarray(0, 100), Buffer.alloc(20_000, 3)]));
  const broken = await engine.introspect();
  expect(broken.ok ? '' : broken.problem.code).toBe('damaged');
  writeFileSync(path, goodFile(1024));
  await engine.close();
  const again = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
  expect((await again.introspect()).ok).toBe(true);
  await again.close();
  folder.remove();
}, 600_000);

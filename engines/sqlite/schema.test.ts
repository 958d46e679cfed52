import { join } from 'node:path';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../../core/design/index.js';
import { scriptOf, sqliteDialect } from '../../core/dialects/index.js';
import { type Schema, triggerName } from '../../core/schema/index.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { temporaryFolder } from '../../tests/database.js';
import { openSqlite } from '../index.js';
import { introspect } from './introspect.js';

function databaseOf(text: string): Database.Database {
  const design = readDesign(text);
  expect(design.findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  const db = new Database(':memory:');
  db.pragma('foreign_keys = on');
  db.exec(scriptOf(sqliteDialect, design.schema));
  return db;
}

/** Constraints of a table are a set; the catalogue has an order of its own. */
function unordered(schema: Schema): unknown {
  const sorted = <T>(items: readonly T[]) => [...items].sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));
  return schema.tables.map((table) => ({
    ...table,
    name: table.name.name,
    foreignKeys: sorted(table.foreignKeys),
    uniques: sorted(table.uniques),
    checks: sorted(table.checks),
    indexes: sorted(table.indexes),
    // SQLite writes the first two words in capitals.
    triggers: table.triggers.flatMap((one) => {
      const statements = one.kind === 'made' ? sqliteDialect.trigger(one.trigger) : [one.sql];
      return statements.map((sql) => [triggerName(one), sql.replace(/^create trigger/i, 'create trigger')]);
    }),
  }));
}

test('for any model the SQL runs, and reading the schema back gives the same schema', () => {
  fc.assert(
    fc.property(arbitraryTree, (text) => {
      const design = readDesign(text);
      const db = databaseOf(text);
      expect(unordered(introspect(db).schema)).toEqual(unordered(design.schema));
      db.close();
    }),
    { numRuns: 250, seed: 7 },
  );
});

describe('the database keeps what the types say', () => {
  const text = `choice Shade
  'light'
  'it''s dark'

entity Thing
  id       integer key
  whole    integer optional
  big      bigint optional
  price    decimal(6, 2) optional
  long     decimal(30, 4) optional
  part     real optional
  yes      boolean optional
  short    text(3) optional
  day      date optional
  at       time optional
  moment   timestamp optional
  mark     uuid optional
  data     json optional
  raw      bytes optional
  shade    Shade optional
  size     text(1) optional in ('S', 'M')
`;
  const db = databaseOf(text);
  const put = (column: string, value: unknown) => db.prepare(`insert into things (${column}) values (?)`).run(value);

  test.each([
    ['whole', 2147483647],
    ['big', 9007199254740993n],
    ['price', 9999.99],
    ['long', '12345678901234567890.1234'],
    ['part', 0.5],
    ['yes', 1],
    ['short', 'äöü'],
    ['day', '2032-02-29'],
    ['at', '23:59:59'],
    ['at', '09:30:00.250000'],
    ['moment', '2031-04-12T09:00:00.000000Z'],
    ['mark', '0b0c1d2e-0000-4000-8000-00000000abcd'],
    ['data', '{"a":1}'],
    ['raw', Buffer.from([0, 255])],
    ['shade', "it's dark"],
    ['size', 'S'],
  ])('%s takes %s', (column, value) => {
    expect(put(column, value).changes).toBe(1);
  });

  test.each([
    ['whole', 2147483648],
    ['whole', 'many'],
    ['whole', 1.5],
    ['big', 'x'],
    ['price', 10000],
    ['price', 0.125],
    ['price', 'x'],
    ['long', 'x'],
    ['part', 'x'],
    ['part', Number.POSITIVE_INFINITY],
    ['yes', 2],
    ['short', 'abcd'],
    ['day', '2031-02-29'],
    ['day', '12.04.2031'],
    ['day', 2031],
    ['at', '25:00:00'],
    ['moment', '2031-04-12 09:00:00'],
    ['moment', '2031-13-12T09:00:00.000000Z'],
    ['mark', '0B0C1D2E-0000-4000-8000-00000000ABCD'],
    ['data', '{a'],
    ['raw', 'text'],
    ['shade', 'dark'],
    ['size', 'L'],
  ])('%s refuses %s', (column, value) => {
    expect(() => put(column, value)).toThrow(/CHECK constraint failed/);
  });
});

describe('a script', () => {
  test('quotes names that are SQL, and cannot be broken out of', () => {
    const db = databaseOf(
      'entity Order in "order"\n  id integer key\n  "select" text\n  "a""; drop table x; --" text optional\n',
    );
    const columns = db.prepare("select name from pragma_table_info('order')").pluck().all();
    expect(columns).toEqual(['id', 'select', 'a"; drop table x; --']);
  });

  test('cuts long generated names and tells them apart', () => {
    const long = 'a_very_long_name_for_a_field_that_nobody_would_ever_want_to_type';
    const { schema } = readDesign(`entity Thing\n  id integer key\n  ${long}_one text(3)\n  ${long}_two text(3)\n`);
    const names = schema.tables[0]?.checks.map((check) => check.name ?? '') ?? [];
    expect(new Set(names).size).toBe(names.length);
    for (const name of names) expect(name.length).toBeLessThanOrEqual(63);
  });

  test('a like in a check keeps its case whatever the session says', () => {
    const db = databaseOf("entity Thing\n  id integer key\n  code text(9)\n  check marked: code like 'A_%'\n");
    expect(db.prepare('insert into things (code) values (?)').run('Ab1').changes).toBe(1);
    expect(() => db.prepare('insert into things (code) values (?)').run('ab1')).toThrow(/things_marked/);
  });
});

describe('bad files are told in words', () => {
  const folder = temporaryFolder();
  const open = async (name: string, content: Buffer | null) => {
    const path = join(folder.path, name);
    if (content !== null) await import('node:fs').then(({ writeFileSync }) => writeFileSync(path, content));
    const engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
    const outcome = await engine.introspect();
    await engine.close();
    return outcome.ok ? 'opened' : `${outcome.problem.code}: ${outcome.problem.message}`;
  };

  test('no database, or an encrypted one', async () => {
    expect(await open('notes.db', Buffer.from('a'.repeat(5000)))).toMatch(
      /^not-a-database: notes\.db is no SQLite database, or it is encrypted/,
    );
  });

  test('a damaged one', async () => {
    const path = join(folder.path, 'whole.db');
    const db = new Database(path);
    db.exec('create table t (x text); create index i on t (x)');
    const insert = db.prepare('insert into t values (?)');
    for (let row = 0; row < 2000; row++) insert.run('x'.repeat(100));
    db.close();
    const { readFileSync } = await import('node:fs');
    const bytes = readFileSync(path);
    bytes.fill(0xff, 100, 4096);
    expect(await open('broken.db', bytes)).toMatch(/^damaged: broken\.db is damaged/);
  });

  test('one that is not there', async () => {
    expect(await open('nowhere.db', null)).toMatch(/^missing: /);
  });
});

test('what a file says beside its catalogue is told where a text does not carry it', () => {
  const db = new Database(':memory:');
  db.exec(
    "pragma encoding = 'UTF-16le'; pragma auto_vacuum = full; create table t (id integer primary key); pragma user_version = 7; pragma application_id = 9",
  );
  expect(introspect(db).unreadable).toEqual([
    'The file’s user_version, 7, is not carried.',
    'The file’s application_id, 9, is not carried.',
    'The file’s encoding, UTF-16le, is not carried.',
    'The file’s auto_vacuum, 1, is not carried.',
  ]);
  db.close();
});

import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type Design, readDesign, statedSqlOf } from '../core/design/index.js';
import { fillDatabase } from '../services/index.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf } from '../tests/engines.js';
import { hostileText, type Targets } from '../tests/hostile-sql.js';
import { type Engine, openEmbedded, openMariadb, openPostgres, openScratch, type ServerAccess } from './index.js';
import { rawRows } from './raw-rows.js';
import { make } from './sqlite/make.js';
import { openDatabase } from './sqlite/open.js';

/** How many texts are tried on each engine; more with STATED_SQL in the environment. */
const RUNS = Number(process.env.STATED_SQL ?? 1200) / 4;
const SEED = 41;

const folder = temporaryFolder();
afterAll(() => folder.remove());

/** What a person is told of stated SQL that keeps to its database must be so: only that is made without a second look. */
function keepsToItself(design: Design): boolean {
  return statedSqlOf(design.model, design.dialect.name).every(({ reaches }) => reaches.length === 0);
}

/** Tries texts one after the other; what befell the targets is asked after each few. */
async function tryTexts(
  texts: readonly string[],
  tried: (design: Design) => Promise<void>,
  unharmed: () => Promise<unknown>,
): Promise<void> {
  const before = await unharmed();
  let stated = 0;
  for (const [index, text] of texts.entries()) {
    const design = readDesign(text);
    if (statedSqlOf(design.model, design.dialect.name).length > 0) stated += 1;
    if (keepsToItself(design)) await tried(design);
    if (index % 25 === 24 || index === texts.length - 1)
      expect(await unharmed(), texts.slice(index - 24, index + 1).join('\n')).toEqual(before);
  }
  // The test would mean nothing if none came through.
  expect(stated).toBeGreaterThan(texts.length / 50);
}

const textsFor = (dialect: 'sqlite' | 'postgres' | 'mariadb', targets: Targets) =>
  fc.sample(hostileText(dialect, targets), { numRuns: RUNS, seed: SEED });

test('nothing that a text states reaches another file, on SQLite', async () => {
  const targets = { database: join(folder.path, 'other.db'), file: join(folder.path, 'not-there') };
  new Database(targets.database).exec('create table users (id int); insert into users values (1), (2)').close();
  const unharmed = async () => [readFileSync(targets.database).toString('base64').length, existsSync(targets.file)];
  const untouched = readFileSync(targets.database);
  await tryTexts(
    textsFor('sqlite', targets),
    async (design) => {
      const path = join(folder.path, 'scratch.db');
      const db = openDatabase(path, 'make', 16 * 1024 * 1024);
      try {
        const { before, after } = design.dialect.steps(design.schema);
        make(
          db,
          {
            before,
            after,
            inserts: [{ table: { schema: null, name: 'things' }, columns: ['id'], rows: [[1n], [2n]] }],
            keys: [],
            marked: false,
          },
          () => undefined,
        );
      } catch (error) {
        if (!(error instanceof Database.SqliteError) && !(error instanceof RangeError)) throw error;
      } finally {
        db.close();
        for (const ending of ['', '-wal', '-shm', '-journal']) rmSync(`${path}${ending}`, { force: true });
      }
    },
    unharmed,
  );
  expect(readFileSync(targets.database).equals(untouched)).toBe(true);
}, 1_200_000);

describe('what a SQLite database of this program’s own can do', () => {
  const open = () => openDatabase(join(folder.path, 'own.db'), 'make', 1024 * 1024);

  test.each([
    [`attach '${join(folder.path, 'a.db')}' as a`, /too many attached/],
    [`vacuum into '${join(folder.path, 'b.db')}'`, /too many attached/],
    ["select load_extension('x')", /not authorized/],
    ['create table a (b); create table c (d)', /more than one statement/],
  ])('%s is refused', (sql, why) => {
    const db = open();
    expect(() => {
      const statement = db.prepare(sql);
      return statement.reader ? statement.all() : statement.run();
    }).toThrow(why);
    db.close();
    expect(existsSync(join(folder.path, 'a.db')) || existsSync(join(folder.path, 'b.db'))).toBe(false);
  });

  test('it grows to its limit and no further', () => {
    const db = open();
    db.prepare('create table big (b)').run();
    expect(() =>
      db
        .prepare('insert into big with recursive n(i) as (select 1 union all select i + 1 from n) select randomblob(9999) from n')
        .run(),
    ).toThrow(/full/);
    db.close();
  });
});

describe('on a server', () => {
  let access: (engine: 'postgres' | 'mariadb', database?: string) => ServerAccess;
  beforeAll(() => {
    const servers = inject('servers');
    access = (engine, database) => {
      const address = addressOf(servers[engine]);
      return {
        address: database === undefined ? address : { ...address, database },
        password: servers.password,
        place: null,
        label: engine,
        milliseconds: 20_000,
      };
    };
  });
  const told = async (engine: Engine, ...statements: string[]) => {
    const done = await engine.execute(statements);
    if (!done.ok) throw new Error(done.problem.message);
  };

  test('nothing that a text states reaches another database, the server or its files, on PostgreSQL', async () => {
    const admin = openPostgres(access('postgres'));
    const targets = { database: 'canary_of_texts', file: join(folder.path, 'postgres-canary') };
    await admin.execute([`drop database if exists ${targets.database}`]);
    await told(admin, `create database ${targets.database}`);
    const unharmed = async () => {
      const names = await rawRows(
        admin,
        "select (select count(*) from pg_database where datname = 'canary_of_texts'), (select count(*) from pg_roles where rolname = 'canary_eater'), (select count(*) from pg_tablespace)",
        {},
      );
      return [names, existsSync(targets.file)];
    };
    const scratch = await openScratch(
      { kind: 'server', access: access('postgres') },
      { stem: 'hostile', name: 'r1', first: true },
    );
    if (!scratch.ok) throw new Error(scratch.problem.message);
    const { engine } = scratch.value;
    await tryTexts(
      textsFor('postgres', targets),
      async (design) => {
        await told(engine, 'drop schema if exists public cascade', 'create schema public');
        await fillDatabase(design, engine);
      },
      unharmed,
    );
    await scratch.value.remove();
    await admin.execute([`drop database if exists ${targets.database}`]);
    await admin.close();
  }, 900_000);

  test('nothing that a text states reaches another database, the server or its files, on MariaDB', async () => {
    const admin = openMariadb(access('mariadb'));
    const targets = { database: 'canary_of_texts', file: join('/tmp', `mariadb-canary-${process.pid}`) };
    await told(
      admin,
      `drop database if exists ${targets.database}`,
      `create database ${targets.database}`,
      `create table ${targets.database}.users (id int)`,
      `insert into ${targets.database}.users values (1), (2)`,
    );
    const unharmed = async () => [
      await rawRows(admin, `select count(*) from ${targets.database}.users`, {}),
      await rawRows(admin, `select count(*) from information_schema.tables where table_schema = '${targets.database}'`, {}),
      await rawRows(admin, "select count(*) from mysql.global_priv where user = 'canary_eater'", {}),
      await rawRows(admin, 'select @@global.max_connections', {}),
      existsSync(targets.file),
    ];
    let made = 0;
    await tryTexts(
      textsFor('mariadb', targets),
      async (design) => {
        made += 1;
        const scratch = await openScratch(
          { kind: 'server', access: access('mariadb') },
          { stem: 'hostile', name: `r${made}`, first: true, design },
        );
        if (!scratch.ok) return;
        await fillDatabase(design, scratch.value.engine);
        await scratch.value.remove();
      },
      unharmed,
    );
    await told(admin, `drop database ${targets.database}`);
    await admin.close();
  }, 900_000);

  test.each([
    ['postgres', 'select 1; create role canary_eater'],
    ['mariadb', 'select 1; create user canary_eater'],
  ] as const)('%s is given one statement at a time, whatever a text made of it', async (name, sql) => {
    const engine = name === 'postgres' ? openPostgres(access(name)) : openMariadb(access(name));
    expect(await engine.execute([sql])).toMatchObject({ ok: false });
    expect(await engine.make({ before: [sql], inserts: [], keys: [], marked: false, after: [] })).toMatchObject({ ok: false });
    const roles =
      name === 'postgres'
        ? "select count(*) from pg_roles where rolname = 'canary_eater'"
        : "select count(*) from mysql.global_priv where user = 'canary_eater'";
    const counted = await rawRows(engine, roles, {});
    expect(counted.ok && Number(counted.value[0]?.[0])).toBe(0);
    await engine.close();
  });

  test('a table or SQL that names another database of a MariaDB server is refused before anything is made', async () => {
    const scratch = (text: string) =>
      openScratch(
        { kind: 'server', access: access('mariadb') },
        { stem: 'outside', name: 'r1', first: true, design: readDesign(text, 'mariadb') },
      );
    const placed = await scratch("tree 'A'\n  dialect mariadb\n\nentity A in mysql.mine\n  id integer key\n");
    expect(placed).toMatchObject({ ok: false, problem: { code: 'refused', message: expect.stringContaining('mysql.mine') } });
    const stated = await scratch(
      "tree 'A'\n  dialect mariadb\n\nentity A in mine\n  id integer key\n  kept 'create trigger t after insert on mine for each row delete from mysql.user'\n",
    );
    expect(stated).toMatchObject({ ok: false, problem: { code: 'refused', message: expect.stringContaining('names mysql') } });
  });

  test('where a login may make a schema only, a text that states SQL or another schema is refused', async () => {
    const admin = openPostgres(access('postgres'));
    await admin.execute(['drop role if exists small_login']);
    const { password } = access('postgres');
    await told(
      admin,
      `create role small_login login nocreatedb password '${password ?? ''}'`,
      'grant create on database postgres to small_login',
    );
    const small = {
      ...access('postgres', 'postgres'),
      address: { ...addressOf(inject('servers').postgres), user: 'small_login', database: 'postgres' },
    };
    const scratch = (text: string) =>
      openScratch(
        { kind: 'server', access: small },
        { stem: 'small', name: 'r1', first: false, design: readDesign(text, 'postgres') },
      );
    expect(await scratch("tree 'A'\n  dialect postgres\n\nentity A in public.mine\n  id integer key\n")).toMatchObject({
      ok: false,
      problem: { message: expect.stringContaining('public.mine would stand in another schema') },
    });
    expect(
      await scratch("tree 'A'\n  dialect postgres\n  kept 'create view v as select 1'\n\nentity A in mine\n  id integer key\n"),
    ).toMatchObject({ ok: false, problem: { message: expect.stringContaining('could reach the other schemas') } });
    await admin.execute(['drop owned by small_login cascade', 'drop role small_login']);
    await admin.close();
  });
});

describe('an embedded PostgreSQL', () => {
  test('nothing that a text states reaches the engine’s own rights or files', async () => {
    const targets = { database: 'template1', file: join(folder.path, 'embedded-file') };
    const embedded = openEmbedded({ folder: join(folder.path, 'tried'), label: 'The embedded PostgreSQL', milliseconds: 60_000 });
    const engine = embedded.at(null);
    const unharmed = async () => [
      await rawRows(
        engine,
        "select (select count(*) from pg_database), (select count(*) from pg_roles where rolname = 'canary_eater'), (select count(*) from pg_tablespace)",
        {},
      ),
      existsSync(targets.file),
    ];
    await tryTexts(
      textsFor('postgres', targets),
      async (design) => {
        await engine.execute(['drop schema if exists public cascade', 'create schema public']);
        await fillDatabase(design, engine);
      },
      unharmed,
    );
    await embedded.close();
  }, 900_000);

  test('reaches no file but its own, which others may not read; a broken one is told', async () => {
    const own = join(folder.path, 'embedded');
    const embedded = openEmbedded({ folder: own, label: 'The embedded PostgreSQL', milliseconds: 60_000 });
    const engine = embedded.at(null);
    const file = join(folder.path, 'embedded-canary');
    expect(await engine.execute([`copy (select 1) to '${file}'`])).toMatchObject({ ok: false, problem: { code: 'refused' } });
    expect(await rawRows(engine, "select pg_read_file('/etc/passwd')", {})).toMatchObject({ ok: false });
    expect(await engine.execute(['create role canary_eater superuser'])).toMatchObject({ ok: false });
    expect(await engine.execute(['select 1; create table two (a int)'])).toMatchObject({ ok: false });
    await embedded.close();
    expect(statSync(own).mode & 0o077).toBe(0);
    const open = readdirSync(own, { withFileTypes: true, recursive: true }).filter(
      (entry) => entry.isFile() && (statSync(join(entry.parentPath, entry.name)).mode & 0o077) !== 0,
    );
    expect(open.map(({ name }) => name)).toEqual([]);
    expect(existsSync(file)).toBe(false);
    writeFileSync(join(own, 'PG_VERSION'), 'not one\n');
    const broken = openEmbedded({ folder: own, label: 'The embedded PostgreSQL', milliseconds: 60_000 });
    expect(await rawRows(broken.at(null), 'select 1', {})).toMatchObject({ ok: false, problem: { code: 'damaged' } });
    await broken.close();
  }, 600_000);
});

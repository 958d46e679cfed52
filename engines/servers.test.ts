import { readFileSync } from 'node:fs';
import { type AddressInfo, connect, createServer, type Socket } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { fillDatabase, runQuery } from '../services/index.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { shapeOf } from '../tests/shape.js';
import { type Engine, lookAround, openAt, openEmbedded, openMariadb, openScratch } from './index.js';
import { rawRows } from './raw-rows.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const SERVERS = ['postgres', 'mariadb'] as const;

function accessTo(
  name: 'postgres' | 'mariadb',
  more: { user?: string; password?: string | null; database?: string; milliseconds?: number } = {},
) {
  const servers = inject('servers');
  const address = addressOf(servers[name]);
  return {
    address: { ...address, user: more.user ?? address.user, database: more.database ?? address.database },
    password: more.password === undefined ? servers.password : more.password,
    place: null,
    label: 'The test server',
    milliseconds: more.milliseconds ?? 20_000,
  };
}

async function valuesOf(engine: Engine, sql: string): Promise<unknown[]> {
  const read = await rawRows(engine, sql, {});
  if (!read.ok) throw new Error(read.problem.message);
  return read.value.map(([value]) => value);
}

describe.each(SERVERS)('a login on %s', (name) => {
  test('with a wrong password is told so, and the password is in no message', async () => {
    const engine = openAt(accessTo(name, { password: 'not & this' }));
    const looked = await engine.introspect();
    expect(looked).toMatchObject({ ok: false, problem: { code: 'login' } });
    expect(JSON.stringify(looked)).not.toContain('not & this');
    await engine.close();
  });

  test('to a port where nothing listens is told so', async () => {
    const access = accessTo(name);
    const engine = openAt({ ...access, address: { ...access.address, port: 1 } });
    expect(await engine.introspect()).toMatchObject({ ok: false, problem: { code: 'unreachable' } });
    await engine.close();
  });

  test('to a database that is not there is told so', async () => {
    const engine = openAt(accessTo(name, { database: 'no_such_database' }));
    expect(await engine.introspect()).toMatchObject({ ok: false, problem: { code: 'missing' } });
    await engine.close();
  });

  test('over TLS is let in; a certificate that nobody vouches for is refused where it is checked, and taken with its authority', async () => {
    const access = accessTo(name);
    const over = (tls: 'on' | 'checked', authority: string | null) =>
      lookAround({ ...access, address: { ...access.address, host: 'localhost', tls, authority } });
    expect(await over('on', null)).toMatchObject({ ok: true });
    expect(await over('checked', null)).toMatchObject({ ok: false, problem: { code: 'unreachable' } });
    const authority = readFileSync(join(inject('servers').folder, 'server.crt'), 'utf8');
    expect(await over('checked', authority)).toMatchObject({ ok: true });
  });

  test('that may not create databases is found out, and what works without is said', async () => {
    const admin = openAt(accessTo(name));
    await admin.execute(
      name === 'postgres'
        ? [
            'drop role if exists looker',
            "create role looker login password 'only looks'",
            'revoke create on schema public from public',
          ]
        : ["create or replace user 'looker'@'%' identified by 'only looks'", "grant select on mysql.help_topic to 'looker'@'%'"],
    );
    const access = accessTo(name, {
      user: 'looker',
      password: 'only looks',
      database: name === 'postgres' ? 'postgres' : 'mysql',
    });
    const looked = await lookAround(access);
    expect(looked).toMatchObject({
      ok: true,
      value: { powers: null, limits: expect.arrayContaining([expect.stringContaining('It may')]) },
    });
    const scratch = await openScratch({ kind: 'server', access }, { stem: 'looker', name: 'r1', first: true });
    expect(scratch).toMatchObject({
      ok: false,
      problem: { code: 'refused', message: expect.stringContaining('can be looked at') },
    });
    await admin.close();
  });
});

describe.each(SERVERS)('a statement on %s', (name) => {
  const endless = { postgres: 'select pg_sleep(60)', mariadb: 'select sleep(60)' };
  const running = {
    postgres: "select count(*) from pg_stat_activity where query like 'select pg_sleep(60)%' and state = 'active'",
    mariadb: "select count(*) from information_schema.processlist where info = 'select sleep(60)'",
  };

  test('past its limit is ended on the server, and the next call goes on', async () => {
    const engine = openAt(accessTo(name, { milliseconds: 700 }));
    const watcher = openAt(accessTo(name));
    expect(await rawRows(engine, endless[name], {})).toMatchObject({ ok: false, problem: { code: 'timeout' } });
    await expect.poll(async () => Number((await valuesOf(watcher, running[name]))[0])).toBe(0);
    expect((await valuesOf(engine, 'select 1')).map(Number)).toEqual([1]);
    await engine.close();
    await watcher.close();
  });

  test('that a person stops is ended on the server', async () => {
    const engine = openAt(accessTo(name));
    const watcher = openAt(accessTo(name));
    const stopping = new AbortController();
    const asked = rawRows(engine, endless[name], {}, { signal: stopping.signal });
    await expect.poll(async () => Number((await valuesOf(watcher, running[name]))[0])).toBe(1);
    stopping.abort();
    expect(await asked).toMatchObject({ ok: false, problem: { code: 'ended', message: 'Stopped.' } });
    await expect.poll(async () => Number((await valuesOf(watcher, running[name]))[0])).toBe(0);
    await engine.close();
    await watcher.close();
  });

  test('over a network that goes dead is waited for no longer than its limit', async () => {
    const access = accessTo(name, { milliseconds: 1000 });
    const { host, port } = access.address;
    const sockets: Socket[] = [];
    const proxy = createServer((near) => {
      const far = connect(port, host);
      sockets.push(near, far);
      near.pipe(far).pipe(near);
      for (const socket of [near, far]) socket.on('error', () => undefined);
    });
    await new Promise<void>((done) => proxy.listen(0, '127.0.0.1', done));
    const engine = openAt({ ...access, address: { ...access.address, port: (proxy.address() as AddressInfo).port } });
    expect((await valuesOf(engine, 'select 1')).map(Number)).toEqual([1]);
    for (const socket of sockets) socket.unpipe().pause();
    proxy.removeAllListeners('connection');
    expect(await rawRows(engine, 'select 2', {})).toMatchObject({ ok: false, problem: { code: 'timeout' } });
    for (const socket of sockets) socket.destroy();
    proxy.close();
    await engine.close();
  });

  test('that reads can write nothing', async () => {
    const engine = openAt(accessTo(name, { database: name === 'postgres' ? 'postgres' : 'mysql' }));
    const refused = await rawRows(engine, 'create table sneaked_in (id int)', {});
    // MariaDB refuses it in a transaction that only reads; PostgreSQL does so, too.
    expect(refused).toMatchObject({ ok: false, problem: { code: 'refused' } });
    await engine.close();
  });

  test('after the server ended the connection goes over a new one', async () => {
    const engine = openAt(accessTo(name));
    const other = openAt(accessTo(name));
    const [id] = await valuesOf(engine, name === 'postgres' ? 'select pg_backend_pid()' : 'select connection_id()');
    await other.execute([name === 'postgres' ? `select pg_terminate_backend(${String(id)})` : `kill ${String(id)}`]);
    const answers = [await rawRows(engine, 'select 1', {}), await rawRows(engine, 'select 1', {})];
    expect(answers.at(-1)).toMatchObject({ ok: true });
    await engine.close();
    await other.close();
    expect(await rawRows(engine, 'select 1', {})).toMatchObject({ ok: false, problem: { message: 'This database is closed.' } });
  });
});

describe('a scratch database', () => {
  test.each(SERVERS)('on %s is made, and gone when it is removed', async (name) => {
    const admin = openAt(accessTo(name));
    const there = async () =>
      valuesOf(
        admin,
        name === 'postgres'
          ? "select datname from pg_database where datname like 'family_tree_stem%' order by 1"
          : "select schema_name from information_schema.schemata where schema_name like 'family_tree_stem%' order by 1",
      );
    const first = await openScratch({ kind: 'server', access: accessTo(name) }, { stem: 'stem', name: 'r1', first: true });
    const second = await openScratch({ kind: 'server', access: accessTo(name) }, { stem: 'stem', name: 'r2', first: false });
    if (!first.ok || !second.ok) throw new Error('no scratch database');
    expect(await there()).toEqual(['family_tree_stem_r1', 'family_tree_stem_r2']);
    await second.value.remove();
    expect(await there()).toEqual(['family_tree_stem_r1']);
    // What a program that was ended left behind is taken away by the next.
    await first.value.engine.close();
    const next = await openScratch({ kind: 'server', access: accessTo(name) }, { stem: 'stem', name: 'r3', first: true });
    expect(await there()).toEqual(['family_tree_stem_r3']);
    if (next.ok) await next.value.remove();
    await admin.close();
  });
});

describe('MariaDB’s silent traps', () => {
  const TEXT = `tree 'Traps'
  clock '2031-04-12 09:00'

entity Item
  id    bigint key
  code  text(30)

entity Part
  code  text(30) key

relation parts
  Part knows one Item as item
  Item knows many Part as parts
  on delete cascade

sample Item
  big: id 9223372036854775807, code 'x'
  small: id 1, code 'y'

sample Part
  a: code 'a rather long code, 25 c.', item Item(big)
  b: code 'a rather long code, 25 d.', item Item(small)
`;

  test('keys at the end of their type are found again, and not clamped to another', async () => {
    const made = await makeOn(engines, 'mariadb', TEXT);
    const run = async (query: string) => {
      const outcome = await runQuery(made.design, made.database.engine, {
        query: { kind: 'text', text: query, parameters: [] },
        parameters: {},
        sampleKeys: made.made.sampleKeys,
        madeHere: true,
        rowLimit: 100,
      });
      if (!outcome.ok) throw new Error(outcome.problems.join());
      return JSON.parse(outcome.answer.text) as Record<string, unknown>[];
    };
    const items = await run('from Item\nwhere id > 0\nload parts (code)');
    const codes = items.flatMap((item) => (item.parts as { code: string }[]).map(({ code }) => [item.id, code]));
    expect(codes).toContainEqual(['9223372036854775807', 'a rather long code, 25 c.']);
    expect(codes).toContainEqual(['1', 'a rather long code, 25 d.']);
    await made.database.remove();
  });

  test('an aggregate of text is not cut at a megabyte', async () => {
    const engine = openMariadb(accessTo('mariadb', { database: 'mysql' }));
    const [length] = await valuesOf(engine, "select length(group_concat(repeat('x', 1000) separator '')) from seq_1_to_3000");
    expect(Number(length)).toBe(3_000_000);
    await engine.close();
  });

  test('a rule that it would drop is an error before any SQL, and every rule that is made is read back', async () => {
    const dropped = readDesign(TEXT.replace('on delete cascade', 'on delete set default'), 'mariadb');
    expect(dropped.findings).toContainEqual(expect.objectContaining({ weight: 'error', code: 'not-on-dialect' }));
    const made = await makeOn(engines, 'mariadb', TEXT);
    const read = await made.database.engine.introspect();
    const keys = read.ok ? read.value.schema.tables.flatMap(({ foreignKeys }) => foreignKeys) : [];
    expect(keys).toMatchObject([{ columns: ['item_id'], table: 'items', onDelete: 'cascade' }]);
    await made.database.remove();
  });

  test('statements that make tables commit by themselves; where one fails, nothing of the scratch database is left', async () => {
    const scratch = await openScratch({ kind: 'server', access: accessTo('mariadb') }, { stem: 'half', name: 'r1', first: true });
    if (!scratch.ok) throw new Error(scratch.problem.message);
    const request = { inserts: [], keys: [], marked: false, after: [] };
    const made = await scratch.value.engine.make({
      ...request,
      before: ['create table a (id int)', 'create table b (id nonsense)'],
    });
    expect(made).toMatchObject({ ok: false, problem: { code: 'statement' } });
    await scratch.value.remove();
    const admin = openMariadb(accessTo('mariadb'));
    expect(await valuesOf(admin, "select schema_name from information_schema.schemata where schema_name like '%half%'")).toEqual(
      [],
    );
    await admin.close();
  });
});

describe('what a schema says', () => {
  const RULES = `entity Hall
  id    integer key
  name  text(40) unique
  seats integer default 10
  check some: seats between 1 and 5000
  index (seats)

entity Concert
  id     uuid key
  title  text
  on     date

relation halls
  Concert knows at most one Hall as hall
  Hall knows many Concert as concerts
  on delete set null

relation players
  Concert knows many Hall as tours
  Hall knows many Concert as visits
  stored in table stops (concert_id, hall_id)
    nth  integer
`;

  test.each(['postgres', 'embedded', 'mariadb'] as const)(
    'is what %s reads back: columns, keys, uniques, rules, indexes',
    async (name: EngineName) => {
      const made = await makeOn(engines, name, RULES);
      const read = await made.database.engine.introspect();
      if (!read.ok) throw new Error(read.problem.message);
      expect(shapeOf(read.value.schema.tables)).toEqual(shapeOf(made.design.schema.tables));
      await made.database.remove();
    },
  );

  test.each(SERVERS)('on %s refuses rows that break it, each by its constraint', async (name) => {
    const made = await makeOn(engines, name, RULES);
    const { engine } = made.database;
    const report = await engine.make({
      before: [],
      after: [],
      keys: [],
      marked: false,
      inserts: [
        {
          table: { schema: null, name: 'halls' },
          columns: ['id', 'name', 'seats'],
          rows: [
            [900, 'one', 5],
            [901, 'one', 5],
            [902, 'two', 0],
            [903, null, 5],
            [904, 'x'.repeat(41), 5],
          ],
        },
      ],
    });
    if (!report.ok) throw new Error(report.problem.message);
    expect(report.value.rows).toEqual({ halls: 1 });
    expect(report.value.refused.map(({ constraint }) => constraint)).toEqual([
      'halls_name_unique',
      'halls_some',
      expect.stringMatching(/null/),
      expect.stringMatching(/too long/),
    ]);
    await made.database.remove();
  });
});

test('an embedded PostgreSQL keeps its folder for itself, and a statement past its limit ends its process, not its data', async () => {
  const folder = temporaryFolder();
  const options = { folder: join(folder.path, 'own'), label: 'The embedded one', milliseconds: 240_000 };
  const first = openEmbedded(options);
  expect(await first.at(null).execute(['create table kept (id int)', 'insert into kept values (7)'])).toMatchObject({ ok: true });
  const second = openEmbedded(options);
  expect(await rawRows(second.at(null), 'select 1', {})).toMatchObject({ ok: false, problem: { code: 'busy' } });
  await second.close();
  const endless = rawRows(
    first.at(null),
    'select count(*) from generate_series(1, 100000000000)',
    {},
    { signal: AbortSignal.timeout(500) },
  );
  expect(await endless).toMatchObject({ ok: false, problem: { code: 'ended' } });
  expect(await valuesOf(first.at(null), 'select id from kept')).toEqual(['7']);
  await first.close();
  folder.remove();
}, 600_000);

test('a design without rows is made on every engine, and an answer from it is empty', async () => {
  for (const name of ['sqlite', 'postgres', 'embedded', 'mariadb'] as const) {
    const database = await engines.open(name);
    const design = readDesign('entity Nobody\n  id integer key\n\nsample Nobody 0\n', name === 'embedded' ? 'postgres' : name);
    expect(await fillDatabase(design, database.engine)).toMatchObject({ ok: true, value: { rows: {} } });
    await database.remove();
  }
});

import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { importSchema, shapesOf } from '../core/import/index.js';
import { bringInScriptEmbedded, bringInScriptOn, bringInServer, fillDatabase, runQuery } from '../services/index.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf, carriesOut, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { wholeMariadb, wholePostgres } from '../tests/whole-catalogue.js';
import type { Engine, Introspection } from './index.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const SERVERS = ['postgres', 'mariadb'] as const;
const script = (name: string) => join(import.meta.dirname, `../tests/scripts/${name}.sql`);

async function lookedAt(engine: Engine): Promise<Introspection> {
  const looked = await engine.introspect();
  if (!looked.ok) throw new Error(looked.problem.message);
  return looked.value;
}

/** All that a database says, table by table, in an order of its own. */
function saidBy(found: Introspection): unknown {
  const tables = found.schema.tables.map((table) => ({
    name: [table.name.schema, table.name.name],
    shape: shapesOf(found, table),
    indexes: table.indexes.map((index) => [index.name, index.unique, index.columns, index.sql]).sort(),
    triggers: [...table.triggers].sort(),
    comments: [table.comment, ...table.columns.map(({ comment }) => comment)],
  }));
  return {
    tables: tables.sort((a, b) => (String(a.name) < String(b.name) ? -1 : 1)),
    others: [...found.schema.prelude, ...found.schema.others].sort(),
  };
}

const everythingOn = (name: EngineName, engine: Engine) => (name === 'mariadb' ? wholeMariadb(engine) : wholePostgres(engine));

/** Brings a database in, makes another from the text, and gives what both say. */
async function roundTrip(
  name: EngineName,
  from: Engine,
): Promise<{ before: unknown; after: unknown; report: readonly string[]; text: string }> {
  const before = await lookedAt(from);
  const imported = importSchema(before, 'Brought in');
  const design = readDesign(imported.text);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  const other = await engines.open(name);
  try {
    const made = await fillDatabase(design, other.engine);
    if (!made.ok) throw new Error(`${made.problem.message}\n${imported.text}`);
    const after = await lookedAt(other.engine);
    // Not only what is read of a catalogue is the same: all that it has is.
    if (name !== 'sqlite') expect(await everythingOn(name, other.engine)).toEqual(await everythingOn(name, from));
    expect(importSchema(after, 'Brought in').text).toBe(imported.text);
    return { before: saidBy(before), after: saidBy(after), report: imported.report, text: imported.text };
  } finally {
    await other.remove();
  }
}

describe.each(SERVERS)('a database on %s, with all that a catalogue can say', (name) => {
  test('is brought in so that its text makes the same database again, and nothing is left out', async () => {
    const database = await engines.open(name);
    const ran = await database.engine.runScript(script(name));
    expect(ran).toMatchObject({ ok: true, value: { failures: 0, refused: [] } });
    const { before, after, report } = await roundTrip(name, database.engine);
    expect(report).toEqual([]);
    expect(after).toEqual(before);
    await database.remove();
  });

  test('is told in sentences: enumerated types as choices, comments as notes, keys as relations', async () => {
    const database = await engines.open(name);
    await database.engine.runScript(script(name));
    const { text } = importSchema(await lookedAt(database.engine), 'Shop');
    expect(text).toContain("\n  'it''s odd'\n");
    expect(text).toContain("note 'As on the door'");
    expect(text).toMatch(/tone +\w+ default 'dull'/);
    expect(text).toContain('Player knows one Branch as branch');
    expect(text).toMatch(/knows many \w+ as \w+\n {2}stored in table seats/);
    await database.remove();
  });
});

test.each(SERVERS)('of keys of which a check on %s counts those that are filled, one relation is told', async (name) => {
  const database = await engines.open(name);
  const count = {
    postgres: 'num_nonnulls(player_id, branch_id) = 1',
    mariadb: '(player_id is not null) + (branch_id is not null) = 1',
  };
  const made = await database.engine.execute([
    'create table players (id integer not null primary key)',
    'create table branches (id integer not null primary key)',
    `create table photos (id integer not null primary key, player_id integer, branch_id integer, check (${count[name]}),
      foreign key (player_id) references players (id), foreign key (branch_id) references branches (id))`,
    'create index of_player on photos (player_id)',
    'create index of_both on photos (branch_id, player_id)',
  ]);
  expect(made.ok).toBe(true);
  const { text } = importSchema(await lookedAt(database.engine), 'Shop');
  expect(text).toContain('Photo knows one Player | Branch as');
  expect(text).toContain('stored in one of Photo.player_id, Photo.branch_id');
  const { before, after, report } = await roundTrip(name, database.engine);
  expect(report).toEqual([]);
  expect(after).toEqual(before);
  await database.remove();
});

/** Things that stand on each other across what is usually made first, and such as have more to them than one sees. */
const STANDING_ON_EACH_OTHER = [
  'create domain letters as text collate "C" check (length(value) < 20)',
  'create table players (id integer primary key, name letters not null, size integer, fee numeric(6,2))',
  'create function least_fee() returns numeric language sql stable as $$ select coalesce(min(fee), 1) from players $$',
  "create function told(p players) returns text language sql stable as $$ select p.name || '!' $$",
  'create function one_player() returns players language plpgsql as $$ declare p players%rowtype; begin select * into p from players limit 1; return p; end $$',
  'create function how_many() returns bigint stable begin atomic select count(*) from players; end',
  'create view small_players with (security_barrier=true) as select id, told(players.*) as told from players where size < 3',
  'create view invoked with (security_invoker=true, check_option=local) as select id, name from players where id > 0',
  'create function small_ones() returns setof small_players language sql as $$ select * from small_players $$',
  'create table loans (id integer primary key, player_id integer references players (id), fee numeric(6,2) default least_fee(), seen bigint default how_many(), about text, check (how_many() >= 0 or id > 0))',
  'alter table loans add constraint long_ago check (id > 5) not valid',
  'alter table loans add constraint another foreign key (seen) references players (id) not valid'.replace('(seen)', '(id)'),
  'create function keep() returns trigger language plpgsql as $$ begin return new; end $$',
  'create trigger kept before insert on loans for each row execute function keep()',
  'create trigger kept_always before update on loans for each row execute function keep()',
  'alter table loans disable trigger kept',
  'alter table loans enable always trigger kept_always',
  'create table rooms (id integer primary key, part text) partition by list (id)',
  'create table rooms_one partition of rooms for values in (1)',
  'create statistics about_players (dependencies) on name, size from players',
];

test('what stands on what in PostgreSQL is made in an order that works, with all that is said beside it', async () => {
  const database = await engines.open('postgres');
  for (const sql of STANDING_ON_EACH_OTHER) {
    const ran = await database.engine.execute([sql]);
    if (!ran.ok) throw new Error(`${ran.problem.message}\n${sql}`);
  }
  const { before, after, report, text } = await roundTrip('postgres', database.engine);
  expect(report).toEqual([]);
  expect(after).toEqual(before);
  expect(JSON.stringify(after)).toContain('security_invoker=true');
  expect(text).toContain('create domain letters as text collate "C"');
  // A script is made in the same order.
  const { schema, dialect } = readDesign(text);
  const other = await engines.open('postgres');
  const script = await other.engine.execute(['set check_function_bodies = off', ...dialect.createStatements(schema)]);
  expect(script).toMatchObject({ ok: true });
  await other.remove();
  await database.remove();
});

const ODD_ON_MARIADB = [
  'create table branches (id int primary key auto_increment, code int not null, town varchar(20) not null, key by_code (code))',
  'create table players (id int primary key auto_increment, branch_code int, mentor_id int, constraint of_branch foreign key (branch_code) references branches (code), constraint mentored foreign key (mentor_id) references players (id) on update cascade)',
  "create table tokens (id int primary key auto_increment, raw binary(4) not null default x'00ff27c3', part varbinary(6) default x'27005c', name varchar(8) default 'a\\'b')",
  'create table held (id int not null, n int, m int, key by_n (n) using btree, key by_m (m) using hash, primary key (id)) engine=memory',
  'create table looked (id int primary key, a int, b int, key by_a (a) ignored, unique key by_b (b) ignored)',
  'create algorithm=merge sql security invoker view open_branches as select id, code from branches where code > 3 with cascaded check option',
  'create algorithm=temptable view counted as select count(*) as n from branches',
  'create view local_ones as select id, code from branches where code > 5 with local check option',
  'create function twice(n int) returns int deterministic sql security invoker return n * 2',
];

test('what MariaDB alone has is brought in with it', async () => {
  const database = await engines.open('mariadb');
  for (const sql of ODD_ON_MARIADB) {
    const ran = await database.engine.execute([sql]);
    if (!ran.ok) throw new Error(`${ran.problem.message}\n${sql}`);
  }
  const { before, after, report, text } = await roundTrip('mariadb', database.engine);
  expect(report).toEqual([]);
  expect(after).toEqual(before);
  const carried = readDesign(text).findings.find(({ code }) => code === 'not-on-dialect');
  expect(carried).toMatchObject({ weight: 'warning' });
  expect(carried?.message).toContain('does not carry a changed key on within one table');
  await database.engine.execute(['create event tidy on schedule every 1 day do delete from tokens']);
  expect((await lookedAt(database.engine)).unreadable).toEqual(['The event tidy is not carried.']);
  await database.remove();
});

test('what a text does not carry of PostgreSQL is said, thing by thing', async () => {
  const database = await engines.open('postgres');
  const ran = await database.engine.execute([
    'create unlogged table logs (id integer primary key, line text)',
    'alter table logs alter column line set storage external',
    'alter table logs alter column line set statistics 300',
    'alter table logs replica identity full',
    'grant select on logs to public',
    'create function f() returns int language sql as $$ select 1 $$',
    'revoke execute on function f() from public',
    "comment on function f() is 'one'",
    'alter table logs cluster on logs_pkey',
  ]);
  expect(ran).toMatchObject({ ok: true });
  const { unreadable } = await lookedAt(database.engine);
  expect([...unreadable].sort()).toEqual([
    'How logs.line is stored is not carried.',
    'How many values of logs.line the server keeps count of is not carried.',
    'That logs_pkey orders the rows of logs is not carried.',
    'The comment on function f() is not carried.',
    'The table logs is unlogged, and is made logged.',
    'What tells the rows of logs apart for a replica is not carried.',
    'Who may do what with 2 things is not carried: f(), logs.',
  ]);
  await database.remove();
});

test.each(SERVERS)(
  'for any model that is made on %s, bringing it in gives a text that makes the same',
  async (name) => {
    await fc.assert(
      fc.asyncProperty(arbitraryTree, async (text) => {
        fc.pre(carriesOut(name, text));
        const made = await makeOn(engines, name, text);
        try {
          const { before, after, report } = await roundTrip(name, made.database.engine);
          expect(report).toEqual([]);
          expect(after).toEqual(before);
        } finally {
          await made.database.remove();
        }
      }),
      { numRuns: 6, seed: 17, endOnFailure: true },
    );
  },
  600_000,
);

test('what came in from a server is asked there, and its rows arrive', async () => {
  const database = await engines.open('postgres');
  await database.engine.runScript(script('postgres'));
  await database.engine.execute(["insert into branches (name) values ('North'), ('South')"]);
  const { address } = database;
  if (address === null) throw new Error('no address');
  const access = { address, password: inject('servers').password, place: null, label: 'Shop', milliseconds: 20_000 };
  const brought = await bringInServer(access, 'Shop', { schemas: ['public'], tables: null });
  if (!brought.ok) throw new Error(brought.problem.message);
  expect(brought.value.existing.schema.tables.every((table) => table.name.schema === null)).toBe(true);
  const answer = await runQuery(readDesign(brought.value.text), database.engine, {
    query: { kind: 'text', text: 'from Branch\norder by name desc\nload players', parameters: [] },
    parameters: {},
    sampleKeys: {},
    madeHere: false,
    rowLimit: 10,
  });
  if (!answer.ok) throw new Error(answer.problems.join());
  const rows = JSON.parse(answer.answer.text) as Record<string, unknown>[];
  expect(rows.map((row) => [row.name, row.tone, row.area, row.tags, row.players])).toEqual([
    ['South', 'dull', '0.50', '{}', []],
    ['North', 'dull', '0.50', '{}', []],
  ]);
  await database.remove();
});

describe('a script', () => {
  test('for PostgreSQL runs into an embedded one, with the rows that it copies', async () => {
    const folder = temporaryFolder();
    const brought = await bringInScriptEmbedded(script('postgres-dump'), 'Dump', join(folder.path, 'own'));
    if (!brought.ok) throw new Error(brought.problem.message);
    expect(brought.value.script).toMatchObject({ failures: 0, refused: [{ sql: expect.stringMatching(/^CREATE ROLE/) }] });
    expect(brought.value.text).toContain('entity Branch');
    folder.remove();
  }, 600_000);

  test.each(SERVERS)('for %s runs into a scratch database on a server, which is gone afterwards', async (name) => {
    const servers = inject('servers');
    const access = {
      address: addressOf(servers[name]),
      password: servers.password,
      place: null,
      label: name,
      milliseconds: 60_000,
    };
    const brought = await bringInScriptOn(access, script(name), 'Script');
    if (!brought.ok) throw new Error(brought.problem.message);
    expect(brought.value.script).toMatchObject({ failures: 0 });
    expect(brought.value.report).toEqual([]);
  });
});

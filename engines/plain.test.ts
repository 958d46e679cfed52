import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { runPlain, runQuery } from '../services/index.js';
import { makeTestDatabase } from '../tests/database.js';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { type Engine, openMariadb, openPostgres } from './index.js';

const TEXT = `entity Player
  id    integer key
  name  text(80)

entity Loan
  id      integer key
  due_on  date
  paid    decimal(6, 2) optional

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

sample Player 40
sample Loan 2000
  paid 12.50
`;

const NAMES: readonly EngineName[] = ['sqlite', 'postgres', 'embedded', 'mariadb'];
const LIMITS = { rows: 100, size: 1_000_000 };
const PASSWORD = 'reads only';

let engines: Engines;
const made = new Map<EngineName, MadeTree>();
beforeAll(async () => {
  engines = openEngines(inject('servers'));
  for (const name of NAMES) made.set(name, name === 'sqlite' ? await lookedAt() : await makeOn(engines, name, TEXT));
}, 600_000);
afterAll(async () => {
  for (const { database } of made.values()) await database.remove();
  await engines.close();
});

/** A file that is only looked at, as whoever runs SQL on one does. */
async function lookedAt(): Promise<MadeTree> {
  const { design, engine, made: making, close } = await makeTestDatabase(TEXT);
  return { name: 'sqlite', design, database: { engine, address: null, remove: close }, made: making };
}

function treeOn(name: EngineName): MadeTree {
  const tree = made.get(name);
  if (tree === undefined) throw new Error(`nothing was made on ${name}`);
  return tree;
}

/** The same database by a login that may read its tables and nothing else. */
async function asReader(name: 'postgres' | 'mariadb', use: (engine: Engine) => Promise<void>): Promise<void> {
  const { database } = treeOn(name);
  const login = `reader_${randomUUID().slice(0, 8)}`;
  const { address } = database;
  if (address === null) throw new Error(`${name} has no address`);
  const place = address.database;
  const begin =
    name === 'postgres'
      ? [
          `create role ${login} login password '${PASSWORD}'`,
          'revoke create on schema public from public',
          `grant select on all tables in schema public to ${login}`,
        ]
      : [`create user ${login} identified by '${PASSWORD}'`, `grant select, show view on ${place}.* to ${login}`];
  const end = name === 'postgres' ? [`drop owned by ${login}`, `drop role ${login}`] : [`drop user ${login}`];
  const told = await database.engine.execute(begin);
  if (!told.ok) throw new Error(told.problem.message);
  const access = {
    address: { ...address, user: login },
    password: PASSWORD,
    place: null,
    milliseconds: 3000,
    label: 'the server',
  };
  const engine = name === 'postgres' ? openPostgres(access) : openMariadb(access);
  try {
    await use(engine);
  } finally {
    await engine.close();
    await database.engine.execute(end);
  }
}

async function problemOf(engine: Engine, sql: string): Promise<string> {
  const read = await engine.readPlain(sql, LIMITS);
  return read.ok ? 'it was run' : read.problem.message;
}

describe('plain SQL', () => {
  test('on a SQLite file answers with the columns and values that the statement gives, and its plan', async () => {
    const { engine } = treeOn('sqlite').database;
    const sql = "select id, name, id as id, x'00ff' as bytes, null, 9007199254740993 from players order by id limit 1";
    const outcome = await runPlain(engine, sql, { rows: 10 });
    if (!outcome.ok) throw new Error(outcome.problem.message);
    const [row] = JSON.parse(outcome.value.text) as Record<string, unknown>[];
    expect(row).toMatchObject({ id: 1, id_2: 1, bytes: "x'00ff'", null: null, '9007199254740993': '9007199254740993' });
    expect(outcome.value.entry.steps[0]?.text).toContain('players');
  });

  test('is cut where it brings more than is let through, by rows and by size', async () => {
    const { engine } = treeOn('sqlite').database;
    const many = await engine.readPlain(
      'with recursive c(n) as (select 1 union all select n + 1 from c) select n from c',
      LIMITS,
    );
    expect(many.ok && [many.value.rows.length, many.value.cut]).toEqual([100, true]);
    const large = await engine.readPlain('select hex(zeroblob(400000)) from loans', LIMITS);
    expect(large.ok && [large.value.rows.length, large.value.cut]).toEqual([1, true]);
  });

  test('that never gives a row is ended, and the next is answered', async () => {
    const { engine } = treeOn('sqlite').database;
    const stop = AbortSignal.timeout(500);
    const endless = 'with recursive c(n) as (select 1 union all select n + 1 from c) select count(*) from c';
    expect(await engine.readPlain(endless, LIMITS, { signal: stop })).toMatchObject({ ok: false, problem: { code: 'ended' } });
    expect((await engine.readPlain('select 1', LIMITS)).ok).toBe(true);
  });

  test('that the engine has no table for says so', async () => {
    expect(await problemOf(treeOn('sqlite').database.engine, 'select * from nothing')).toContain('nothing');
  });

  test('is off where the login may do more than read, with what that is', async () => {
    for (const name of ['postgres', 'embedded', 'mariadb'] as const) {
      const why = await problemOf(treeOn(name).database.engine, 'select 1');
      expect(why, name).toContain('a login that may only read');
    }
    expect(await problemOf(treeOn('postgres').database.engine, 'select 1')).toContain('is a superuser');
    expect(await problemOf(treeOn('mariadb').database.engine, 'select 1')).toContain('may do ALL PRIVILEGES');
  });

  test.each(['postgres', 'mariadb'] as const)(
    'on %s is answered by a login that may only read',
    async (name) => {
      await asReader(name, async (engine) => {
        const read = await engine.readPlain('select id, paid, due_on from loans order by id', { rows: 3, size: 10_000 });
        if (!read.ok) throw new Error(read.problem.message);
        expect(read.value.columns).toEqual(['id', 'paid', 'due_on']);
        expect(read.value.rows.map(([id, paid]) => [id, String(paid)])).toEqual([1, 2, 3].map((id) => [id, '12.50']));
        expect(read.value.cut).toBe(true);
        expect(read.value.steps.length).toBeGreaterThan(0);
        // The connection is as good as before, and no row was waited for in vain.
        expect(await engine.readPlain('select count(*) from loans', LIMITS)).toMatchObject({
          ok: true,
          value: { rows: [[2000]] },
        });
        expect((await engine.readPlain('explain select * from loans', LIMITS)).ok).toBe(true);
        expect(await problemOf(engine, 'select * from nothing')).toContain('nothing');
        const endless = name === 'postgres' ? 'select pg_sleep(60)' : 'select count(*) from loans a, loans b, loans c, loans d';
        expect(await problemOf(engine, endless)).toMatch(/took longer|Stopped after/);
      });
    },
    600_000,
  );

  test('is off for a login with one right too many', async () => {
    await asReader('postgres', async (engine) => {
      const { database } = treeOn('postgres');
      const login = await engine.readPlain('select current_user', LIMITS);
      const name = login.ok ? String(login.value.rows[0]?.[0]) : '';
      await database.engine.execute([`grant update (due_on) on loans to ${name}`]);
      expect(await problemOf(engine, 'select 1')).toContain('may write to columns of public.loans');
      await database.engine.execute([`revoke update (due_on) on loans from ${name}`, `grant pg_read_server_files to ${name}`]);
      expect(await problemOf(engine, 'select 1')).toContain('has the rights of pg_read_server_files');
    });
    await asReader('mariadb', async (engine) => {
      const { database } = treeOn('mariadb');
      const login = await engine.readPlain("select substring_index(current_user(), '@', 1)", LIMITS);
      const name = login.ok ? String(login.value.rows[0]?.[0]) : '';
      await database.engine.execute([`grant file on *.* to ${name}`]);
      expect(await problemOf(engine, 'select 1')).toContain('may do FILE on *.*');
    });
  }, 600_000);
});

test('a plan that is measured says what each step found, where the engine counts it', async () => {
  for (const name of NAMES) {
    const { design, database, made: making } = treeOn(name);
    const request = {
      query: { kind: 'text' as const, text: 'from Loan\nwhere paid > 1\nload borrower', parameters: [] },
      parameters: {},
      sampleKeys: making.sampleKeys,
      madeHere: true,
      rowLimit: 5000,
    };
    const expected = await runQuery(design, database.engine, request);
    const measured = await runQuery(design, database.engine, { ...request, explained: 'measured' });
    if (!expected.ok || !measured.ok) throw new Error(`${name} does not answer`);
    expect(measured.answer.text).toBe(expected.answer.text);
    expect(expected.answer.log.flatMap(({ steps }) => steps.filter(({ found }) => found !== null))).toEqual([]);
    const [root] = measured.answer.log;
    const scan = root?.steps.find(({ text }) => /every row of loans/.test(text));
    expect(scan, name).toMatchObject({ found: 2000 });
    if (name !== 'sqlite') expect(scan?.expected, name).toBeGreaterThan(0);
  }
}, 600_000);

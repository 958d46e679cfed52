import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { importSchema, shapesOf } from '../core/import/index.js';
import { bringInPostgresScript, bringInScriptOn, bringInServer, fillDatabase, runQuery } from '../services/index.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf, carriesOut, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
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
  120_000,
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
    const brought = await bringInPostgresScript(script('postgres-dump'), 'Dump', join(folder.path, 'own'));
    if (!brought.ok) throw new Error(brought.problem.message);
    expect(brought.value.script).toMatchObject({ failures: 0, refused: [{ sql: expect.stringMatching(/^CREATE ROLE/) }] });
    expect(brought.value.text).toContain('entity Branch');
    folder.remove();
  }, 120_000);

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

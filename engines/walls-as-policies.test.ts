import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { hasTable } from '../core/model/index.js';
import type { Engine } from '../engines/index.js';
import { wallsAsScript } from '../services/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { SEASON } from '../tests/season-tree.js';
import { keysSeen } from '../tests/seen-keys.js';

const ROLE = `walled_${randomUUID().slice(0, 8)}`;

let engines: Engines;
let library: MadeTree;
let season: MadeTree;
beforeAll(async () => {
  engines = openEngines(inject('servers'));
  library = await makeOn(engines, 'postgres', AUDITED_LIBRARY);
  season = await makeOn(engines, 'postgres', SEASON);
  await done(library.database.engine, `create role ${ROLE}`);
  for (const { design, database } of [library, season]) {
    const made = wallsAsScript(design, 'policies');
    if ('problem' in made) throw new Error(made.problem);
    await done(database.engine, ...made.statements, 'create table kept (key text)');
    await done(
      database.engine,
      `grant select, insert, update, delete on all tables in schema public to ${ROLE}`,
      `grant usage on all sequences in schema public to ${ROLE}`,
    );
  }
}, 60_000);
afterAll(async () => {
  const { engine } = library.database;
  await season.database.engine.execute([`drop owned by ${ROLE}`]);
  await engine.execute([`drop owned by ${ROLE}`, `drop role ${ROLE}`]);
  await library.database.remove();
  await season.database.remove();
  await engines.close();
});

async function done(engine: Engine, ...statements: readonly string[]): Promise<void> {
  const outcome = await engine.execute(statements);
  if (!outcome.ok) throw new Error(outcome.problem.message);
}

/** What comes of statements in a session that is kept by policies, as somebody. */
function executedAs(engine: Engine, key: string | null, ...statements: readonly string[]): ReturnType<Engine['execute']> {
  return engine.execute([
    'begin',
    `select set_config('at_work.key', '${key ?? ''}', true)`,
    `set local role ${ROLE}`,
    ...statements,
    'commit',
  ]);
}

/** The keys that a session sees of a table, and those that the program lets the same actor see. */
async function seenOf(
  { design, database: { engine } }: MadeTree,
  entity: string,
  as: { readonly key: string | null; readonly named: string },
): Promise<{ readonly session: readonly string[]; readonly program: readonly string[] }> {
  const known = design.model.entities.get(entity);
  if (known === undefined) throw new Error(`no ${entity}`);
  const columns = known.key.columns.map((name) => `${name}::text`).join(" || '/' || ");
  await done(engine, 'delete from kept');
  const kept = await executedAs(engine, as.key, `insert into kept select ${columns} from ${known.table.value.name}`);
  expect(kept).toMatchObject({ ok: true });
  const rows = await engine.ask('select key from kept order by key');
  return {
    session: rows.ok ? rows.value.map(([key]) => String(key)).sort() : [],
    program: await keysSeen(design, engine, entity, as.named),
  };
}

test.each([
  { key: '1', named: 'Player(1)' },
  { key: '3', named: 'Player(3)' },
  { key: '4', named: 'Player(4)' },
  { key: null, named: 'nobody' },
])('a session that works as $named sees by policies what the program lets them see', async (as) => {
  for (const entity of library.design.model.entities.values()) {
    if (!hasTable(entity)) continue;
    const { session, program } = await seenOf(library, entity.name, as);
    expect({ entity: entity.name, keys: session }).toEqual({ entity: entity.name, keys: program });
  }
});

test.each([
  { key: 'ada', named: "Member('ada')" },
  { key: 'cai', named: "Member('cai')" },
  { key: null, named: 'nobody' },
])('over keys of texts and of two parts, and kinds in tables of their own, $named sees the same', async (as) => {
  for (const entity of season.design.model.entities.values()) {
    if (!hasTable(entity)) continue;
    const { session, program } = await seenOf(season, entity.name, as);
    expect({ entity: entity.name, keys: session }).toEqual({ entity: entity.name, keys: program });
  }
});

test('what is behind a wall is not changed, deleted or made, and nothing is moved there', async () => {
  const { engine } = library.database;
  const fees = async () => {
    const rows = await engine.ask('select id, fee, borrower_id from loans order by id');
    return JSON.stringify(rows.ok ? rows.value : []);
  };
  const before = await fees();
  // Rows that are not seen are not there: nothing is changed, and nothing is said.
  for (const statement of ['update loans set fee = 7 where id = 4', 'delete from loans where id = 4'])
    expect(await executedAs(engine, '1', statement)).toMatchObject({ ok: true });
  expect(await fees()).toBe(before);
  for (const statement of [
    'insert into loans (fee, borrower_id) values (1, 3)',
    'update loans set borrower_id = 3 where id = 1',
    'update loans set fee = 70 where id = 1',
  ]) {
    const outcome = await executedAs(engine, '1', statement);
    expect({ statement, ok: outcome.ok, said: outcome.ok ? '' : outcome.problem.message }).toMatchObject({
      ok: false,
      said: expect.stringContaining('stays within the walls'),
    });
    await engine.execute(['rollback']);
  }
  expect(await fees()).toBe(before);
  expect(await executedAs(engine, '1', 'update loans set fee = 8 where id = 1')).toMatchObject({ ok: true });
  expect(await fees()).not.toBe(before);
  // Whoever owns the tables is kept from nothing.
  await done(engine, 'update loans set borrower_id = 3, fee = 3 where id = 1', 'update loans set borrower_id = 1 where id = 1');
  expect(await fees()).toBe(before);
});

test('what policies cannot say is said, and an engine without them is told so', () => {
  const made = wallsAsScript(library.design, 'policies');
  expect('notes' in made && made.notes.join('\n')).toContain('Whoever owns the tables is not kept');
  expect(wallsAsScript(readDesign(AUDITED_LIBRARY, 'sqlite'), 'policies')).toMatchObject({
    problem: expect.stringContaining('Print the walls as views'),
  });
});

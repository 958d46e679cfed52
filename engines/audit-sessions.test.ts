import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { hasLeaks, isWhole, waysTried } from '../core/audit/index.js';
import type { Design } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Engine } from '../engines/index.js';
import { type AuditState, auditWalls, type HeldByDatabase, lacksScript, wallsAsScript } from '../services/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { makeTestDatabase } from '../tests/database.js';
import { type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { SEASON } from '../tests/season-tree.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const ROLE = `session_${randomUUID().slice(0, 8)}`;
const TREES = [
  ['the library with every form', AUDITED_LIBRARY],
  ['the season', SEASON],
  ['the library with walls on write', WALLED_LIBRARY],
] as const;

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

async function audited(design: Design, engine: Engine, heldBy: HeldByDatabase, writes = false): Promise<AuditState> {
  const sampleKeys = namedKeys(design.model, NOW);
  const lookedAt = { design, engine, sampleKeys, madeHere: true };
  expect(await lacksScript(lookedAt, heldBy, {})).toBeNull();
  return auditWalls(lookedAt, writes ? { engine, schemas: null } : null, { now: NOW, heldBy });
}

function expectHeld(state: AuditState): void {
  expect(state.leaks).toEqual([]);
  expect(hasLeaks(state)).toBe(false);
  expect(state.untried.filter(({ ways }) => ways === 0)).toEqual([]);
  expect(isWhole(state)).toBe(true);
  expect(waysTried(state).tried).toBeGreaterThan(100);
}

async function scriptIn(engine: Engine, design: Design, how: HeldByDatabase['how']): Promise<void> {
  const made = wallsAsScript(design, how);
  if ('problem' in made) throw new Error(made.problem);
  expect(await engine.execute(made.statements)).toMatchObject({ ok: true });
}

const VIEWS: HeldByDatabase = { how: 'views', role: null };

test.each(TREES)(
  'no way leads round the views of %s in SQLite',
  async (_, text) => {
    const { design, engine, close } = await makeTestDatabase(text);
    try {
      expectHeld(await audited(design, engine, VIEWS));
    } finally {
      await close();
    }
  },
  120_000,
);

test.each((['postgres', 'mariadb'] as const).flatMap((name) => TREES.map((tree) => [name, ...tree] as const)))(
  'on %s no way leads round the views of %s',
  async (name: EngineName, _, text) => {
    const { design, database } = await makeOn(engines, name, text);
    try {
      await scriptIn(database.engine, design, 'views');
      expectHeld(await audited(design, database.engine, VIEWS));
    } finally {
      await database.remove();
    }
  },
  240_000,
);

/** A library on PostgreSQL that policies keep, with a role that owns nothing of it. */
async function withPolicies<T>(text: string, work: (design: Design, engine: Engine) => Promise<T>): Promise<T> {
  const { design, database } = await makeOn(engines, 'postgres', text);
  const { engine } = database;
  try {
    await scriptIn(engine, design, 'policies');
    expect(
      await engine.execute([
        `create role ${ROLE}`,
        `grant select, insert, update, delete on all tables in schema public to ${ROLE}`,
      ]),
    ).toMatchObject({ ok: true });
    return await work(design, engine);
  } finally {
    await engine.execute([`drop owned by ${ROLE}`, `drop role ${ROLE}`]);
    await database.remove();
  }
}

const POLICIES: HeldByDatabase = { how: 'policies', role: ROLE };

test.each(TREES)(
  'no way leads round the policies of %s, to read or to write',
  async (_, text) => {
    await withPolicies(text, async (design, engine) => {
      const state = await audited(design, engine, POLICIES, true);
      expectHeld(state);
      expect(state.ways['delete in a session']?.held).toBeGreaterThan(0);
    });
  },
  240_000,
);

test('whoever owns the tables is kept by no policy, and the audit says so', async () => {
  await withPolicies(AUDITED_LIBRARY, async (design, engine) => {
    const state = await audited(design, engine, { ...POLICIES, role: null });
    expect(hasLeaks(state)).toBe(true);
  });
}, 240_000);

test('a policy that was taken from the database leaks where it stood: rows are seen, changed and deleted', async () => {
  await withPolicies(AUDITED_LIBRARY, async (design, engine) => {
    expect(await engine.execute(['alter table loans disable row level security'])).toMatchObject({ ok: true });
    const { ways, leaks } = await audited(design, engine, POLICIES, true);
    expect(leaks.map(({ entity }) => entity)).toContain('Loan');
    for (const way of ['find by key', 'update in a session', 'delete in a session'])
      expect({ way, leaked: (ways[way]?.leaked ?? 0) > 0 }).toEqual({ way, leaked: true });
    // The tries themselves leave everything as it was.
    const rows = await engine.ask('select count(*) from loans');
    expect(rows.ok && Number(rows.value[0]?.[0])).toBe(5);
  });
}, 240_000);

test('a view of another text lets out what it should not, and one that is missing is named', async () => {
  const { design, database } = await makeOn(engines, 'mariadb', AUDITED_LIBRARY);
  const { engine } = database;
  try {
    const lookedAt = { design, engine, sampleKeys: {}, madeHere: true };
    expect(await lacksScript(lookedAt, VIEWS, {})).toContain('seen_');
    await scriptIn(engine, design, 'views');
    expect(await engine.execute(['create or replace view seen_loans as select * from loans'])).toMatchObject({ ok: true });
    const { leaks } = await audited(design, engine, VIEWS);
    expect(leaks.map(({ entity, statement }) => [entity, statement.includes('seen_loans')])).toContainEqual(['Loan', true]);
  } finally {
    await database.remove();
  }
}, 240_000);

import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { entityOf, KIND_NAME, lineage, type PolymorphicRole, type Role } from '../core/model/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { type AnswerRow, type LookedAt, type RowsRequest, roleCounts, rowOrder, rowWindow, runQuery } from './index.js';

const MOST_WALKED = 3;

async function keysOf(browsed: LookedAt, request: RowsRequest, what: string): Promise<readonly unknown[]> {
  const order = await rowOrder(browsed, request);
  if (!order.ok) throw new Error(`${what}: ${JSON.stringify(order)}`);
  return order.value.keys;
}

async function answerOf({ design, engine, sampleKeys }: LookedAt, text: string): Promise<AnswerRow[]> {
  const query = { kind: 'text' as const, text, parameters: [] };
  const outcome = await runQuery(design, engine, { query, parameters: {}, sampleKeys, madeHere: true, rowLimit: 10_000 });
  if (!outcome.ok) throw new Error(`${text}\n${outcome.problems.join('\n')}`);
  return JSON.parse(outcome.answer.text) as AnswerRow[];
}

/** The rows behind a role, as a load brings them; of a role to several, those of one entity. */
function behind({ design }: LookedAt, row: AnswerRow, role: Role | PolymorphicRole, target: string): AnswerRow[] {
  const kin = row[role.name];
  const all = (Array.isArray(kin) ? kin : kin === null || kin === undefined ? [] : [kin]) as AnswerRow[];
  if (!('branches' in role)) return all;
  return all.filter((one) => lineage(design.model, String(one[KIND_NAME])).some(({ name }) => name === target));
}

/** Looks through everything, and holds what is counted and walked to against what loads bring. Gives how much was compared. */
async function walkAll(browsed: LookedAt): Promise<number> {
  const { model } = browsed.design;
  let compared = 0;
  for (const entity of model.entities.values()) {
    const roles: readonly (Role | PolymorphicRole)[] = [...entity.roles, ...entity.paths, ...entity.polymorphic];
    const loaded = await answerOf(browsed, `from ${entity.name}\n${roles.map(({ name }) => `load ${name}\n`).join('')}`);
    const all: RowsRequest = { entity: entity.name, where: '', orderBy: '', via: null };
    const found = await keysOf(browsed, all, entity.name);
    const byKey = new Map(loaded.map((row) => [String(row[entity.key.name] ?? keyText(entity.name, row)), row]));
    expect(found.length, entity.name).toBe(loaded.length);
    const window = await rowWindow(browsed, all, found.slice(0, 20) as never, 0);
    if (!window.ok) throw new Error(`${entity.name}: ${JSON.stringify(window)}`);
    expect(window.value.length).toBe(Math.min(20, found.length));
    const counts = await roleCounts(browsed, entity.name, found as never);
    for (const role of roles.filter(({ knows }) => knows === 'many')) {
      for (const target of 'branches' in role ? role.branches.map((branch) => branch.target) : [role.target]) {
        const name = 'branches' in role ? `${role.name} as ${target}` : role.name;
        expect(Object.keys(counts), entity.name).toContain(name);
        let walked = 0;
        for (const key of found) {
          const row = byKey.get(String(key));
          if (row === undefined) throw new Error(`${entity.name} ${String(key)} is not in the answer`);
          const kin = behind(browsed, row, role, target);
          expect(counts[name]?.[String(key)] ?? 0, `${entity.name} ${String(key)} ${name}`).toBe(kin.length);
          compared += 1;
          if (kin.length === 0 || walked === MOST_WALKED) continue;
          walked += 1;
          const via = { entity: entity.name, key: String(key), role: role.name };
          const there = await keysOf(browsed, { ...all, entity: target, via }, `${entity.name}.${name} from ${String(key)}`);
          const expected = kin.map((one) => String(one[entityOf(model, target).key.name] ?? keyText(target, one)));
          expect(there.map(String).sort(), `${entity.name} ${String(key)} ${name}`).toEqual(Array.from(new Set(expected)).sort());
        }
      }
    }
  }
  return compared;

  /** A key of several parts as it travels: a list. */
  function keyText(entity: string, row: AnswerRow): string {
    const parts = entityOf(model, entity).key.fields.map(({ name, type }) =>
      type.kind === 'bigint' ? Number(row[name]) : row[name],
    );
    return JSON.stringify(parts);
  }
}

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

async function walked(name: EngineName, text: string): Promise<number> {
  const { design, database, made } = await makeOn(engines, name, text);
  const compared = await walkAll({ design, engine: database.engine, sampleKeys: made.sampleKeys, madeHere: true });
  await database.remove();
  return compared;
}

test.each(['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin', 'apiary.kin'])(
  'in %s each row says how many it knows, and leads to just those, on every engine',
  async (file) => {
    const text = readFileSync(`tests/${file}`, 'utf8');
    for (const name of ONE_OF_EACH) expect(await walked(name, text), name).toBeGreaterThan(60);
  },
  600_000,
);

test('in any model each row says how many it knows, and leads to just those', async () => {
  let compared = 0;
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      compared += await walked('sqlite', text);
    }),
    { numRuns: 8, seed: 13, endOnFailure: true },
  );
  expect(compared).toBeGreaterThan(500);
}, 600_000);

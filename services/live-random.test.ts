import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { Design } from '../core/design/index.js';
import { idOf, type ResourceObject, type ResourceType } from '../core/live/index.js';
import type { AnswerRow } from '../core/load/index.js';
import { type ActorName, KIND_NAME } from '../core/model/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Engine } from '../engines/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { drawnWalls, walledText } from '../tests/arbitrary-walls.js';
import { carriesOut, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { auditedAt } from './audit-actor.js';
import { AuditedReads } from './audit-reads.js';
import { answerLive, type LiveDatabase, resourcesIn, runQuery } from './index.js';

/** How many random models are asked over HTTP on each engine: `ASKED=100 npx vitest run services/live-random`. */
const ASKED = Number(process.env.ASKED ?? 6);
const SEED = Number(process.env.SEED ?? 20);
const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

interface Asking {
  readonly design: Design;
  readonly engine: Engine;
  readonly live: LiveDatabase;
  readonly as: ActorName;
}

interface Page {
  readonly data: readonly ResourceObject[];
  readonly included?: readonly ResourceObject[];
  readonly links?: { readonly next?: string };
}

async function asked(
  { live, as }: Asking,
  parts: readonly string[],
  parameters: readonly (readonly [string, string])[],
): Promise<Page> {
  const { signal } = new AbortController();
  const request = { method: 'GET', base: '/live/x', body: undefined, ifMatch: null, ifNoneMatch: null, signal };
  const { status, body } = await answerLive(live, { ...request, parts, parameters, as });
  expect({ parts, parameters, status, body: status === 200 ? '' : body }).toEqual({ parts, parameters, status: 200, body: '' });
  return JSON.parse(body) as Page;
}

/** The rows that a query of the notation answers the same actor. */
async function loaded({ design, engine, live, as }: Asking, text: string): Promise<readonly AnswerRow[]> {
  const outcome = await runQuery(design, engine, {
    query: { kind: 'text', text, parameters: [] },
    parameters: {},
    sampleKeys: live.sampleKeys,
    madeHere: true,
    now: live.now,
    rowLimit: 20_000,
    as,
  });
  if (!outcome.ok)
    throw new Error(`${text}\n${[...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n')}`);
  return JSON.parse(outcome.answer.text) as readonly AnswerRow[];
}

/** Holds the pages of a type, with all that its relationships lead to, against the load of the same. */
async function agrees(asking: Asking, type: ResourceType): Promise<void> {
  const { design } = asking;
  const resources = resourcesIn(design);
  const include = type.relationships.map(({ member }) => member).join(',');
  const { data, included = [] } = await asked(
    asking,
    [type.name],
    [
      ['page[size]', '500'],
      ['include', include],
    ],
  );
  const text = [`from ${type.entity.name}`, ...type.relationships.map(({ role }) => `load ${role.name}`), 'limit 500'].join('\n');
  const rows = await loaded(asking, text);
  const typed = (row: AnswerRow, entity: string) =>
    resources.byEntity.get(typeof row[KIND_NAME] === 'string' ? row[KIND_NAME] : entity);
  const known = new Map([...data, ...included].map((one) => [`${one.type} ${one.id}`, one]));
  expect(data.map(({ id }) => id)).toEqual(rows.map((row) => idOf(type, row)));
  for (const [at, row] of rows.entries()) {
    const resource = data[at];
    const own = typed(row, type.entity.name);
    expect(resource?.type).toBe(own?.name);
    for (const { member, field } of own?.attributes ?? []) {
      const value = row[field.name];
      const isHidden = typeof value === 'object' && value !== null && 'hidden' in value;
      if (field.name in row) expect(resource?.attributes[member]).toEqual(isHidden ? null : value);
    }
    for (const over of type.relationships) {
      const there = row[over.role.name];
      const behind = Array.isArray(there)
        ? (there as AnswerRow[])
        : there === null || there === undefined || 'hidden' in (there as object)
          ? []
          : [there as AnswerRow];
      const told = resource?.relationships[over.member]?.data;
      const names = (Array.isArray(told) ? told : told === null || told === undefined ? [] : [told]).map(
        (one) => `${one.type} ${one.id}`,
      );
      const wanted = behind.map((one) => {
        const kind = over.targets.flatMap((target) => typed(one, target) ?? [])[0];
        return kind === undefined ? '' : `${kind.name} ${idOf(kind, one)}`;
      });
      expect({ member: over.member, names }).toEqual({ member: over.member, names: wanted });
      for (const name of names) expect(known.has(name)).toBe(true);
    }
  }
}

/** Holds what is gone through behind cursors, sorted over each role to one, against the same as one page. */
async function cursorsAgree(asking: Asking, type: ResourceType): Promise<number> {
  const resources = resourcesIn(asking.design);
  const sorts = type.relationships.flatMap(({ member, many, targets: [target = '', ...others] }) => {
    const stored = resources.byEntity.get(target)?.attributes.find((one) => one.stored !== null);
    return many || others.length > 0 || stored === undefined ? [] : [`${member}.${stored.member}`, `-${member}.${stored.member}`];
  });
  for (const sort of sorts) {
    const { data: whole } = await asked(
      asking,
      [type.name],
      [
        ['page[size]', '500'],
        ['sort', sort],
      ],
    );
    const ids: string[] = [];
    let after: string | null = '';
    while (after !== null && ids.length < 500) {
      const told: Page = await asked(
        asking,
        [type.name],
        [
          ['page[size]', '3'],
          ['sort', sort],
          ['page[after]', after],
        ],
      );
      ids.push(...told.data.map(({ id }) => id));
      const next = told.links?.next;
      after = next === undefined ? null : new URL(next, 'http://localhost').searchParams.get('page[after]');
    }
    expect({ sort, ids }).toEqual({ sort, ids: whole.map(({ id }) => id) });
  }
  return sorts.length;
}

test.each(ONE_OF_EACH)(
  '%s: whatever the model, its rows and its walls are, the endpoint answers what the load answers, and no more than a second look lets through',
  async (name) => {
    let types = 0;
    let sorts = 0;
    await fc.assert(
      fc.asyncProperty(arbitraryTree, drawnWalls, fc.nat(), async (text, draws, who) => {
        const walled = walledText(text, draws, who);
        if (walled === null || !carriesOut(name, walled.text)) return;
        const { design, database, made } = await makeOn(engines, name, walled.text);
        try {
          const { engine } = database;
          const now = design.model.clock ?? NOW;
          const sampleKeys = { ...namedKeys(design.model, NOW), ...made.sampleKeys };
          const live: LiveDatabase = {
            design,
            engine,
            sampleKeys,
            madeHere: true,
            now,
            write: () => Promise.reject(new Error('nothing is written')),
          };
          const system: ActorName = { kind: 'system' };
          for (const actor of [system, ...walled.actors.map((one) => one.named)]) {
            for (const type of resourcesIn(design).byName.values()) {
              await agrees({ design, engine, live, as: actor }, type);
              sorts += await cursorsAgree({ design, engine, live, as: actor }, type);
              types += 1;
            }
            if (actor.kind !== 'row') continue;
            const audited = await auditedAt(live, 'somebody', actor, { now });
            if (!audited.ok) continue;
            const reads = new AuditedReads(live, audited.value, actor, now, {});
            for (const entity of design.model.entities.keys())
              expect(await reads.asked({ kind: 'text', text: `from ${entity}`, parameters: [] })).toEqual({ kind: 'held' });
          }
        } finally {
          await database.remove();
        }
      }),
      { numRuns: ASKED, seed: SEED, endOnFailure: true },
    );
    expect(types).toBeGreaterThan(ASKED);
    expect(sorts).toBeGreaterThan(0);
  },
  ASKED * 60_000,
);

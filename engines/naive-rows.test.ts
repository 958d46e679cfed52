import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { Design } from '../core/design/index.js';
import { doCommands, runQuery } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import {
  commandText,
  EitherWay,
  type NaiveCommand,
  NaiveRows,
  type NaiveTree,
  type Reason,
  textOf,
} from '../tests/naive-rows.js';
import type { Engine } from './index.js';

/** How many trees are made up; more with TREES in the environment. */
const TREES = Number(process.env.TREES ?? 8);

let engines: Engines;
const counted = { trees: 0, transactions: 0, done: 0, refused: new Map<string, number>() };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  const reasons = Array.from(counted.refused, ([reason, times]) => `${reason} ${times}`).join(', ');
  process.stdout.write(
    `Against naive rows: ${counted.trees} databases, ${counted.done} of ${counted.transactions} done; refused: ${reasons}\n`,
  );
});

const small = fc.integer({ min: 0, max: 6 });
const key = fc.integer({ min: 1, max: 5 });
/** Of rows that are made, most are others than there are. */
const newKey = fc.oneof({ weight: 1, arbitrary: key }, { weight: 4, arbitrary: fc.integer({ min: 6, max: 40 }) });

const arbitraryRelation = (entities: number) =>
  fc.oneof(
    {
      weight: 3,
      arbitrary: fc
        .record({
          kind: fc.constant('key' as const),
          child: fc.nat(entities - 1),
          parent: fc.nat(entities - 1),
          required: fc.boolean(),
          one: fc.boolean(),
          onDelete: fc.constantFrom('cascade' as const, 'set null' as const, 'restrict' as const),
        })
        .map((one) => {
          // What has to point somewhere points at another entity, or no first row could be made; and is never emptied.
          const required = one.required && one.child > one.parent;
          return { ...one, required, onDelete: required && one.onDelete === 'set null' ? ('cascade' as const) : one.onDelete };
        }),
    },
    {
      weight: 1,
      arbitrary: fc
        .record({
          kind: fc.constant('pairs' as const),
          near: fc.nat(entities - 1),
          far: fc.nat(entities - 1),
          symmetric: fc.boolean(),
        })
        .map((one) => ({ ...one, symmetric: one.symmetric && one.near === one.far })),
    },
  );

const arbitraryNaiveTree: fc.Arbitrary<NaiveTree> = fc
  .array(fc.record({ unique: fc.boolean() }), { minLength: 1, maxLength: 3 })
  .chain((entities) =>
    fc.record({
      entities: fc.constant(entities),
      relations: fc.array(arbitraryRelation(entities.length), { minLength: 1, maxLength: 4 }),
    }),
  );

function arbitraryCommand({ entities, relations }: NaiveTree): fc.Arbitrary<NaiveCommand> {
  const entity = fc.nat(entities.length - 1);
  const label = fc.constantFrom('a', 'b', 'c', 'd', "it's", 'ä', '--', 'first 2', 'first 3', 'e', 'f');
  const refs = fc.array(fc.option(key, { freq: 6 }), { minLength: relations.length, maxLength: relations.length });
  const meant = fc.oneof(
    { weight: 4, arbitrary: fc.record({ id: key }) },
    { weight: 1, arbitrary: fc.record({ above: fc.integer({ min: 1, max: 4 }) }) },
  );
  const made = fc.record({
    kind: fc.constantFrom('create' as const, 'create' as const, 'find or create' as const, 'create or update' as const),
    entity,
    id: newKey,
    label,
    level: fc.option(small),
    refs,
  });
  const changed = fc
    .record({
      entity,
      of: meant,
      label: fc.option(label),
      level: fc.option(fc.option(small)),
      refs,
      which: fc.array(fc.boolean(), { minLength: relations.length, maxLength: relations.length }),
    })
    .map(({ entity: of, of: rows, label: name, level, refs: to, which }): NaiveCommand => {
      const own = relations.flatMap((relation, at) =>
        relation.kind === 'key' && relation.child === of && which[at] === true ? [[at, to[at] ?? null] as const] : [],
      );
      const set = {
        ...(name === null ? {} : { label: name }),
        ...(level === null && (name !== null || own.length > 0) ? {} : { level }),
        refs: Object.fromEntries(own),
      };
      return { kind: 'update', entity: of, of: rows, set };
    });
  const deleted = fc.record({ kind: fc.constant('delete' as const), entity, of: meant });
  const linked = fc.record({
    kind: fc.constantFrom('link' as const, 'link' as const, 'unlink' as const),
    relation: fc.nat(relations.length - 1),
    near: key,
    far: key,
  });
  return fc.oneof(
    { weight: 6, arbitrary: made },
    { weight: 3, arbitrary: changed },
    { weight: 2, arbitrary: deleted },
    { weight: 4, arbitrary: linked },
  );
}

const arbitraryRun = arbitraryNaiveTree.chain((tree) =>
  fc.record({
    tree: fc.constant(tree),
    transactions: fc.array(fc.array(arbitraryCommand(tree), { minLength: 1, maxLength: 3 }), { minLength: 10, maxLength: 40 }),
  }),
);

/** Rows to begin with, so that most commands find what they name: four of each entity, in the order in which they can be made. */
function firstRows({ entities, relations }: NaiveTree): readonly NaiveCommand[] {
  return entities.flatMap((_, entity) =>
    [1, 2, 3, 4].map(
      (id): NaiveCommand => ({
        kind: 'create',
        entity,
        id,
        label: `first ${id}`,
        level: id % 3 === 0 ? null : id,
        refs: relations.map((relation) => {
          if (relation.kind !== 'key' || relation.child !== entity) return null;
          if (relation.required) return id;
          return id % 2 === 0 && relation.parent < entity ? id : null;
        }),
      }),
    ),
  );
}

/** What a refusal says, as a reason. */
function reasonIn(message: string): Reason | 'unknown' {
  const said: readonly (readonly [RegExp, Reason])[] = [
    [/Another row has this already/, 'unique'],
    [/is required/, 'required'],
    [/Its level is too high/, 'check'],
    [/Other rows point at it/, 'restrict'],
    [/there is no such row|is not there/, 'missing'],
    [/rows of \S+ match/, 'several'],
    [/no partner of itself/, 'itself'],
  ];
  return said.find(([pattern]) => pattern.test(message))?.[1] ?? 'unknown';
}

async function rowsOf(design: Design, engine: Engine, text: string): Promise<readonly Record<string, unknown>[]> {
  const query = { kind: 'text' as const, text, parameters: [] };
  const outcome = await runQuery(design, engine, { query, parameters: {}, sampleKeys: {}, madeHere: true, rowLimit: 5000 });
  if (!outcome.ok) throw new Error(outcome.problems.join(' '));
  return JSON.parse(outcome.answer.text) as Record<string, unknown>[];
}

/** All rows and pairs of a database, in the form of the naive ones. */
async function toldOf({ design, database }: MadeTree, tree: NaiveTree): Promise<unknown> {
  const rows: unknown[] = [];
  for (const [entity] of tree.entities.entries()) {
    const own = tree.relations.flatMap((relation, at) => (relation.kind === 'key' && relation.child === entity ? [at] : []));
    const all = await rowsOf(design, database.engine, `from E${entity}\norder by id`);
    rows.push(
      all.map((row) => ({
        id: row.id,
        label: row.label,
        level: row.level,
        refs: Object.fromEntries(own.map((at) => [at, row[`up_${at}_id`]])),
      })),
    );
  }
  const pairs: string[][] = [];
  for (const [at, relation] of tree.relations.entries()) {
    if (relation.kind !== 'pairs') {
      pairs.push([]);
      continue;
    }
    const owners = await rowsOf(design, database.engine, `from E${relation.near}\nload near_${at} (id)`);
    const all = owners.flatMap((owner) =>
      (owner[`near_${at}`] as { readonly id: number }[]).map(({ id }) =>
        relation.symmetric ? [Number(owner.id), id].toSorted((one, other) => one - other).join(' ') : `${owner.id} ${id}`,
      ),
    );
    pairs.push(Array.from(new Set(all)).toSorted());
  }
  return { rows, pairs };
}

async function holdsOn(name: EngineName, tree: NaiveTree, transactions: readonly (readonly NaiveCommand[])[]): Promise<void> {
  const made = await makeOn(engines, name, textOf(tree));
  try {
    counted.trees += 1;
    const naive = new NaiveRows(tree);
    for (const commands of [firstRows(tree), ...transactions]) {
      const text = commands.map((command) => commandText(tree, command)).join('\n');
      let wanted: Reason | null | 'either';
      try {
        wanted = naive.carryOut(commands);
      } catch (error) {
        if (!(error instanceof EitherWay)) throw error;
        wanted = 'either';
      }
      // What the rules leave open is tried and taken back, so that both go on from the same rows.
      const rehearse = wanted === 'either';
      const request = { text, sampleKeys: {}, madeHere: true, now: '2031-04-12T09:00:00.000000Z', rehearse };
      const outcome = await doCommands(made.design, made.database.engine, request);
      const said = outcome.ok ? null : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
      counted.transactions += 1;
      if (outcome.ok) counted.done += 1;
      else counted.refused.set(reasonIn(said ?? ''), (counted.refused.get(reasonIn(said ?? '')) ?? 0) + 1);
      const told = await toldOf(made, tree);
      const reason = said === null ? null : reasonIn(said);
      const sameReason = wanted === 'either' || (wanted === 'any of several' ? reason !== null : wanted === reason);
      if (sameReason && isDeepStrictEqual(told, naive.told())) continue;
      throw new Error(
        `${name}: ${text}\nwanted ${wanted}, said ${said}\n${JSON.stringify(naive.told())}\n${JSON.stringify(told)}\n${textOf(tree)}`,
      );
    }
  } finally {
    await made.database.remove();
  }
}

test('whatever commands do to rows, they do what a model without SQL does, and are refused for the same reason, on each engine', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryRun, async ({ tree, transactions }) => {
      for (const name of ONE_OF_EACH) await holdsOn(name, tree, transactions);
    }),
    { numRuns: TREES, seed: 41, endOnFailure: true },
  );
  expect(counted.done).toBeGreaterThan(0);
}, 900_000);

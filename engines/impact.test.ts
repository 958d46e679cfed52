import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { Impact } from '../core/impact/index.js';
import { placeOf } from '../core/sql/index.js';
import { checkRows, doCommands, foretellDelete } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { carriesOut, type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

/** How many trees are made up; more with TREES in the environment. */
const TREES = Number(process.env.TREES ?? 5);
const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
const counted = { trees: 0, deletes: 0, refused: 0, rows: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  const { trees, deletes, refused, rows } = counted;
  process.stdout.write(`Foretold: ${trees} trees, ${deletes} deletes with ${rows} other rows, ${refused} refused\n`);
});

/** Of each table how many rows it has, and in how many each column is filled. */
type Snapshot = ReadonlyMap<string, { readonly rows: number; readonly filled: ReadonlyMap<string, number> }>;

async function snapshotOf({ design, database }: MadeTree): Promise<Snapshot> {
  const looked = await database.engine.introspect();
  if (!looked.ok) throw new Error(looked.problem.message);
  const { quote } = design.dialect;
  const tables = new Map<string, { rows: number; filled: Map<string, number> }>();
  for (const { name, columns } of looked.value.schema.tables) {
    const counts = columns.map((column) => `count(${quote(column.name)})`);
    const read = await rawRows(database.engine, `select count(*), ${counts.join(', ')} from ${quote(name.name)}`);
    if (!read.ok) throw new Error(read.problem.message);
    const [rows = 0, ...filled] = (read.value[0] ?? []).map(Number);
    const byColumn = new Map(columns.map((column, at) => [column.name.toLowerCase(), filled[at] ?? 0]));
    tables.set(placeOf(name), { rows, filled: byColumn });
  }
  return tables;
}

/** Compares what was told of a delete with what it did. @throws with both, where they differ */
function compare(impact: Impact, before: Snapshot, after: Snapshot, tree: MadeTree, what: string): void {
  const { model } = tree.design;
  const wrong = (told: string, is: string) => {
    throw new Error(
      `${tree.name}, delete ${what}: ${told}, and it was ${is}\n${JSON.stringify(impact, null, 1)}\n${tree.design.text}`,
    );
  };
  const along = new Map<string, number>();
  for (const group of impact.groups) if (group.effect === 'goes along') along.set(`.${group.table}`.toLowerCase(), group.rows);
  const meant = new Map<string, number>();
  for (const { entity, rows } of impact.rows) {
    const { kinds } = model.entities.get(entity) ?? {};
    const table = model.entities.get(kinds?.storage.kind === 'separate tables' ? entity : (kinds?.root ?? entity))?.table.value;
    if (table !== undefined) meant.set(placeOf(table), (meant.get(placeOf(table)) ?? 0) + rows);
  }
  const parts = new Map(
    Array.from(model.entities.values()).flatMap(({ table, kinds }) => {
      const root = kinds?.storage.kind === 'joined tables' && kinds.base !== null ? model.entities.get(kinds.root) : undefined;
      return root === undefined ? [] : [[placeOf(table.value), placeOf(root.table.value)] as const];
    }),
  );
  /** Of rows that go by a part of them, in a table of its own, the rest goes too: by how many is told with the part. */
  const withRest = new Map<string, number>();
  for (const [part, whole] of parts) withRest.set(whole, (withRest.get(whole) ?? 0) + (along.get(part) ?? 0));
  for (const [place, { rows }] of before) {
    if (parts.has(place)) continue;
    const gone = rows - (after.get(place)?.rows ?? 0);
    const told = (along.get(place) ?? 0) + (meant.get(place) ?? 0);
    const most = told + (withRest.get(place) ?? 0);
    if (gone < told || gone > most) wrong(`${told} rows of ${place} were told to go`, `${gone}`);
    counted.rows += gone;
  }
  for (const group of impact.groups) {
    if (group.effect !== 'is emptied') continue;
    const [column = ''] = group.columns.map((name) => name.toLowerCase());
    const place = `.${group.table}`.toLowerCase();
    const lost = (before.get(place)?.filled.get(column) ?? 0) - (after.get(place)?.filled.get(column) ?? 0);
    const gone = (before.get(place)?.rows ?? 0) - (after.get(place)?.rows ?? 0);
    const same = impact.groups.filter(
      (one) => one.effect === 'is emptied' && one.table === group.table && one.columns[0] === group.columns[0],
    );
    const told = same.reduce((sum, { rows }) => sum + rows, 0);
    // Of the rows that went some had it filled.
    if (lost < told || lost > told + gone) wrong(`${told} rows of ${group.of} were told to be emptied of ${column}`, `${lost}`);
  }
}

/** What is deleted of an entity: every so many rows, by their own order. */
function conditions(names: readonly string[]): readonly string[] {
  return names.flatMap((name) => [`${name}[true]`]);
}

/** Deletes rows of a tree, and holds what was told beforehand against what was done. */
async function foretell(name: EngineName, text: string): Promise<void> {
  if (!carriesOut(name, text)) return;
  const tree = await makeOn(engines, name, text);
  const { design, database, made } = tree;
  const { engine } = database;
  try {
    counted.trees += 1;
    const common = { sampleKeys: made.sampleKeys, now: NOW };
    const entities = Array.from(design.model.entities.values()).filter(({ key, given }) => key.fields.length > 0 && !given);
    const single = entities.flatMap(({ name: entity, key, fields }) => {
      const [only, ...more] = key.fields;
      // A key that is another row's has no name of its own.
      if (
        only === undefined ||
        more.length > 0 ||
        !fields.some((field) => field.name === only.name) ||
        !['integer', 'bigint'].includes(only.type.kind)
      )
        return [];
      return [`${entity}[${only.name} = 1]`, `${entity}[${only.name} in (2, 3)]`];
    });
    for (const rows of [...single, ...conditions(entities.map((entity) => entity.name))]) {
      const told = await foretellDelete(design, engine, { ...common, rows, schemas: null, looks: 3 });
      if (!told.ok)
        throw new Error(
          `${name}: ${rows}: ${[...told.problems, ...told.findings.map(({ message }) => message)].join('\n')}\n${text}`,
        );
      const { impact } = told;
      if (impact.rows.length === 0) continue;
      const before = await snapshotOf(tree);
      const done = await doCommands(design, engine, { ...common, text: `delete ${rows}`, madeHere: true, rehearse: false });
      const effects = new Set(impact.groups.map(({ effect }) => effect));
      if (done.ok && effects.has('refuses'))
        throw new Error(`${name}: delete ${rows} was told to be refused\n${JSON.stringify(impact)}\n${text}`);
      if (!done.ok && !effects.has('refuses') && !effects.has('may refuse'))
        throw new Error(
          `${name}: delete ${rows} was not told to be refused: ${done.problems.join(' ')}\n${JSON.stringify(impact)}\n${text}`,
        );
      if (done.ok) compare(impact, before, await snapshotOf(tree), tree, rows);
      if (done.ok) counted.deletes += 1;
      else counted.refused += 1;
    }
    // What a delete leaves half done stays, and is found in the end.
    const halves = await checkRows(design, engine, { sampleKeys: made.sampleKeys, codes: ['kind-row', 'json-kind'] });
    if (halves.findings.length > 0)
      throw new Error(`${name}: the deletes left ${halves.findings.map(({ message }) => message).join(' ')}\n${text}`);
  } finally {
    await database.remove();
  }
}

const TEXTS = [
  'tests/forms/joined.kin',
  'demo/library.kin',
  'tests/forms/forms.kin',
  'tests/forms/pairs.kin',
  'tests/forms/several.kin',
];

test.each(TEXTS)(
  'what a delete takes along, empties or is refused by is what was told of it: %s, on each engine',
  async (file) => {
    const before = counted.deletes;
    for (const name of ONE_OF_EACH) await foretell(name, readFileSync(file, 'utf8'));
    expect(counted.deletes).toBeGreaterThan(before);
  },
  600_000,
);

test('and in trees of every form, on each engine', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      for (const name of ONE_OF_EACH) await foretell(name, text);
    }),
    { numRuns: TREES, seed: 18, endOnFailure: true },
  );
}, 1_200_000);

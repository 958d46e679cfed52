import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { Undo } from '../core/write/index.js';
import { doCommands, takeBackCommands } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { carriesOut, type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

/** How many trees are made up; more with TREES in the environment. */
const TREES = Number(process.env.TREES ?? 4);
const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
const counted = { trees: 0, writes: 0, rows: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  process.stdout.write(`Taken back: ${counted.trees} trees, ${counted.writes} writes, ${counted.rows} rows\n`);
});

/** Every value of every table, as the engine writes it as a text. */
async function contentOf({ design, database }: MadeTree): Promise<ReadonlyMap<string, string>> {
  const looked = await database.engine.introspect();
  if (!looked.ok) throw new Error(looked.problem.message);
  const { exact, print, quote } = design.dialect;
  const tables = new Map<string, string>();
  for (const { name, columns } of looked.value.schema.tables) {
    const values = columns.map(({ name: of, type }) => print(exact.read({ kind: 'column', source: null, column: of }, type)));
    const read = await rawRows(database.engine, `select ${values.join(', ')} from ${quote(name.name)}`);
    if (!read.ok) throw new Error(read.problem.message);
    tables.set(
      name.name,
      read.value
        .map((row) => JSON.stringify(row))
        .sort()
        .join('\n'),
    );
  }
  return tables;
}

/** Commands that change, link, take apart, make and delete rows of whatever a tree has; those that are refused write nothing. */
function commandsFor({ design }: MadeTree): readonly string[] {
  const { model } = design;
  return Array.from(model.entities.values()).flatMap((entity) => {
    const { name, key, fields, roles, given } = entity;
    const [only, ...more] = key.fields;
    if (
      given ||
      only === undefined ||
      more.length > 0 ||
      !fields.some((field) => field.name === only.name) ||
      !['integer', 'bigint'].includes(only.type.kind)
    )
      return [];
    const texts = fields.filter(
      ({ type, key: isKey, fixed, physical }) => type.kind === 'text' && !isKey && !fixed && physical.generated === null,
    );
    const [text] = texts;
    const links = roles.filter(({ way }) => way.kind === 'pivot');
    return [
      ...(text === undefined ? [] : [`update ${name}[${only.name} in (1, 2)] with ${text.name} 'x'`]),
      ...links.flatMap((role) => [1, 2, 3].map((at) => `link ${name}(${at}).${role.name} to ${role.target}(${at})`)),
      ...links.map((role) => `unlink ${name}(2).${role.name} from ${role.target}(2)`),
      `delete ${name}[${only.name} in (2, 3)]`,
      `create ${name}`,
      `delete ${name}[${only.name} > 4]`,
    ];
  });
}

/** Writes, and takes all of it back, the newest first: then every table has to the last value what it had before. */
async function thereAndBack(name: EngineName, text: string): Promise<void> {
  if (!carriesOut(name, text)) return;
  const tree = await makeOn(engines, name, text);
  const { design, database, made } = tree;
  try {
    counted.trees += 1;
    const before = await contentOf(tree);
    const undos: { readonly command: string; readonly undo: Undo }[] = [];
    for (const command of commandsFor(tree)) {
      const request = { text: command, sampleKeys: made.sampleKeys, madeHere: true, now: NOW, rehearse: false };
      const done = await doCommands(design, database.engine, { ...request, keeps: { schemas: null } });
      if (!done.ok) continue;
      if (done.carried.undo === null) continue;
      counted.writes += 1;
      counted.rows += done.carried.undo.rows.length;
      undos.push({ command, undo: done.carried.undo });
    }
    for (const { command, undo } of undos.toReversed()) {
      if (undo.lacks.length > 0) return;
      const back = await takeBackCommands(design, database.engine, undo, null);
      if (!back.ok) throw new Error(`${name}: ${command}: ${back.problem}\n${JSON.stringify(undo).slice(0, 3000)}\n${text}`);
    }
    const after = await contentOf(tree);
    for (const [table, rows] of before)
      if (after.get(table) !== rows) throw new Error(`${name}: ${table}\n${rows}\n--\n${after.get(table)}\n${text}`);
  } finally {
    await database.remove();
  }
}

const TEXTS = [
  'demo/library.kin',
  'tests/forms/joined.kin',
  'tests/forms/forms.kin',
  'tests/forms/pairs.kin',
  'tests/forms/several.kin',
];

test.each(TEXTS)(
  'what was written is taken back to the beginning, to the last value: %s, on each engine',
  async (file) => {
    const before = counted.writes;
    for (const name of ONE_OF_EACH) await thereAndBack(name, readFileSync(file, 'utf8'));
    expect(counted.writes).toBeGreaterThan(before);
  },
  600_000,
);

test('and in trees of every form, on each engine', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      for (const name of ONE_OF_EACH) await thereAndBack(name, text);
    }),
    { numRuns: TREES, seed: 19, endOnFailure: true },
  );
}, 1_200_000);

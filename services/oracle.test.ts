import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { parseParameters } from '../core/notation/index.js';
import { answerNaively, Beyond, type OracleAnswer } from '../core/oracle/index.js';
import { makeSamples } from '../core/samples/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { day, HEAD, price, ROWS, truth, whole, word } from '../tests/arbitrary-expressions.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { temporaryFolder } from '../tests/database.js';
import { compareAll, expectAlike } from '../tests/naive-answers.js';
import { makeDatabase, profileRelation, runQuery } from './index.js';

/** How many random models are answered for: `MODELS=500 npx vitest run services/oracle` looks at more. */
const MODELS = Number(process.env.MODELS ?? 14);

const NOW = '2031-04-12T09:00:00.000000Z';

async function made(text: string, path: string): Promise<{ design: Design; engine: Engine }> {
  const design = readDesign(text);
  const outcome = await makeDatabase(design, path);
  if (!outcome.ok) throw new Error(`${outcome.problem.message}\n${text}`);
  return { design, engine: openSqlite({ path, mode: 'look', milliseconds: 20_000 }) };
}

test.each(['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin', 'apiary.kin'])(
  'of %s every answer is what looking at each row says',
  async (name) => {
    const folder = temporaryFolder();
    const { design, engine } = await made(readFileSync(join('tests', name), 'utf8'), join(folder.path, 'oracle.db'));
    expect(await compareAll(design, engine)).toBeGreaterThan(60);
    await engine.close();
    folder.remove();
  },
  600_000,
);

test.each(['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin', 'apiary.kin'])(
  'what the rows of %s say of a relation is what counting each row’s kin says',
  async (name) => {
    const folder = temporaryFolder();
    const { design, engine } = await made(readFileSync(join('tests', name), 'utf8'), join(folder.path, 'profile.db'));
    const samples = makeSamples(design.model, design.model.clock ?? NOW);
    const world = { rows: samples.rows, pairs: samples.pairs, now: design.model.clock ?? NOW };
    let compared = 0;
    for (const relation of design.model.relations.values()) {
      const outcome = await profileRelation({ design, engine }, relation.name);
      if (!outcome.ok) throw new Error(`${relation.name}: ${outcome.problem}`);
      for (const { entity, role, histogram } of outcome.profile.ends) {
        if (role === null) continue;
        const { query } = design.queryOf(`from ${entity}\nload ${role}`);
        if (query === null) throw new Error(`${entity} has no ${role}`);
        const counts = answerNaively(design.model, world, query).map(({ loads }) => loads[role]?.length ?? 0);
        const { parents, none, least, most, mean } = histogram;
        expect({ parents, none, least, most }, `${relation.name}: ${entity}.${role}`).toEqual({
          parents: counts.length,
          none: counts.filter((count) => count === 0).length,
          least: counts.length === 0 ? 0 : Math.min(...counts),
          most: counts.length === 0 ? 0 : Math.max(...counts),
        });
        expect(mean * parents).toBeCloseTo(
          counts.reduce((sum, count) => sum + count, 0),
          6,
        );
        compared += 1;
      }
      expect(
        outcome.profile.dangling.every(({ rows }) => rows === 0),
        relation.name,
      ).toBe(true);
    }
    expect(compared).toBeGreaterThan(3);
    await engine.close();
    folder.remove();
  },
  600_000,
);

test(
  'for any model every answer is what looking at each row says',
  async () => {
    const folder = temporaryFolder();
    let compared = 0;
    await fc.assert(
      fc.asyncProperty(arbitraryTree, async (text) => {
        const { design, engine } = await made(text, join(folder.path, 'oracle.db'));
        compared += await compareAll(design, engine, 5);
        await engine.close();
      }),
      // To make a failing model smaller takes longer than to read it.
      { numRuns: MODELS, seed: 21, endOnFailure: true },
    );
    expect(compared).toBeGreaterThan(MODELS * 14);
    folder.remove();
  },
  MODELS * 20_000,
);

test('however operators are nested, a row is found and shown as looking at it says, whatever the parameters are', async () => {
  const folder = temporaryFolder();
  const drawn = fc.array(fc.oneof(whole, price, word, day, truth), { minLength: 25, maxLength: 25 });
  const conditions = fc.array(truth, { minLength: 25, maxLength: 25 });
  let compared = 0;
  let beyond = 0;
  for (const [derived, asked] of fc.sample(fc.tuple(drawn, conditions), { numRuns: 8, seed: 15 })) {
    const fields = derived.map((expression, index) => `  e_${index} = ${expression}\n`).join('');
    const { design, engine } = await made(`${HEAD}${fields}${ROWS}`, join(folder.path, 'oracle.db'));
    const samples = makeSamples(design.model, NOW);
    const parameters = { least: '-1', word: "it's", day: '2031-02-28', lit: 'true' };
    const world = {
      ...samples,
      now: NOW,
      parameters: new Map<string, unknown>([...Object.entries({ ...parameters, lit: true })]),
    };
    const declared = parseParameters('least integer, word text, day date, lit boolean') ?? [];
    const given = 'number > :least and (label = :word or name <> :word) and (day <= :day or dark = :lit)';
    for (const condition of ['true', given, ...asked]) {
      const text = `from Thing\nwhere ${condition}`;
      const { query } = design.queryOf(text, declared);
      if (query === null) throw new Error(`${text} is no query`);
      let told: OracleAnswer[] | null = null;
      try {
        told = answerNaively(design.model, world, query);
      } catch (error) {
        if (!(error instanceof Beyond)) throw error;
        beyond += 1;
      }
      if (told === null) continue;
      const asking = { kind: 'text' as const, text, parameters: declared };
      const outcome = await runQuery(design, engine, { query: asking, parameters, sampleKeys: {}, madeHere: true, rowLimit: 10 });
      if (!outcome.ok) throw new Error(`${text}\n${outcome.problems.join()}`);
      const rows = JSON.parse(outcome.answer.text) as readonly Readonly<Record<string, unknown>>[];
      expect(rows.length, text).toBe(told.length);
      for (const [index, one] of told.entries()) {
        expectAlike(design, rows[index] ?? {}, one, 'Thing', [], text);
        compared += Object.keys(one.derived).length;
      }
    }
    await engine.close();
  }
  expect(compared).toBeGreaterThan(5_000);
  expect(beyond).toBe(0);
  folder.remove();
}, 600_000);

import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { drawnWalls, walledText } from '../tests/arbitrary-walls.js';
import { carriesOut, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { compareAll } from '../tests/naive-answers.js';

/** How many random models are walled on each engine: `WALLED=500 npx vitest run engines/walls` looks at more. */
const WALLED = Number(process.env.WALLED ?? 8);
const SEED = Number(process.env.SEED ?? 19);

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

test.each(ONE_OF_EACH.filter((name) => process.env.ON === undefined || process.env.ON === name))(
  '%s: whoever is at work is answered what looking at each row says, in every way to load, and past no wall',
  async (name) => {
    let compared = 0;
    await fc.assert(
      fc.asyncProperty(arbitraryTree, drawnWalls, fc.nat(), async (text, draws, who) => {
        const walled = walledText(text, draws, who);
        if (walled === null || !carriesOut(name, walled.text)) return;
        const { design, database } = await makeOn(engines, name, walled.text);
        try {
          for (const as of walled.actors) compared += await compareAll(design, database.engine, 9, as);
        } catch (error) {
          throw new Error(walled.text, { cause: error });
        } finally {
          await database.remove();
        }
      }),
      // To make a failing model smaller takes longer than to read it.
      { numRuns: WALLED, seed: SEED, endOnFailure: true },
    );
    expect(compared).toBeGreaterThan(WALLED * 14);
  },
  WALLED * 90_000,
);

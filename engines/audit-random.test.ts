import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { waysTried } from '../core/audit/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type AuditState, auditWalls } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { drawnWalls, walledText } from '../tests/arbitrary-walls.js';
import { carriesOut, type Engines, makeOn, openEngines } from '../tests/engines.js';

/** How many random models are audited on each engine, and how many pieces of each: `AUDITED=100 npx vitest run engines/audit-random`. */
const AUDITED = Number(process.env.AUDITED ?? 4);
const PIECES = Number(process.env.PIECES ?? 25);
const SEED = Number(process.env.SEED ?? 19);
const NOW = '2031-04-12T09:00:00.000000Z';
const ON = ['', ' on read', ' on write'];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

test.each(ONE_OF_EACH.filter((name) => process.env.ON === undefined || process.env.ON === name))(
  '%s: whatever the model and its walls are, nothing gets round them, in any way that is tried',
  async (name) => {
    let tried = 0;
    await fc.assert(
      fc.asyncProperty(arbitraryTree, drawnWalls, fc.nat(), async (text, draws, who) => {
        const walled = walledText(text, draws, who, ON);
        if (walled === null || !carriesOut(name, walled.text)) return;
        const { design, database, made } = await makeOn(engines, name, walled.text);
        try {
          const { engine } = database;
          const sampleKeys = { ...namedKeys(design.model, NOW), ...made.sampleKeys };
          const lookedAt = { design, engine, sampleKeys, madeHere: true };
          const now = design.model.clock ?? NOW;
          const stop = new AbortController();
          const step = ({ done }: AuditState) => {
            if (done >= PIECES) stop.abort();
          };
          const state = await auditWalls(lookedAt, { engine, schemas: null }, { now, signal: stop.signal, step });
          expect(state.leaks, walled.text).toEqual([]);
          tried += waysTried(state).tried;
        } finally {
          await database.remove();
        }
      }),
      { numRuns: AUDITED, seed: SEED, endOnFailure: true },
    );
    expect(tried).toBeGreaterThan(AUDITED * 20);
  },
  AUDITED * 90_000,
);

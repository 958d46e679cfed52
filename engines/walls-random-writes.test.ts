import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { rowText } from '../core/edits/index.js';
import type { Entity } from '../core/model/index.js';
import { answerNaively, Beyond } from '../core/oracle/index.js';
import { makeSamples } from '../core/samples/index.js';
import { joinKey, type Wire } from '../core/values/index.js';
import { doCommands } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { drawnWalls, type WalledText, walledText } from '../tests/arbitrary-walls.js';
import { carriesOut, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import type { WorkingAs } from '../tests/naive-answers.js';

/** How many random models are written to on each engine: `WALLED=200 npx vitest run engines/walls-random-writes` looks at more. */
const WALLED = Number(process.env.WALLED ?? 5);
const SEED = Number(process.env.SEED ?? 23);
const NOW = '2031-04-12T09:00:00.000000Z';
/** So many rows of each entity are written to. */
const ROWS = 4;
const ON = [' on write', '', ' on read'];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

type Rows = ReturnType<typeof makeSamples>['rows'];

/** The texts of the keys of an entity's rows that somebody may write: by the naive evaluator, with all walls on what is read. */
function writable(text: string, rows: Rows, pairs: ReturnType<typeof makeSamples>['pairs'], entity: Entity, as: WorkingAs) {
  const { model, queryOf } = readDesign(text.replace(/^(wall \w+) on (?:read|write)$/gm, '$1'));
  const { query } = queryOf(`from ${entity.name}`);
  if (query === null) throw new Error(`no rows of ${entity.name}`);
  const world = { rows, pairs, now: model.clock ?? NOW, actor: as.seen };
  return new Set(
    answerNaively(model, world, query).map(({ fields }) => keyText(entity, (name) => (fields[name] ?? null) as Wire)),
  );
}

function keyText({ key }: Entity, read: (field: string) => Wire): string {
  const parts = key.fields.map(({ name }) => read(name));
  return String(joinKey(key.type, parts));
}

/** What became of a command, in words. */
async function told({ design, database, made }: MadeTree, text: string, as: WorkingAs): Promise<string> {
  const request = {
    text,
    as: as.named,
    sampleKeys: made.sampleKeys,
    madeHere: true,
    now: design.model.clock ?? NOW,
    rehearse: true,
  };
  const outcome = await doCommands(design, database.engine, request);
  if (outcome.ok) return outcome.carried.lines.flatMap(({ rows }) => rows.map(({ change }) => change)).join();
  return [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
}

/** Writes to some rows of every entity on somebody's behalf; gives how often that was held against the naive evaluator. */
async function writeAll(tree: MadeTree, { text }: WalledText, as: WorkingAs): Promise<number> {
  const { model } = tree.design;
  const { rows, pairs } = makeSamples(model, model.clock ?? NOW);
  let held = 0;
  for (const entity of model.entities.values()) {
    if (entity.kinds !== null || entity.given) continue;
    const own = rows.get(entity.name) ?? [];
    let reached: ReadonlySet<string>;
    try {
      reached = writable(text, rows, pairs, entity, as);
    } catch (error) {
      if (error instanceof Beyond) continue;
      throw error;
    }
    const field = entity.fields.find(
      ({ name, key, required, fixed, physical }) =>
        /^[a-z_]\w*$/.test(name) && !key && !required && !fixed && physical.generated === null,
    );
    for (const [at, row] of own.slice(0, ROWS).entries()) {
      const key = keyText(entity, (name) => {
        const column = entity.key.fields.find((one) => one.name === name)?.column.value ?? name;
        return (row.get(column) ?? null) as Wire;
      });
      const named = rowText({ entity: entity.name, keyType: entity.key.type, key });
      const isMissing = (said: string) => said.includes(`there is no such row of ${entity.name}.`);
      const gone = await told(tree, `delete ${named}`, as);
      expect(isMissing(gone), `delete ${named}: ${gone}`).toBe(!reached.has(key));
      held += 1;
      if (field === undefined) continue;
      const said = await told(tree, `update ${named} with ${field.name} null`, as);
      expect(isMissing(said), `update ${named} with ${field.name} null: ${said}`).toBe(!reached.has(key));
      const changed = own.with(at, new Map([...row, [field.column.value, null]]));
      const after = writable(text, new Map([...rows, [entity.name, changed]]), pairs, entity, as);
      if (said === 'updated') expect(after.has(key), `${named} after ${field.name} null`).toBe(true);
      if (said.includes('would be out of reach')) expect(after.has(key), `${named} after ${field.name} null`).toBe(false);
      held += 1;
    }
  }
  return held;
}

test.each(ONE_OF_EACH.filter((name) => process.env.ON === undefined || process.env.ON === name))(
  '%s: a row is found to be changed or deleted where looking at each row says so, and is within reach afterwards',
  async (name) => {
    let held = 0;
    await fc.assert(
      fc.asyncProperty(arbitraryTree, drawnWalls, fc.nat(), async (text, draws, who) => {
        const walled = walledText(text, draws, who, ON);
        if (walled === null || !carriesOut(name, walled.text)) return;
        const tree = await makeOn(engines, name, walled.text);
        try {
          for (const as of walled.actors) held += await writeAll(tree, walled, as);
        } catch (error) {
          throw new Error(walled.text, { cause: error });
        } finally {
          await tree.database.remove();
        }
      }),
      { numRuns: WALLED, seed: SEED, endOnFailure: true },
    );
    expect(held).toBeGreaterThan(WALLED * 5);
  },
  WALLED * 90_000,
);

import { readFileSync } from 'node:fs';
import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { fillDatabase, nowOf, runQuery } from '../services/index.js';
import { everything, ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { carriesOut, dialectOf, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { commandsFor, emptied, Unsayable } from '../tests/put-in.js';
import type { Engine } from './index.js';

/** How many trees are made up; more with TREES in the environment. */
const TREES = Number(process.env.TREES ?? 6);

/** All rows of an entity with all that stands behind its roles: nothing is computed, which may come to more in another order of rows. */
const WHOLE = /^from \S+\n(load \S+\n)*$/;

let engines: Engines;
const counted = { trees: 0, commands: 0, answers: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  process.stdout.write(
    `Put in by commands: ${counted.trees} trees, ${counted.commands} commands, ${counted.answers} answers equal\n`,
  );
});

async function answerOf(design: Design, engine: Engine, text: string): Promise<unknown> {
  const query = { kind: 'text' as const, text, parameters: [] };
  const outcome = await runQuery(design, engine, { query, parameters: {}, sampleKeys: {}, madeHere: true, rowLimit: 5000 });
  return outcome.ok ? outcome.answer.text : [...outcome.problems, ...outcome.findings.map(({ message }) => message)];
}

/** Two answers from a little before the place where they differ. */
function apart(one: string, other: string): string {
  let at = 0;
  while (at < one.length && one[at] === other[at]) at += 1;
  return [one, other].map((text) => text.slice(Math.max(0, at - 200), at + 200)).join('\n');
}

/** Rows that commands put in one by one are those that are made all at once: whatever is asked, the answers are the same. */
async function putIn(name: EngineName, text: string): Promise<void> {
  if (!carriesOut(name, text)) return;
  const at = await makeOn(engines, name, text);
  const other = await engines.open(name);
  try {
    // What was refused when all were made at once would be refused here, too.
    if (at.made.unsatisfied.length > 0) return;
    const { design } = at;
    const empty = emptied(readDesign(text, dialectOf(name)));
    const filled = await fillDatabase(empty, other.engine);
    if (!filled.ok) throw new Error(filled.problem.message);
    const now = nowOf(design.model, true);
    const commands = commandsFor(design, now);
    const inputs = { now, sampleKeys: {}, madeHere: true, uuidStem: '', keep: true };
    const done = await other.engine.carryOut({ model: empty.model, commands, inputs });
    if (!done.ok) throw new Error(`${name}: ${done.problem.message}\n${text}`);
    const { refusal } = done.value;
    if (refusal !== null)
      throw new Error(
        `${name}: ${JSON.stringify(refusal)}\n${JSON.stringify(commands[refusal.line], null, 1).slice(0, 4000)}\n${text}`,
      );
    counted.trees += 1;
    counted.commands += commands.length;
    for (const query of everything({ design }).filter((one) => WHOLE.test(one))) {
      const [made, put] = [await answerOf(design, at.database.engine, query), await answerOf(design, other.engine, query)];
      if (!isDeepStrictEqual(made, put)) throw new Error(`${name}: ${query}\n${apart(String(made), String(put))}\n${text}`);
      counted.answers += 1;
    }
  } catch (error) {
    if (!(error instanceof Unsayable)) throw error;
  } finally {
    await at.database.remove();
    await other.remove();
  }
}

const TEXTS = ['tests/forms/forms.kin', 'tests/forms/pairs.kin', 'tests/forms/several.kin'];

test.each(TEXTS)(
  'the rows of %s are put in again, through its roles, on each engine',
  async (file) => {
    const before = counted.answers;
    for (const name of ONE_OF_EACH) await putIn(name, readFileSync(file, 'utf8'));
    expect(counted.answers).toBeGreaterThan(before);
  },
  600_000,
);

test('and those of trees of every form, on each engine', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      for (const name of ONE_OF_EACH) await putIn(name, text);
    }),
    { numRuns: TREES, seed: 17, endOnFailure: true },
  );
}, 1_200_000);

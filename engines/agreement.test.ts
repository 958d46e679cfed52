import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { agree, type Compared, ENGINES, everything } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { type Engines, openEngines } from '../tests/engines.js';
import { HURTING, HURTING_QUERIES } from '../tests/hurting-values.js';

const CASES = 12;

let engines: Engines;
const compared: Compared = { answers: 0, values: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  process.stdout.write(`Compared between ${ENGINES.join(', ')}: ${compared.answers} answers, ${compared.values} values\n`);
});

test('every engine gives the same answers to the last digit, on values chosen to hurt', async () => {
  const { findings, queryOf } = readDesign(HURTING);
  expect(findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  // A question that no engine can answer would be answered alike by all.
  expect(HURTING_QUERIES.filter((query) => queryOf(query).query === null)).toEqual([]);
  await agree(engines, HURTING, HURTING_QUERIES, compared);
  expect(compared.answers).toBe(HURTING_QUERIES.length * ENGINES.length);
}, 120_000);

test('for any model, every engine keeps the same rows, and gives the same answers over every role', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, (text) => agree(engines, text, everything({ design: readDesign(text) }), compared)),
    { numRuns: CASES, seed: 31, endOnFailure: true },
  );
}, 240_000);

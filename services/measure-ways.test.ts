import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { measureWays } from './index.js';

const demo = readFileSync('demo/library.kin', 'utf8');
const design = readDesign(demo);
let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(demo);
});
afterAll(async () => {
  await library.close();
});

async function measured(text: string, most: number, signal?: AbortSignal) {
  const query = { kind: 'text' as const, text, parameters: [] };
  const request = { query, parameters: {}, sampleKeys: {}, madeHere: true, ...(signal === undefined ? {} : { signal }) };
  return measureWays(design, library.engine, request, most);
}

test('each way answers alike, and says how many statements, lines and bytes it took', async () => {
  const outcome = await measured('from Player\nload loans\nload branch (name)', 30);
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const { parents, wanted, costs } = outcome.measured;
  expect(parents).toBe(30);
  expect(costs.map(({ way, statements, problem }) => [way, statements, problem])).toEqual([
    ['batch', 3, null],
    ['join', 1, null],
    ['json', 1, null],
    ['row', 61, null],
  ]);
  const [batch, join, json] = costs;
  expect(batch?.rows).toBe(wanted);
  expect(json?.rows).toBe(30);
  // Joined, each player comes with every loan of theirs.
  expect((join?.cells ?? 0) > (batch?.cells ?? 0)).toBe(true);
});

test('a way that brings too much is not compared, and says so', async () => {
  const outcome = await measured('from Branch\nload players\nload instruments\nload loans', 5);
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const problems = new Map(outcome.measured.costs.map(({ way, problem }) => [way, problem]));
  expect(problems.get('join')).toBe('It would bring more than 200,000 lines.');
  expect(problems.get('json')).toBeNull();
});

test('a query that cannot run has findings instead, and one that is stopped ends', async () => {
  const outcome = await measured('from Player\nload nothing', 10);
  expect(!outcome.ok && outcome.findings[0]?.message).toContain('role of Player called nothing');
  const gone = new AbortController();
  gone.abort();
  expect((await measured('from Player\nload loans', 10, gone.signal)).ok).toBe(false);
});

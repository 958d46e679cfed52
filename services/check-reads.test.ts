import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { checkReads, type ReadsChecked } from './index.js';

const demo = readFileSync('demo/library.kin', 'utf8');
const design = readDesign(demo);
let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(demo);
});
afterAll(async () => {
  await library.close();
});

async function checked(text: string): Promise<ReadsChecked> {
  const query = { kind: 'text' as const, text, parameters: [] };
  const outcome = await checkReads(design, library.engine, {
    query,
    parameters: {},
    sampleKeys: {},
    madeHere: true,
    rowLimit: 5000,
  });
  if (!outcome.ok) throw new Error([...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n'));
  return outcome.checked;
}

test('a list that shows a field of a related row asks once for each row, and twice in all where it is loaded', async () => {
  const found = await checked('from Loan\nlimit 200\nreads borrower.name');
  expect(found).toMatchObject({ asRead: 201, loaded: 2, asReadTenfold: 2001, difference: null, lines: ['load borrower (name)'] });
  expect(found.sentence).toBe(
    '201 statements as the page reads it, 2,001 with ten times the rows; with “load borrower (name)”: 2; same answer.',
  );
});

test('what is loaded for nothing is told with its rows and bytes', async () => {
  const found = await checked('from Loan\nload borrower\nload instrument\nlimit 50\nreads borrower.name');
  expect(found.lines).toEqual([]);
  expect(found.unread.map(({ path }) => path)).toEqual(['instrument']);
  expect(found.unread[0]?.rows).toBeGreaterThan(10);
  expect(found.unread[0]?.bytes).toBeGreaterThan(1000);
  expect(found.wide).toEqual([{ path: 'borrower', fields: ['name'] }]);
  expect(found.sentence).toBe(
    '3 statements as the page reads it: all that it reads is loaded. Loaded and never read: instrument. Whole rows where a few fields would do: borrower.',
  );
});

test('rows behind a role to many, and behind one that is not loaded, are counted where they are asked for', async () => {
  const found = await checked('from Branch\nreads players.card.number');
  expect(found.unloaded.map(({ path }) => path)).toEqual(['players', 'players.card']);
  const [players, cards] = found.unloaded;
  expect(players?.statements).toBe(5);
  expect(cards?.statements).toBeGreaterThan(100);
  expect(found.loaded).toBe(3);
});

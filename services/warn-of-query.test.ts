import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { applied } from '../core/edits/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { type RunRequest, warnOfQuery } from './index.js';

let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(readFileSync('demo/library.kin', 'utf8'));
});
afterAll(async () => {
  await library.close();
});

async function warned(text: string) {
  const { design, engine, made } = library;
  const request: RunRequest = {
    query: { kind: 'text', text, parameters: [] },
    parameters: {},
    sampleKeys: made.sampleKeys,
    madeHere: true,
    rowLimit: 10_000,
  };
  return warnOfQuery(design, engine, request, await library.answer(text));
}

/** The text of a query after the fix of its one warning of a code. */
async function mended(text: string, code: string): Promise<string | null> {
  const fix = (await warned(text)).find((one) => one.code === code)?.fix;
  return fix === undefined || fix === null ? null : applied(text, fix.edits);
}

test('a query that asks for what it needs has no warnings', async () => {
  expect(await warned('from Loan\nwhere borrower = Player(3)\nload instrument (name)\norder by id\nlimit 20')).toEqual([]);
  expect(await warned('from Player\nwhere any(loans)\ncount')).toEqual([]);
});

test('two joined loads to many multiply: the lines that came tell it, and one of them goes by batch', async () => {
  const text = 'from Player\nload loans by join\nload ensembles by join\norder by id\nlimit 20';
  const [product] = await warned(text);
  const { log, text: answered } = await library.answer(text);
  const rows = JSON.parse(answered) as { loans: unknown[]; ensembles: unknown[] }[];
  const loans = rows.reduce((sum, row) => sum + row.loans.length, 0);
  const ensembles = rows.reduce((sum, row) => sum + row.ensembles.length, 0);
  expect(product?.evidence).toBe(`${log[0]?.rows} lines for 20 rows with ${loans} loans and ${ensembles} ensembles.`);
  expect(await mended(text, 'joined-product')).toBe(text.replace('ensembles by join', 'ensembles'));
  expect((await warned('from Player\nload loans by join\nload branch by join\norder by id')).map(({ code }) => code)).toEqual([]);
});

test('a limit behind a join would count lines: how many rows it would keep is said', async () => {
  const text = 'from Player\nload loans by join\norder by id\nlimit 20';
  const [limit] = await warned(text);
  const rows = JSON.parse((await library.answer(text)).text) as { loans: unknown[] }[];
  let lines = 0;
  const kept = rows.findIndex(({ loans }) => {
    lines += Math.max(1, loans.length);
    return lines >= 20;
  });
  expect(limit).toMatchObject({ code: 'joined-limit', weight: 'note' });
  expect(limit?.evidence).toBe(`Behind the join, the limit would keep ${kept + 1} of these 20 rows.`);
});

test('what is looked for in a large table by no index is named with the step of the plan, and the line that adds one', async () => {
  const [warning] = await warned('from Loan\nwhere returned_on is null\norder by lent_on, id\nlimit 5');
  expect(warning).toMatchObject({ code: 'no-index', evidence: 'The plan: reads every row of loans.', fix: { of: 'design' } });
  const { design } = library;
  const rows = library.made.rows.loans ?? 0;
  expect(warning?.message).toContain(
    `sought by returned_on, with which no index of loans begins: all ${rows.toLocaleString('en')} rows are read`,
  );
  const mendedDesign = readDesign(applied(design.text, warning?.fix?.edits ?? []));
  expect(mendedDesign.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  expect(mendedDesign.model.entities.get('Loan')?.indexes.map(({ members }) => members)).toContainEqual(['returned_on']);
  // Where a limit ends the reading it may be over soon.
  const [early] = await warned('from Loan\nwhere returned_on is null\norder by id\nlimit 5');
  expect(early).toMatchObject({ code: 'no-index', weight: 'note' });
  expect(early?.message).toContain('until enough are found');
  // One of the conditions has an index, and the rest is looked at in the few rows that it finds.
  expect(await warned('from Loan\nwhere returned_on is null and borrower = Player(3)\norder by id')).toEqual([]);
});

test('a page that is cut where rows can tie is told of, and whether they do at its edge', async () => {
  const text = 'from Loan\norder by due_on\nlimit 20';
  const dates = (await library.rows('from Loan\norder by due_on\nlimit 200')).map(({ due_on }) => due_on);
  const tie = dates.findIndex((date, index) => index > 0 && date === dates[index + 1]);
  const apart = dates.findIndex((date, index) => index > 0 && date !== dates[index + 1]);
  const at = async (row: number) => (await warned(text.replace('20', String(row + 1)))).map(({ code, weight }) => [code, weight]);
  expect(await at(tie)).toEqual([['loose-order', 'warning']]);
  expect(await at(apart)).toEqual([['loose-order', 'note']]);
  expect(await mended(text, 'loose-order')).toBe('from Loan\norder by due_on, id\nlimit 20');
  expect(await warned('from Player\norder by email\nlimit 5')).toEqual([]);
});

test('counting to know whether there is any is told apart from counting', async () => {
  expect(await mended('from Player\nwhere steward and count(loans[out]) > 0', 'count-for-exists')).toBe(
    'from Player\nwhere steward and any(loans[out])',
  );
  expect(await mended('from Player\nwhere 1 > count(loans)', 'count-for-exists')).toBe('from Player\nwhere none(loans)');
  expect(await warned('from Player\nwhere count(loans) > 1')).toEqual([]);
});

test('a page that reads what is not loaded is warned, and the lines that load it stand in the mended query', async () => {
  const text = 'from Loan\norder by id\nlimit 20\nreads borrower.name, due_on';
  expect(await mended(text, 'not-loaded')).toBe(
    'from Loan\nload borrower (name)\norder by id\nlimit 20\nreads borrower.name, due_on',
  );
});

test('a load by row tells how often it asked', async () => {
  const text = 'from Loan\nload borrower (name) by row\norder by id\nlimit 20';
  const [row] = await warned(text);
  expect(row).toMatchObject({ code: 'asked-per-row', evidence: expect.stringContaining('statements for') });
  expect(await mended(text, 'asked-per-row')).toBe(text.replace(' by row', ''));
});

test('all rows of a large table are many rows', async () => {
  const text = 'from Loan\norder by id';
  expect((await warned(text)).map(({ code }) => code)).toEqual(['unlimited']);
  expect(await mended(text, 'unlimited')).toBe(`${text}\nlimit 50`);
  expect(await mended('from Loan; order by id', 'unlimited')).toBe('from Loan; order by id; limit 50');
});

import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { guessUses } from '../core/row-files/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type Engine, headOf, openSqlite } from '../engines/index.js';
import { makeTestDatabase, type TestDatabase, temporaryFolder } from '../tests/database.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';
import { nowOf, putLinesIn } from './index.js';

let database: TestDatabase;
let engine: Engine;
const folder = temporaryFolder();
beforeAll(async () => {
  database = await makeTestDatabase(WALLED_LIBRARY);
  engine = openSqlite({ path: database.path, mode: 'write', milliseconds: 20_000 });
});
afterAll(async () => {
  await engine.close();
  await database.close();
  folder.remove();
});

/** What came of lines that are put in on somebody's behalf: how many rows were made, changed and left, and why lines were refused. */
async function put(as: string, entity: string, content: string, there: 'refuse' | 'update' | 'skip' = 'refuse') {
  const { design } = database;
  const path = join(folder.path, 'lines');
  writeFileSync(path, content);
  const head = await headOf(path, 'csv', 20);
  const uses = guessUses(
    design.model,
    entity,
    head.columns,
    head.lines.map(({ values }) => values),
  );
  const columns = head.columns.map((name, at) => ({ name, use: uses[at] ?? ({ kind: 'left out' } as const) }));
  const { actor } = design.actorOf(as);
  if (actor === null) throw new Error(`nobody is ${as}`);
  const outcome = await putLinesIn(design, engine, {
    mapping: { entity, columns, nothing: '', there, match: [] },
    file: { ...head, path },
    sampleKeys: namedKeys(design.model, nowOf(design.model, true)),
    madeHere: true,
    now: '2031-04-12T09:00:00.000000Z',
    rehearse: true,
    goodOnes: true,
    as: actor,
  });
  if (!outcome.ok) return outcome.problems;
  const { created, updated, skipped } = outcome.report;
  return { created, updated, skipped, refused: outcome.refused.map(({ line, message }) => `${line}: ${message}`) };
}

test('a line that points at a row behind a wall is refused in the words for one that is not there', async () => {
  const told = await put('Player(1)', 'Loan', 'fee,borrower\n5,2\n5,3\n5,99\n');
  expect(told).toMatchObject({ created: 1 });
  const [hidden = '', missing = ''] = 'refused' in told ? told.refused : [];
  expect(hidden.replace('3: ', '4: ').replaceAll('3', '99')).toBe(missing);
  expect(await put('system', 'Loan', 'fee,borrower\n5,2\n5,3\n')).toMatchObject({ created: 2, refused: [] });
});

test('a column that is called as a key is looked at as the row that it points at', async () => {
  expect(await put('Player(1)', 'Loan', 'fee,player_id\n5,2\n5,3\n')).toMatchObject({
    created: 1,
    refused: [expect.stringContaining('there is no Player(3)')],
  });
});

test('a pin fills what no column gives, and refuses a line that gives another', async () => {
  expect(await put('Player(1)', 'Remark', 'body\nnew\nold\n')).toMatchObject({ created: 2, refused: [] });
  expect(await put('Player(1)', 'Remark', 'body,author\nnew,1\nold,2\n')).toMatchObject({
    created: 1,
    refused: [expect.stringContaining('pinned by wall own_remarks')],
  });
  expect(await put('nobody', 'Remark', 'body\nnew\n')).toMatchObject({ created: 0 });
});

test('what a wall pins is required of the system alone, and of nobody else', async () => {
  expect(await put('Player(1)', 'Player', 'name\nNora\n')).toMatchObject({ created: 1, refused: [] });
  expect(await put('system', 'Player', 'name\nNora\n')).toEqual(['Player.branch is required, and no column of the file is it.']);
  expect(await put('system', 'Remark', 'body\nnew\n')).toEqual(['Remark.author is required, and no column of the file is it.']);
});

test('a line whose row is out of reach changes nothing', async () => {
  const told = await put('Player(1)', 'Remark', 'id,body\n1,mine\n2,not mine\n', 'update');
  expect(told).toMatchObject({ updated: 1, refused: [expect.stringContaining('there is no such row of Remark')] });
  const hidden = await put('Player(1)', 'Loan', 'id,fee,player_id\n1,4,1\n3,4,1\n', 'update');
  expect(hidden).toMatchObject({ updated: 1, created: 0, refused: [expect.stringContaining('Another row has this already')] });
});

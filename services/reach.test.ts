import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';
import { nowOf, type Reach, reachOf, runQuery } from './index.js';

const TEXT = `${WALLED_LIBRARY.replace('Player knows one Branch as branch', 'Player knows at most one Branch as branch')
  .replace('  on delete restrict', '  on delete set null')
  .replace('steward true\n', "steward true\n  lone: name 'Lone'\n")}
query all_loans
  from Loan
  lift own_branch
`;

let database: TestDatabase;
let reach: Reach;
const design = readDesign(TEXT, 'sqlite');
const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
beforeAll(async () => {
  database = await makeTestDatabase(TEXT);
  reach = await reachOf({ design, engine: database.engine, sampleKeys, madeHere: true });
});
afterAll(() => database.close());

test('of each kind of actor that the walls tell apart one is found, and those that none is of are left out', () => {
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  expect(reach.actors.map(({ as, kind, rows }) => [as, kind, rows])).toEqual([
    ['nobody', 'has not said who', null],
    ['Player(1)', 'a row of Player', 3],
    ['Player(4)', 'a row of Player of whom me.steward is true', 1],
    ['Player(5)', 'a row of Player whose branch is null', 1],
  ]);
});

test('the rows that somebody sees are as many as a query brings them', async () => {
  for (const { as, reach: own } of reach.actors)
    for (const [entity, { read, change }] of Object.entries(own)) {
      const { actor } = design.actorOf(as);
      if (actor === null) throw new Error(`nobody is ${as}`);
      const query = { kind: 'text' as const, text: `from ${entity}`, parameters: [] };
      const run = await runQuery(design, database.engine, {
        query,
        parameters: {},
        sampleKeys,
        madeHere: true,
        rowLimit: 100,
        as: actor,
      });
      expect([as, entity, run.ok ? run.answer.rows : null]).toEqual([as, entity, read]);
      expect(change).toBeLessThanOrEqual(read);
    }
  const changed = reach.actors.map(({ reach: own }) => own.Remark?.change);
  expect(changed).toEqual([0, 1, 0, 0]);
});

test('walls are told in sentences, with what sees over them and what has none', () => {
  expect(reach.walls.map(({ sentences }) => sentences)).toEqual([
    [
      'Of Player only rows where branch = me.branch are seen and changed.',
      'Of Loan only rows where borrower.branch = me.branch are seen and changed.',
      'Of Seat only rows where player.branch = me.branch are seen and changed.',
      'A new Player has me.branch as its branch, and nobody gives it another.',
      'It is not for those of whom me.steward is true.',
    ],
    ['Of Remark only rows where author = me are changed.', 'A new Remark has me as its author, and nobody gives it another.'],
  ]);
  expect(reach.lifts.map(({ query, walls }) => [query, walls])).toEqual([['all_loans', ['own_branch']]]);
  expect(reach.unwalled).toEqual([]);
  expect(reach.entities.filter(({ walled }) => !walled).map(({ name }) => name)).toEqual(['Branch', 'Ensemble']);
});

test('an entity that leads to whoever is at work and has no wall is named, with the way there', async () => {
  const open = readDesign(
    TEXT.replace('  Seat where player.branch = me.branch\n', '').replace(/ {2}Loan where borrower.*\n/, ''),
    'sqlite',
  );
  const { unwalled } = await reachOf({ design: open, engine: database.engine, sampleKeys, madeHere: true });
  expect(unwalled).toEqual([
    { entity: 'Loan', path: ['borrower'] },
    { entity: 'Seat', path: ['player'] },
  ]);
});

import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import type { LoadWay } from '../core/notation/index.js';
import { doCommands, runQuery } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';

const LOAD_WAYS: readonly LoadWay[] = ['batch', 'join', 'json', 'row'];
const NOW = '2031-04-12T09:00:00.000000Z';

/** The same library, with other rows behind the walls of the players of the north: others, more, and with other values. */
const OTHER_LIBRARY = WALLED_LIBRARY.replace(
  "teo: name 'Teo', email 'teo@example.org', branch Branch(south)",
  "teo: name 'Aaron', branch Branch(south)",
)
  .replace('steward true\n', "steward true\n  lea: name 'Lea', email 'lea@example.org', branch Branch(south)\n")
  .replace('  far: player_id 3\n', '  far: player_id 3, fee 900\n  more: player_id 5, fee 7\n  most: player_id 5\n')
  .replace('  away: player Player(teo), ensemble Ensemble(quartet)\n', '');

const QUERIES: readonly string[] = [
  'from Player\norder by id',
  'from Player\norder by name',
  'from Player\ncount',
  'from Player\nwhere id = 3',
  'from Player\nwhere id = 5\nexists',
  "from Player\nwhere email = 'teo@example.org'",
  'from Loan\norder by fee desc, id',
  'from Loan\nshow sum(fee) as fees, max(fee) as most, count(*) as n',
  'from Loan\nload borrower (name)\n  branch (name)\norder by id',
  'from Branch\nload players (name)\n  loans\norder by id',
  'from Branch\nshow name, count(players) as n, count(players.loans) as loans, max(players.name) as last\norder by name',
  'from Branch\norder by count(players), id',
  'from Branch\nwhere any(players[email is not null])\norder by id',
  'from Branch\nwhere none(players[steward])\norder by id',
  "from Branch\nwhere all(players[name <> 'Lea'])\norder by id",
  'from Remark\nload loan\nload author (name)\norder by id',
  'from Remark\norder by loan.fee, id',
  'from Remark\nwhere loan.fee > 5\norder by id',
  'from Remark\nwhere loan is null\norder by id',
  "from Remark\nwhere author.name < 'B'\norder by id",
  'from Remark\nshow loan.fee as fee, author.name as who, body\norder by body',
  'from Remark\ngroup by author.name\nshow author.name as who, count(*) as n\norder by n, who',
  'from Ensemble\nload players (name)\nload seats\norder by id',
  'from Ensemble\nshow name, count(players) as n, count(seats) as seats\norder by name',
  'from Seat\norder by id',
  'from Player\nload ensembles (name) limit 1\nload remarks_written\norder by id\nlimit 2',
];

const COMMANDS: readonly string[] = [
  ...[3, 5, 99].flatMap((key) => [
    `update Player(${key}) with name 'Nora'`,
    `delete Player(${key})`,
    `create Loan with borrower Player(${key})`,
    `create Loan with player_id ${key}`,
    `update Loan(1) with player_id ${key}`,
    `update Remark(1) with loan Loan(${key})`,
    `link Player(${key}).ensembles to Ensemble(1)`,
    `unlink Ensemble(1).players from Player(${key})`,
    `update Loan(${key}) with fee 4`,
    `find or create Player(${key}).loans[fee = 4]`,
  ]),
  'update Loan[true] with fee 5',
  'update Loan[fee = 900] with fee 5',
  "update Player[name > 'A'] with steward false",
  'delete Loan[true]',
  'delete Loan(1)',
  'delete Loan(2)',
  'delete Branch(2)',
  'delete Ensemble(2)',
  "create Remark with body 'new', loan Loan(1)",
  "create Player with name 'Nora'; create Player with name 'Cole', branch Branch(2)",
  "find or create Player[name = 'Lea']",
  "create or update Player[name = 'Aaron'] with steward false",
];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

describe.each(ONE_OF_EACH)('on %s, of two worlds that differ behind the walls alone', (name) => {
  const worlds: MadeTree[] = [];
  beforeAll(async () => {
    for (const text of [WALLED_LIBRARY, OTHER_LIBRARY]) worlds.push(await makeOn(engines, name, text));
  }, 600_000);
  afterAll(async () => {
    for (const { database } of worlds) await database.remove();
  });

  async function answer({ design, database, made }: MadeTree, text: string, as: string): Promise<readonly string[]> {
    const { actor } = design.actorOf(as);
    if (actor === null) throw new Error(`nobody is ${as}`);
    const query = { kind: 'text' as const, text, parameters: [] };
    const base = { query, parameters: {}, sampleKeys: made.sampleKeys, madeHere: true, rowLimit: 1000, as: actor };
    const answers: string[] = [];
    for (const way of LOAD_WAYS) {
      const run = await runQuery(design, database.engine, { ...base, way });
      answers.push(run.ok ? run.answer.text : [...run.findings.map(({ message }) => message), ...run.problems].join(' '));
    }
    return answers;
  }

  async function done({ design, database, made }: MadeTree, text: string, as: string): Promise<unknown> {
    const { actor } = design.actorOf(as);
    if (actor === null) throw new Error(`nobody is ${as}`);
    const request = { text, as: actor, sampleKeys: made.sampleKeys, madeHere: true, now: NOW, rehearse: true, seed: 'the same' };
    const outcome = await doCommands(design, database.engine, request);
    if (!outcome.ok) return [...outcome.findings.map(({ message }) => message), ...outcome.problems];
    const { lines, along } = outcome.carried;
    // Numbers of the engine go on from those of hidden rows, as those of any sequence do.
    const plain = JSON.stringify({ lines, along }).replace(/"(?:id|key|value)":\d+/g, '');
    return plain.replace(/"~shown":"?\d+"?/g, '');
  }

  const AS: readonly string[] = ['Player(1)', 'Player(2)', 'nobody'];

  test('every query is answered in the same bytes, in every way to load', async () => {
    for (const as of AS)
      for (const query of QUERIES) {
        const [first, second] = await Promise.all(worlds.map((world) => answer(world, query, as)));
        expect({ as, query, answers: first }).toEqual({ as, query, answers: second });
      }
    const different = await Promise.all(worlds.map((world) => answer(world, QUERIES[0] ?? '', 'system')));
    expect(different[0]).not.toEqual(different[1]);
  }, 600_000);

  test('every command comes to the same, and is refused in the same words', async () => {
    for (const as of AS)
      for (const command of COMMANDS) {
        const [first, second] = await Promise.all(worlds.map((world) => done(world, command, as)));
        expect({ as, command, told: first }).toEqual({ as, command, told: second });
      }
  }, 600_000);
});

import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { temporaryFolder } from '../tests/database.js';
import { checkExpectations, isHeld, makeDatabase, runQuery, type WhySeen, whySeen } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

const LIBRARY = `tree 'Who sees what'
  actor Player
  clock '2031-04-12 09:00'

mixin Owned
  open boolean default true

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id       integer key
  name     text(40)
  steward  boolean default false

entity Instrument in instruments
  id    integer key
  name  text(40)
  uses Owned
  kinds in single table by kind

entity Viol is Instrument
  strings  integer

entity Loan in loans
  id         integer key
  player_id  integer optional
  uses Owned

entity Seat in seats
  id  integer key

entity Ensemble in ensembles
  id  integer key

entity Remark in remarks
  id  integer key

relation remark_subject
  Remark knows at most one Branch | Ensemble as subject
  each knows many Remark as remarks
  stored in Remark.subject_type with Remark.subject_id

entity Case in cases
  id  integer key

relation case_remark
  Case knows at most one Remark as remark
  Remark knows many Case as cases

entity Label in labels
  id  integer key

relation label_case
  Label knows at most one Case as of
  Case knows many Label as labels

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows at most one Player as borrower
  Player knows many Loan as loans
  stored in Loan.player_id

relation lending
  Loan knows at most one Instrument as instrument
  Instrument knows many Loan as loans

relation seat_player
  Seat knows one Player as player
  Player knows many Seat as seats

relation seat_ensemble
  Seat knows one Ensemble as ensemble
  Ensemble knows many Seat as seats

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
  stored in Seat (player, ensemble)

wall own_branch on read
  Player where branch = me.branch
  unless me.steward

wall open_things on read
  Owned where open

wall viols on read
  Viol where strings > 5

wall first_seats on read
  Seat where id < 3

wall cases_of_ensembles on read
  Case where remark.subject is an Ensemble

query everybody
  from Player
  lift own_branch
  order by id

sample Branch
  north: name 'North Quay'
  south: name 'South Gate'

sample Player
  ines: name 'Ines', branch Branch(north)
  omar: name 'Omar', branch Branch(south)
  stewart: name 'Stewart', branch Branch(south), steward true

sample Instrument
  flute: name 'Flute'
  drum: name 'Drum', open false

sample Viol
  bass: name 'Bass viol', strings 6
  quinton: name 'Quinton', strings 5

sample Loan
  a: borrower Player(ines), instrument Instrument(flute)
  b: borrower Player(omar), instrument Instrument(drum)
  c: borrower null, instrument Viol(quinton)
  d: borrower Player(omar), instrument Viol(bass), open false

sample Ensemble
  first: id 1
  second: id 2

sample Seat
  one: player Player(ines), ensemble Ensemble(first)
  two: player Player(omar), ensemble Ensemble(first)
  three: player Player(ines), ensemble Ensemble(second)

sample Remark
  on_branch: subject Branch(north)
  on_ensemble: subject Ensemble(first)

sample Case
  one: remark Remark(on_branch)
  two: remark Remark(on_ensemble)

sample Label
  one: of Case(one)
  two: of Case(two)
  none: of null

expect everybody as Player(ines)
  rows 3

expect everybody as nobody
  rows 3
`;

const folder = temporaryFolder();
let design: Design;
let engine: Engine;
beforeAll(async () => {
  design = readDesign(LIBRARY);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  const path = join(folder.path, 'walls.db');
  expect(await makeDatabase(design, path)).toMatchObject({ ok: true });
  engine = openSqlite({ path, mode: 'look', milliseconds: 20_000 });
});
afterAll(async () => {
  await engine.close();
  folder.remove();
});

async function asked(as: string, text: string): Promise<unknown> {
  const { actor } = design.actorOf(as);
  if (actor === null) throw new Error(`${as} is nobody who can be at work`);
  const sampleKeys = namedKeys(design.model, NOW);
  const query = { kind: 'text' as const, text, parameters: [] };
  const outcome = await runQuery(design, engine, { query, parameters: {}, sampleKeys, madeHere: true, rowLimit: 100, as: actor });
  return outcome.ok ? JSON.parse(outcome.answer.text) : outcome.problems;
}

const INES = 'Player(ines)';

test('a row behind a wall is neither listed, nor found by its key, nor counted, nor said to be there', async () => {
  expect(await asked(INES, 'from Player\nshow name')).toEqual([{ name: 'Ines' }]);
  expect(await asked(INES, 'from Player\nwhere id = 2')).toEqual([]);
  expect(await asked(INES, 'from Player\ncount')).toEqual([{ count: 1 }]);
  expect(await asked(INES, 'from Player\nwhere id = 2\nexists')).toEqual([{ exists: false }]);
  expect(await asked('system', 'from Player\ncount')).toEqual([{ count: 3 }]);
});

test('a row that is pointed at behind a wall is hidden, told apart from none, and the row that points at it stays', async () => {
  const loans = 'from Loan\nload borrower (name)\nload instrument (name)\norder by id';
  expect(await asked(INES, loans)).toMatchObject([
    { id: 1, borrower: { name: 'Ines' }, instrument: { name: 'Flute' } },
    // The key that stands in a field of its own is data of the loan; one that no field shows is withheld.
    { id: 2, borrower: { hidden: true }, player_id: 2, instrument: { hidden: true }, instrument_id: { hidden: true } },
    { id: 3, borrower: null, player_id: null, instrument: { hidden: true } },
  ]);
});

test('a wall may ask what a role to several leads to, of the row behind another role', async () => {
  const labels = (way: string) => `from Label\nload of by ${way}\norder by id`;
  for (const way of ['batch', 'join', 'json', 'row'])
    expect(await asked(INES, labels(way)), way).toMatchObject([{ of: { hidden: true } }, { of: { id: 2 } }, { of: null }]);
  expect(await asked(INES, 'from Label\nwhere of is null\nshow id\norder by id')).toEqual([{ id: 1 }, { id: 3 }]);
});

test('what is hidden is none to a condition, an order and an aggregate', async () => {
  expect(await asked(INES, 'from Loan\nwhere borrower is null\nshow id\norder by id')).toEqual([{ id: 2 }, { id: 3 }]);
  expect(await asked(INES, 'from Loan\nwhere borrower = Player(omar)\ncount')).toEqual([{ count: 0 }]);
  expect(await asked(INES, "from Loan\nwhere borrower.name like 'O%'\ncount")).toEqual([{ count: 0 }]);
  expect(await asked(INES, 'from Loan\nshow id\norder by borrower.name desc, id')).toEqual([{ id: 1 }, { id: 2 }, { id: 3 }]);
  expect(await asked(INES, 'from Branch\nshow name, count(players) as n\norder by id')).toEqual([
    { name: 'North Quay', n: '1' },
    { name: 'South Gate', n: '0' },
  ]);
});

test('an unless frees from its own wall alone', async () => {
  expect(await asked('Player(stewart)', 'from Player\ncount')).toEqual([{ count: 3 }]);
  expect(await asked('Player(stewart)', 'from Loan\ncount')).toEqual([{ count: 3 }]);
});

test('nobody is let through nothing that asks who they are, and held back by the other walls as anybody is', async () => {
  expect(await asked('nobody', 'from Player\ncount')).toEqual([{ count: 0 }]);
  expect(await asked('nobody', 'from Loan\ncount')).toEqual([{ count: 3 }]);
  expect(await asked('nobody', 'from Loan\nwhere borrower = me\ncount')).toEqual([{ count: 0 }]);
});

test('a wall on a kind holds where its base is read, and lets all other kinds through', async () => {
  expect(await asked('nobody', 'from Instrument\nshow name\norder by id')).toEqual([{ name: 'Flute' }, { name: 'Bass viol' }]);
  expect(await asked('nobody', 'from Viol\nshow name')).toEqual([{ name: 'Bass viol' }]);
});

test('pairs that are rows of an entity stand behind its walls', async () => {
  expect(await asked('Player(stewart)', 'from Ensemble\nload players (name)\norder by id')).toMatchObject([
    { id: 1, players: [{ name: 'Ines' }, { name: 'Omar' }] },
    { id: 2, players: [] },
  ]);
  expect(await asked('Player(stewart)', 'from Ensemble\nwhere any(players)\ncount')).toEqual([{ count: 1 }]);
});

test('me is the row at work: its values are asked for in a query, and nobody can work as a row that is not there', async () => {
  expect(await asked(INES, 'from Loan\nwhere borrower = me\nshow id, me.name as whose')).toEqual([{ id: 1, whose: 'Ines' }]);
  expect(await asked('system', 'from Loan\nwhere borrower = me')).toEqual([
    expect.stringContaining('the system is nobody’s row'),
  ]);
  expect(await asked('Player(77)', 'from Loan')).toEqual([expect.stringContaining('There is no such Player')]);
});

test('a query sees over the wall that it lifts, and an expectation is held as whoever it names', async () => {
  const sampleKeys = namedKeys(design.model, NOW);
  const of = { engine, writable: { problem: '' }, sampleKeys, madeHere: true, now: NOW };
  const runs = await checkExpectations(design, of);
  expect(runs.map((run) => [run.label, isHeld(run)])).toEqual([
    ['everybody as Player(ines)', true],
    ['everybody as nobody', true],
  ]);
});

async function why(row: string, as: string): Promise<WhySeen> {
  const named = design.rowOf(row).row;
  const { actor } = design.actorOf(as);
  if (named === null || actor === null) throw new Error(`${row} or ${as} is no row`);
  const lookedAt = { design, engine, sampleKeys: namedKeys(design.model, NOW), madeHere: true };
  const told = await whySeen(lookedAt, named, actor);
  if (!told.ok) throw new Error(told.problem.message);
  return told.value;
}

test('why a row is not seen is told by each line of each wall, with its values', async () => {
  expect(await why('Player(omar)', INES)).toMatchObject({
    there: true,
    seen: false,
    walls: [
      {
        name: 'own_branch',
        free: false,
        lines: [
          {
            text: 'branch = me.branch',
            value: false,
            parts: [
              { text: 'branch', value: 2 },
              { text: 'me.branch', value: 1 },
            ],
          },
        ],
      },
    ],
  });
  expect(await why('Player(omar)', 'Player(stewart)')).toMatchObject({
    seen: true,
    walls: [{ free: true, unless: ['me.steward'] }],
  });
  expect(await why('Player(omar)', 'nobody')).toMatchObject({ seen: false, walls: [{ free: false, lines: [{ value: false }] }] });
  expect(await why('Player(omar)', 'system')).toEqual({ there: true, seen: true, changed: true, walls: [] });
  expect(await why('Player(77)', INES)).toEqual({ there: false, seen: false, changed: false, walls: [] });
});

test('a row that is asked for by its base stands behind the walls of its kind', async () => {
  expect(await why('Instrument(quinton)', INES)).toMatchObject({
    seen: false,
    walls: [
      { name: 'open_things', lines: [{ text: 'open', value: true, parts: [] }] },
      { name: 'viols', lines: [{ text: 'strings > 5', value: false, parts: [{ text: 'strings', value: 5 }] }] },
    ],
  });
  expect((await why('Instrument(flute)', INES)).walls.map(({ name }) => name)).toEqual(['open_things']);
});

test('why and what is answered agree, for every row and whoever is at work', async () => {
  for (const as of [INES, 'Player(omar)', 'Player(stewart)', 'nobody'])
    for (const entity of ['Player', 'Loan', 'Instrument', 'Seat', 'Branch']) {
      const all = (await asked('system', `from ${entity}\nshow id`)) as { id: number }[];
      const seen = (await asked(as, `from ${entity}\nshow id`)) as { id: number }[];
      for (const { id } of all)
        expect((await why(`${entity}(${id})`, as)).seen, `${entity}(${id}) as ${as}`).toBe(seen.some((one) => one.id === id));
    }
});

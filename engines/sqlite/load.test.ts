import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readDesign } from '../../core/design/index.js';
import { importSchema } from '../../core/import/index.js';
import { makeDatabase, runQuery } from '../../services/index.js';
import { makeTestDatabase, type TestDatabase, temporaryFolder } from '../../tests/database.js';
import { openSqlite } from '../index.js';
import { rawRows } from '../raw-rows.js';

const LIBRARY = `tree 'Library'
  clock '2031-04-12 09:00'

entity Branch
  id    integer key
  name  text(80)
  town  text(40) optional

entity Player
  id      integer key
  name    text(80)
  secret  text(20) hidden default 'x'
  initial = upper(substr(name, 1, 1))
  order by name

entity Loan
  id           bigint key
  lent_on      date
  due_on       date
  returned_on  date optional
  fee          decimal(6, 2)
  paid         boolean default false
  data         json optional
  raw          bytes optional
  at           timestamp default now

entity Ensemble
  id     integer key
  title  text(80)

relation home
  Player knows at most one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans order by due_on desc

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players order by seats.chair desc
  stored in table seats (player_id, ensemble_id)
    chair  integer

relation duets
  Player knows many Player as partners, both ways

scope overdue
  Loan where returned_on is null and due_on < today

scope lively
  Branch where any(players[any(loans[overdue])])

sample Branch
  north: name 'North', town 'Ferren'
  south: name 'South'

sample Player
  ines: name 'Ines', branch Branch(north)
  omar: name 'Omar', branch Branch(south), mentor Player(ines)
  rosa: name 'Rosa', mentor Player(omar)

sample Loan
  a: borrower Player(ines), lent_on '2031-01-01', due_on '2031-02-01', fee 0.10, data '{"n":[1,"x"]}', raw '00ff'
  b: borrower Player(ines), lent_on '2031-01-01', due_on '2031-03-01', returned_on '2031-02-11', fee 0.20, paid true
  c: borrower Player(omar), lent_on '2031-01-01', due_on '2031-05-01', fee 12.50

sample Ensemble 0
`;

let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(LIBRARY);
});
afterAll(() => library.close());

/** The values of one field over the root rows. */
async function values(query: string, field: string, parameters?: Record<string, string>): Promise<unknown[]> {
  return (await library.rows(query, parameters)).map((row) => row[field]);
}

describe('conditions', () => {
  test.each([
    ['a scope by its name', 'from Loan\nwhere overdue', 'id', ['1']],
    ['a path over to-one roles', "from Loan\nwhere borrower.branch.name = 'South'", 'id', ['3']],
    [
      'a hop over nothing is null, and never fewer rows',
      "from Player\nwhere branch.name = 'North' or branch is null",
      'name',
      ['Ines', 'Rosa'],
    ],
    ['a hop over nothing is not unequal either', "from Player\nwhere branch.name <> 'North'", 'name', ['Omar']],
    ['any over many', 'from Player\nwhere any(loans[paid])', 'name', ['Ines']],
    ['none over many', 'from Player\nwhere none(loans)', 'name', ['Rosa']],
    ['all holds where there are none', 'from Player\nwhere all(loans[returned_on is null])', 'name', ['Omar', 'Rosa']],
    ['count of many', 'from Player\nwhere count(loans) = 2', 'name', ['Ines']],
    ['count over two hops counts each end once', 'from Branch\nwhere count(players.loans) = 2', 'name', ['North']],
    ['a scope that stands on another', 'from Branch\nwhere lively', 'name', ['North']],
    ['not over a to-one path that leads nowhere is unknown', "from Player\nwhere not mentor.name = 'Ines'", 'name', ['Rosa']],
    ['a row by its key', 'from Player\nwhere mentor = Player(1)', 'name', ['Omar']],
    ['a sample row by its name', 'from Player\nwhere mentor = Player(ines)', 'name', ['Omar']],
    ['a derived field', "from Player\nwhere initial = 'R'", 'name', ['Rosa']],
    ['like keeps its case', "from Player\nwhere name like 'o%'", 'name', []],
    ['decimals add up exactly', 'from Loan\nwhere fee + 0.20 = 0.30', 'id', ['1']],
    ['days between dates', 'from Loan\nwhere due_on - lent_on = 31', 'id', ['1']],
    ['a month later clamps to its end', "from Loan\nwhere lent_on + 30 days + 1 month = '2031-02-28'", 'id', ['1', '2', '3']],
    ['whole numbers divide toward zero', 'from Branch\nwhere -7 / 2 = -3 and id = 1', 'id', [1]],
    ['division by zero is null', 'from Branch\nwhere 1 / (id - id) is null', 'id', [1, 2]],
  ])('%s', async (_name, query, field, expected) => {
    expect(await values(query, field)).toEqual(expected);
  });

  test('a parameter is a row or a value, read as its type', async () => {
    const text = `${LIBRARY}\nquery of_branch(branch Branch, day date)\n  from Loan\n  where borrower.branch = :branch and due_on >= :day\n`;
    const database = await makeTestDatabase(text);
    expect((await database.rows('of_branch', { branch: 'north', day: '2031-02-15' })).map((row) => row.id)).toEqual(['2']);
    expect((await database.rows('of_branch', { branch: '2', day: '2031-01-01' })).map((row) => row.id)).toEqual(['3']);
    await expect(database.rows('of_branch', { branch: 'north', day: 'soon' })).rejects.toThrow('“soon” is no date');
    await expect(database.rows('of_branch', { branch: 'north' })).rejects.toThrow('The query needs a value for day.');
    await database.close();
  });
});

describe('loads by batch', () => {
  test('one statement for each loaded relation, and none where there are no owners', async () => {
    const all = await library.answer('from Branch\nload players (name)\n  loans\n    borrower (name)');
    expect(all.log.map((entry) => entry.path)).toEqual(['', 'players', 'players.loans', 'players.loans.borrower']);
    const none = await library.answer("from Branch\nwhere name = 'nowhere'\nload players\n  loans");
    expect(none.log.length).toBe(1);
  });

  test('children stand with their owners, in the order of the role', async () => {
    const rows = await library.rows('from Player\nload loans');
    expect(rows.map((row) => [row.name, (row.loans as { id: string }[]).map((loan) => loan.id)])).toEqual([
      ['Ines', ['2', '1']],
      ['Omar', ['3']],
      ['Rosa', []],
    ]);
  });

  test('a load has conditions and an order of its own, and never changes which root rows come', async () => {
    const rows = await library.rows('from Player\nload loans where not paid order by id desc');
    expect(rows.map((row) => (row.loans as { id: string }[]).map((loan) => loan.id))).toEqual([['1'], ['3'], []]);
  });

  test('a to-one load is a row or null', async () => {
    const rows = await library.rows('from Player\nload mentor (name)\n  branch (name)');
    expect(rows.map((row) => row.mentor)).toEqual([
      null,
      { id: 1, name: 'Ines', branch: { id: 1, name: 'North' } },
      { id: 2, name: 'Omar', branch: { id: 2, name: 'South' } },
    ]);
  });

  test('a pivot’s own fields come by its table’s name, and order the rows', async () => {
    const text = LIBRARY.replace('sample Ensemble 0\n', 'sample Ensemble 2\n  players 3 to 3 each\n');
    const database = await makeTestDatabase(text);
    for (const row of await database.rows('from Ensemble\nload players (name, seats.chair)')) {
      const players = row.players as { name: string; seats: { chair: number } }[];
      expect(players.length).toBe(3);
      const chairs = players.map((player) => player.seats.chair);
      expect(chairs).toEqual([...chairs].sort((a, b) => b - a));
    }
    expect(await database.rows('from Ensemble\nwhere any(players[seats.chair < 0])')).toEqual([]);
    await database.close();
  });

  test('a symmetric relation is read from either side, each pair kept once', async () => {
    const database = await makeTestDatabase(`${LIBRARY}\nsample Player 20\n  partners 1 to 3 each\n`);
    const partners = new Map(
      (await database.rows('from Player\nload partners')).map((row) => [
        row.id,
        (row.partners as { id: number }[]).map((partner) => partner.id),
      ]),
    );
    for (const [player, others] of partners) for (const other of others) expect(partners.get(other)).toContain(player);
    const [count] = await database.rows('from Player\nwhere any(partners)\ncount');
    expect(count).toEqual({ count: Array.from(partners.values()).filter((others) => others.length > 0).length });
    await database.close();
  });

  test('hidden fields stay away; key columns are there under their own names', async () => {
    const [row] = await library.rows('from Player\nlimit 1');
    expect(row).toEqual({ id: 1, name: 'Ines', initial: 'I', branch_id: 1, mentor_id: null });
  });

  test('every type has one wire form', async () => {
    const [first, second] = await library.rows('from Loan');
    expect(first).toMatchObject({
      id: '1',
      fee: '0.10',
      paid: false,
      data: { n: [1, 'x'] },
      raw: '00ff',
      at: '2031-04-12T09:00:00.000000Z',
      returned_on: null,
    });
    expect(second).toMatchObject({ fee: '0.20', paid: true, data: null, raw: null, returned_on: '2031-02-11' });
  });
});

describe('which rows come', () => {
  test('the key is the last tie-break, limit and offset cut', async () => {
    expect(await values('from Loan\norder by lent_on\nlimit 2', 'id')).toEqual(['1', '2']);
    expect(await values('from Loan\norder by lent_on\noffset 1', 'id')).toEqual(['2', '3']);
  });

  test('nulls come first, and last where the order descends', async () => {
    expect(await values('from Branch\norder by town', 'name')).toEqual(['South', 'North']);
    expect(await values('from Branch\norder by town desc', 'name')).toEqual(['North', 'South']);
  });

  test('first may be nothing; one may not be none, nor more', async () => {
    expect(await library.rows("from Player\nwhere name = 'Zeno'\nfirst")).toEqual([]);
    await expect(library.rows("from Player\nwhere name = 'Zeno'\none")).rejects.toThrow('there is none');
    await expect(library.rows('from Player\none')).rejects.toThrow('there are more');
    expect(await library.rows('from Loan\nwhere overdue\ncount')).toEqual([{ count: 1 }]);
  });

  test('the row limit says where it cut', async () => {
    const { cuts, rows, log } = await library.answer('from Player\nload loans', {}, { rowLimit: 2 });
    expect(rows).toBe(2);
    expect(cuts).toEqual([
      { path: '', limit: 2, size: null },
      { path: 'loans', limit: 2, size: null },
    ]);
    expect(log.map((entry) => entry.rows)).toEqual([2, 2]);
  });
});

describe('the SQL is what a careful person would write', () => {
  test('conditions share a join, and a key needs none', async () => {
    const { log } = await library.answer(
      "from Loan\nwhere borrower.name like 'I%' and borrower.branch = Branch(1)\norder by borrower.name",
    );
    expect(log[0]?.plain).toBe(
      `select loans.id, loans.lent_on, loans.due_on,\n       loans.returned_on, loans.fee, loans.paid, loans.data,\n       loans.raw, loans.at, loans.borrower_id\nfrom loans\njoin players on players.id = loans.borrower_id\nwhere players.name like 'I%' escape '\\'\n  and players.branch_id = 1\norder by players.name, loans.id`,
    );
  });

  test('a to-many condition is exists', async () => {
    const { log } = await library.answer('from Player\nwhere any(loans[paid])');
    expect(log[0]?.plain).toContain(
      'exists (\n    select 1\n    from loans\n    where loans.borrower_id = players.id\n      and loans.paid\n  )',
    );
  });

  test('keys are one parameter', async () => {
    const { log } = await library.answer('from Player\nload loans');
    expect(log[1]?.plain).toContain('where loans.borrower_id in (select value from json_each(:keys))');
    expect(log[1]?.parameters).toEqual([{ name: 'keys', shown: '1, 2, 3', count: 3 }]);
  });
});

describe('a database that others fill', () => {
  const folder = temporaryFolder();
  const path = join(folder.path, 'others.db');
  const db = new Database(path);
  db.exec(`
    create table owners (id integer primary key, name text not null, born date, big integer);
    create table things (id integer primary key, owner_id integer not null references owners (id), note text, price decimal(6,2), raw blob, ok boolean);
    pragma foreign_keys = off;
    insert into owners values (1, 'Ines', '2001-02-03', 9007199254740993), (2, x'ff', 'yesterday', 'not a number');
    insert into things values (1, 1, 7, 2.5, x'00', 1), (2, 1, x'01', 'cheap', 'text', 'maybe'), (3, 99, 'dangling', null, null, 0);
  `);
  db.close();

  test('what does not fit its type arrives as it is stored, and is marked', async () => {
    const engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
    const looked = await engine.introspect();
    if (!looked.ok) throw new Error(looked.problem.message);
    const design = readDesign(importSchema(looked.value, 'Others').text);
    expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    const run = async (text: string) => {
      const outcome = await runQuery(design, engine, {
        query: { kind: 'text', text, parameters: [] },
        parameters: {},
        sampleKeys: {},
        madeHere: false,
        rowLimit: 100,
      });
      if (!outcome.ok) throw new Error(outcome.problems.join());
      return JSON.parse(outcome.answer.text) as unknown;
    };
    expect(await run('from Owner\nload things')).toEqual([
      {
        id: '1',
        name: 'Ines',
        born: '2001-02-03',
        big: '9007199254740993',
        things: [
          { id: '1', note: '7', price: '2.50', raw: '00', ok: true, owner_id: '1' },
          {
            id: '2',
            note: { asStored: { bytes: '01' } },
            price: { asStored: 'cheap' },
            raw: { asStored: 'text' },
            ok: { asStored: 'maybe' },
            owner_id: '1',
          },
        ],
      },
      {
        id: '2',
        name: { asStored: { bytes: 'ff' } },
        born: { asStored: 'yesterday' },
        big: { asStored: 'not a number' },
        things: [],
      },
    ]);
    expect(await run('from Thing\nwhere id = 3\nload owner')).toMatchObject([{ owner_id: '99', owner: null }]);
    expect(await run("from Thing\nwhere owner.name = 'x' or note = 'dangling'")).toMatchObject([{ id: '3' }]);
    await engine.close();
    folder.remove();
  });
});

test('a runaway statement is stopped at its limit, named, and the next call works', async () => {
  const folder = temporaryFolder();
  const path = join(folder.path, 'run.db');
  new Database(path).exec('create table t (id integer primary key)').close();
  const engine = openSqlite({ path, mode: 'look', milliseconds: 6000 });
  await rawRows(engine, 'select 1', {});
  const outcome = await rawRows(
    engine,
    'with recursive n(i) as (select 1 union all select i + 1 from n) select count(*) from n',
    {},
  );
  expect(outcome.ok ? '' : outcome.problem.code).toBe('timeout');
  expect(outcome.ok ? '' : outcome.problem.message).toContain('with recursive n');
  expect(await rawRows(engine, 'select 2', {})).toEqual({ ok: true, value: [[2]] });
  await engine.close();
  folder.remove();
});

test('rows with keys of several columns, some of them shared, are made, kept by the database, and loaded', async () => {
  const folder = temporaryFolder();
  const path = join(folder.path, 'shared.db');
  const design = readDesign(`
entity Branch in branches
  town  text(20)
  code  integer
  key (town, code)

entity Shelf in shelves
  number  integer
  key (branch, number)

entity Label in labels
  ink  text(10)
  key (shelf)

entity Loan in loans
  id         integer key
  town       text(20)
  home_code  integer
  shelf_code integer
  shelf_no   integer

relation shelving
  Shelf knows one Branch as branch
  Branch knows many Shelf as shelves

relation labelling
  Label knows one Shelf as shelf
  Shelf knows at most one Label as label

relation homing
  Loan knows one Branch as home
  Branch knows many Loan as loans
  stored in Loan.(town, home_code)

relation storing
  Loan knows one Shelf as shelf
  Shelf knows many Loan as loans
  stored in Loan.(town, shelf_code, shelf_no)

relation keeping
  Shelf knows many Branch as keepers
  Branch knows many Shelf as kept

sample Branch 8
sample Shelf 30
sample Label 12
sample Loan 60
`);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  const made = await makeDatabase(design, path);
  expect(made.ok && made.value.unsatisfied).toEqual([]);
  expect(made.ok && made.value.rows).toMatchObject({ branches: 8, shelves: 30, labels: 12, loans: 60 });
  const db = new Database(path);
  expect(db.pragma('foreign_key_check')).toEqual([]);
  const apart = db.prepare(
    'select count(*) from loans join shelves on branch_town = town and branch_code = shelf_code and number = shelf_no',
  );
  expect(apart.pluck().get()).toBe(60);
  db.close();
  const engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
  const outcome = await runQuery(design, engine, {
    query: { kind: 'text', text: 'from Branch\nload shelves\n  label\n  loans\n    home', parameters: [] },
    parameters: {},
    sampleKeys: {},
    madeHere: true,
    rowLimit: 1000,
  });
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const branches = JSON.parse(outcome.answer.text) as { town: string; shelves: { loans: { home: { town: string } }[] }[] }[];
  expect(branches.flatMap(({ shelves }) => shelves)).toHaveLength(30);
  const loans = branches.flatMap(({ town, shelves }) =>
    shelves.flatMap((shelf) => shelf.loans.map(({ home }) => [town, home.town])),
  );
  expect(loans).toHaveLength(60);
  for (const [town, home] of loans) expect(home).toBe(town);
  expect(outcome.answer.log).toHaveLength(5);
  await engine.close();
  folder.remove();
});

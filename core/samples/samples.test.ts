import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { rawRows } from '../../engines/raw-rows.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { makeTestDatabase } from '../../tests/database.js';
import { readDesign } from '../design/index.js';
import { makeSamples, namedKeys } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

/** The made rows of a table, as plain objects. */
function rowsOf(text: string, table: string): Record<string, unknown>[] {
  const { tables } = makeSamples(readDesign(text).model, NOW);
  return tables.find((made) => made.table === table)?.rows.map((row) => Object.fromEntries(row)) ?? [];
}

const DEMANDING = `tree 'Demanding'
  clock '2031-04-12 09:00'

choice Condition
  'mint'
  'worn'

entity Branch
  id    integer key
  name  text(20) unique

entity Player
  id      uuid key
  email   text(60) unique
  born    date
  joined  date optional
  left    date optional
  score   decimal(5, 1)
  level   integer
  grade   text(1) in ('A', 'B', 'C')
  code    text(8)
  state   Condition default 'mint'
  unique (branch, code)
  check joined_after_born: joined is null or joined >= born
  check left_after_joined: left is null or left >= joined
  check fair: score between 10 and 20 and level > 3 and level <= 9
  check long_code: length(code) = 6
  check not_middle: level <> 5 and grade <> 'B'

entity Card
  id      integer key
  number  bigint unique

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation card
  Card knows one Player as player
  Player knows at most one Card as card

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation seating
  Player knows many Branch as seats
  Branch knows many Player as sitters
  stored in table seats (player_id, branch_id)
    chair  integer
    unique (branch_id, chair)
    check few: chair between 1 and 500

relation duets
  Player knows many Player as partners, both ways

sample Branch 20
sample Player 1000
sample Card 700
`;

test('a thousand rows hold to every type, check, unique and relation', async () => {
  const database = await makeTestDatabase(DEMANDING);
  expect(database.made.unsatisfied).toEqual([]);
  expect(database.made.rows).toMatchObject({ branches: 20, players: 1000, cards: 700 });
  expect(database.made.rows.seats).toBeGreaterThan(1000);
  expect(database.made.rows.duets).toBeGreaterThan(500);
  const violations = await rawRows(database.engine, 'select * from pragma_foreign_key_check');
  expect(violations).toEqual({ ok: true, value: [] });
  await database.close();
});

test('for any model the made rows are taken by the database', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      const database = await makeTestDatabase(text);
      const { unsatisfied } = database.made;
      await database.close();
      // A unique over few values, or a one-to-one with few partners, cannot always be had; nothing else may fail.
      expect(unsatisfied.filter(({ constraint }) => !/unique|one-to-one|needs a/.test(constraint))).toEqual([]);
    }),
    { numRuns: 12, seed: 11 },
  );
}, 600_000);

describe('the same text gives the same rows', () => {
  test('on each run', () => {
    expect(rowsOf(DEMANDING, 'players')).toEqual(rowsOf(DEMANDING, 'players'));
  });

  test('adding an entity moves nobody else’s', () => {
    const demo = readFileSync('demo/library.kin', 'utf8');
    const more = `${demo.replace('entity Tag in', 'entity Shelf\n  id integer key\n  label text(20)\n\nentity Tag in')}\nrelation shelved\n  Tag knows at most one Shelf as shelf\n  Shelf knows many Tag as tags\n`;
    for (const table of ['branches', 'players', 'instruments', 'loans', 'remarks', 'seats', 'duets'])
      expect(rowsOf(more, table)).toEqual(rowsOf(demo, table));
  });

  test('adding a field moves no other field', () => {
    const without = rowsOf(DEMANDING, 'players').map(({ email }) => email);
    expect(
      rowsOf(DEMANDING.replace('  born    date', '  nick    text(10)\n  born    date'), 'players').map(({ email }) => email),
    ).toEqual(without);
  });
});

describe('what a sample line says is done', () => {
  const text = (lines: string) =>
    `entity Branch\n  id integer key\n  name text(20)\n\nentity Loan\n  id integer key\n  day date optional\n  fee decimal(6, 2)\n  state text(10)\n\nrelation at\n  Loan knows at most one Branch as branch\n  Branch knows many Loan as loans\n\n${lines}`;

  test('named rows stand first, as they are written, and may be named by others', () => {
    const rows = rowsOf(
      text(
        "sample Branch\n  north: name 'North'\n\nsample Loan 2\n  state 'x'\n\nsample Loan\n  a: branch Branch(north), fee 2.5, day '2031-01-01', state 'open'\n",
      ),
      'loans',
    );
    expect(rows[0]).toEqual({ id: 1, day: '2031-01-01', fee: '2.50', state: 'open', branch_id: 1 });
    expect(rows.length).toBe(3);
  });

  test('shares are kept, roughly, and bounds exactly', () => {
    const rows = rowsOf(
      text(
        "sample Loan 2000\n  state 'worn' 30%, 'mint' 70%\n  day between '2031-01-01' and today, or null 10%\n  fee between 2 and 4\n  branch any Branch, or null 50%\n",
      ),
      'loans',
    );
    const share = (test: (row: Record<string, unknown>) => boolean) => rows.filter(test).length / rows.length;
    expect(share((row) => row.state === 'worn')).toBeCloseTo(0.3, 1);
    expect(share((row) => row.day === null)).toBeCloseTo(0.1, 1);
    expect(share((row) => row.branch_id === null)).toBeCloseTo(0.5, 1);
    for (const row of rows) {
      expect(row.day === null || (String(row.day) >= '2031-01-01' && String(row.day) <= '2031-04-12')).toBe(true);
      expect(Number(row.fee) >= 2 && Number(row.fee) <= 4).toBe(true);
    }
  });

  test('parents may say how many children each has', () => {
    const rows = rowsOf(text('sample Branch 40\n  loans 2 to 3 each\n'), 'loans');
    const counts = new Map<unknown, number>();
    for (const row of rows) counts.set(row.branch_id, (counts.get(row.branch_id) ?? 0) + 1);
    expect(counts.size).toBe(40);
    expect(new Set(counts.values())).toEqual(new Set([2, 3]));
  });

  test('an entity that no sample speaks of has a dozen rows, and none where it says 0', () => {
    expect(rowsOf(text(''), 'branches').length).toBe(12);
    expect(rowsOf(text('sample Branch 0\n'), 'branches').length).toBe(0);
  });
});

describe('what cannot be satisfied is said, and the rest is made', () => {
  test('by the constraint’s name, with the number of rows', () => {
    const { model } = readDesign(
      "entity Branch\n  id integer key\n  size text(1) unique in ('S', 'M')\n\nentity Loan\n  id integer key\n  fee integer\n  check never: fee > 5 and fee < 3\n\nsample Branch 10\nsample Loan 4\n",
    );
    const { unsatisfied, tables } = makeSamples(model, NOW);
    expect(unsatisfied).toEqual([
      { owner: 'Branch', constraint: 'size unique', rows: 8 },
      { owner: 'Loan', constraint: 'check never', rows: 4 },
    ]);
    expect(tables.find((table) => table.table === 'branches')?.rows.length).toBe(2);
  });

  test('a rule that rows break is counted', async () => {
    const database = await makeTestDatabase(
      'entity Branch\n  id integer key\n\nentity Player\n  id integer key\n  rule elsewhere: mentor.branch <> branch\n\nrelation home\n  Player knows one Branch as branch\n  Branch knows many Player as players\n\nrelation mentoring\n  Player knows at most one Player as mentor\n  Player knows many Player as pupils\n\nsample Branch 1\nsample Player 30\n  mentor any Player\n',
    );
    expect(database.made.unheld).toEqual(['Player: 29 rows break the rule elsewhere.']);
    await database.close();
  });
});

test('the keys of named rows are the same without the rows that are generated beside them', () => {
  fc.assert(
    fc.property(arbitraryTree, (text) => {
      const { model } = readDesign(text);
      expect(namedKeys(model, NOW)).toEqual(makeSamples(model, NOW).keys);
    }),
    { numRuns: 150, seed: 2 },
  );
  for (const file of ['demo/library.kin', 'tests/apiary.kin', 'tests/forms/forms.kin', 'tests/forms/several.kin']) {
    const { model } = readDesign(readFileSync(file, 'utf8'));
    expect(namedKeys(model, NOW)).toEqual(makeSamples(model, NOW).keys);
  }
  const many = readDesign(`entity Branch
  id    integer key
  name  text(40) unique

sample Branch 100000
  north: name 'North'
  south: id 7, name 'South'
`);
  expect(namedKeys(many.model, NOW)).toEqual({ 'Branch(north)': 1, 'Branch(south)': 7 });
});

import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { makeSamples } from './index.js';
import { RowGraph } from './row-graph.js';

const NOW = '2030-01-01T12:00:00.000000Z';

/** How many rows of each entity break one of its rules, and the samples. */
function broken(text: string) {
  const { model, findings } = readDesign(text);
  expect(findings.filter(({ weight }) => weight === 'error').map(({ message }) => message)).toEqual([]);
  const samples = makeSamples(model, NOW);
  const graph = new RowGraph(model, samples.rows, NOW);
  const counts = Array.from(samples.rows).map(([name, rows]): [string, number] => {
    const rules = model.entities.get(name)?.rules ?? [];
    return [name, rows.filter((row) => rules.some(({ expression }) => graph.holds(expression, name, row) === false)).length];
  });
  return { counts: Object.fromEntries(counts), samples };
}

const HALLS = `entity Branch
  id  integer key

entity Player
  id    integer key
  born  date

entity Instrument
  id         integer key
  bought_on  date

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation shelf
  Instrument knows one Branch as branch
  Branch knows many Instrument as instruments
`;

describe('a rule that walks over relations', () => {
  test('is held by the rows that are made by chance, where other rows can be chosen', () => {
    const { counts } = broken(`${HALLS}
entity Loan
  id       integer key
  lent_on  date
  rule same_branch: borrower.branch = instrument.branch
  rule bought_by_then: instrument.bought_on <= lent_on and lent_on < '2030-01-01'

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation lending
  Loan knows one Instrument as instrument
  Instrument knows many Loan as loans

sample Branch 5
sample Player 60
sample Instrument 60
  bought_on between '2015-01-01' and '2029-06-01'
sample Loan 200
  lent_on between '2016-01-01' and '2031-01-01'
`);
    expect(counts.Loan).toBe(0);
  });

  test('is held also over roles to several, kinds, and what points back', () => {
    const { counts } = broken(`${HALLS}
entity Remark
  id    integer key
  rule about_elder: (subject as Player).born < '2010-01-01' or subject is an Instrument
  rule not_own: subject <> author

entity Space
  id  integer key
  kinds in single table by kind

entity Hall is Space
  seats  integer

entity Yard is Space

entity Concert
  id  integer key
  rule in_hall: place is a Hall

relation authorship
  Remark knows one Player as author
  Player knows many Remark as written

relation subject
  Remark knows one Player | Instrument as subject
  each knows many Remark as remarks

relation place
  Concert knows one Space as place
  Space knows many Concert as concerts

sample Player 40
sample Remark 120
sample Concert 50
`);
    expect(counts).toMatchObject({ Remark: 0, Concert: 0 });
  });

  test('is left as it stands in a row that somebody named', () => {
    const { counts, samples } = broken(`${HALLS}
entity Loan
  id  integer key
  rule near: borrower.branch = branch

relation borrowing
  Loan knows one Player as borrower

relation at
  Loan knows one Branch as branch

sample Branch
  north: id 1
  south: id 2

sample Player
  ines: branch Branch(north)

sample Loan
  odd: borrower Player(ines), branch Branch(south)

sample Loan 20
`);
    expect(counts.Loan).toBe(1);
    expect(samples.rows.get('Loan')?.[0]?.get('branch_id')).toBe(2);
  });
});

test('a base whose kinds have samples has no rows of its own for show', () => {
  const text = `entity Space
  id  integer key
  kinds in single table by kind

entity Hall is Space
  seats  integer

`;
  const rowsOf = (samples: string) =>
    Object.fromEntries(Array.from(broken(`${text}${samples}`).samples.rows, ([name, rows]) => [name, rows.length]));
  expect(rowsOf('')).toEqual({ Space: 12, Hall: 12 });
  expect(rowsOf('sample Hall 3\n')).toEqual({ Space: 0, Hall: 3 });
  expect(rowsOf('sample Hall 3\n\nsample Space 2\n').Hall).toBe(3);
});

test('a column that serves two relations is filled from rows that agree', () => {
  const { samples } = broken(`entity Site
  id  integer key

entity Room
  key (site, number)
  number  integer

entity Shelf
  key (site, letter)
  letter  text(2)

entity Box
  id       integer key
  site_id  integer

relation room_site
  Room knows one Site as site
  Site knows many Room as rooms

relation shelf_site
  Shelf knows one Site as site
  Site knows many Shelf as shelves

relation in_room
  Box knows one Room as room
  Room knows many Box as boxes
  stored in Box.(site_id, room_number)

relation on_shelf
  Box knows one Shelf as shelf
  Shelf knows many Box as boxes
  stored in Box.(site_id, shelf_letter)

sample Site 9
sample Room 9
sample Shelf 4
sample Box 40
`);
  expect(samples.unsatisfied).toEqual([]);
  const rooms = new Set((samples.rows.get('Room') ?? []).map((row) => `${row.get('site_id')} ${row.get('number')}`));
  const shelves = new Set((samples.rows.get('Shelf') ?? []).map((row) => `${row.get('site_id')} ${row.get('letter')}`));
  const boxes = samples.rows.get('Box') ?? [];
  expect(boxes).toHaveLength(40);
  for (const box of boxes) {
    expect(rooms).toContain(`${box.get('site_id')} ${box.get('room_number')}`);
    expect(shelves).toContain(`${box.get('site_id')} ${box.get('shelf_letter')}`);
  }
});

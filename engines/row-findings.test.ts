import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import type { Table } from '../core/schema/index.js';
import { checkRows, profileRelation, type RowFinding } from '../services/index.js';
import { dialectOf, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';

const TEXT = `entity Branch
  id    integer key
  town  text(20)

entity Player
  id    integer key
  name  text(20)

entity Card
  id  integer key

entity Ensemble
  id    uuid key
  rule  small: none(players)

entity Instrument in instruments abstract
  id  integer key
  kinds in single table by kind

entity StringInstrument is Instrument marked 'string'
  string_count  integer

entity WindInstrument is Instrument marked 'wind'
  reed  text(20) optional

entity Space
  id  integer key
  kinds in joined tables by sort

entity Hall is Space
  seats  integer

entity Yard is Space
  paved  boolean

entity Paper abstract
  id      uuid key
  number  text(10) unique
  kinds in separate tables

entity Contract is Paper
  pages  integer

entity Receipt is Paper
  total  integer

entity Shelf
  key (room, place)
  room   integer
  place  integer

entity Remark
  id  integer key

entity Note
  id  integer key

entity Loan
  id  integer key
  rule same_town: player.branch = branch, message 'Lent in another town'

entity Photo
  id  integer key

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation carded
  Card knows one Player as player
  Player knows one Card as card
  stored in Card.player_id

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
  stored in table seats

relation duets
  Player knows many Player as partners, both ways
  stored in table duets (player_id, partner_id)

relation next_to
  Shelf knows many Shelf as beside, both ways
  stored in table next_to

relation lending
  Loan knows one StringInstrument as instrument
  StringInstrument knows many Loan as loans

relation lent_to
  Loan knows one Player as player
  Player knows many Loan as loans

relation lent_at
  Loan knows one Branch as branch
  Branch knows many Loan as loans

relation filed
  Loan knows at most one Paper as paper
  Paper knows many Loan as loans

relation shelved
  Note knows at most one Shelf as shelf
  Shelf knows many Note as notes

relation about
  Remark knows at most one Player | Ensemble | Hall as about
  each knows many Remark as remarks
  stored in Remark.about_type with Remark.about_id without triggers

relation shows
  Photo knows one Player | Branch as shows
  each knows many Photo as photos
  stored in one of Photo.player_id, Photo.branch_id
`;

const UUID = '0b0c1d2e-0000-4000-8000-00000000abc';

/** Rows of which each holds to the text. */
const SOUND = [
  "insert into branches (id, town) values (1, 'Ferren'), (2, 'Orsby')",
  "insert into players (id, name, branch_id) values (1, 'Ines', 1), (2, 'Omar', 2)",
  'insert into cards (id, player_id) values (1, 1), (2, 2)',
  `insert into ensembles (id) values ('${UUID}1')`,
  'insert into duets (player_id, partner_id) values (1, 2)',
  "insert into instruments (id, kind, string_count, reed) values (1, 'string', 6, null), (2, 'wind', null, 'cane')",
  "insert into spaces (id, sort) values (1, 'hall'), (2, 'yard'), (3, 'space')",
  'insert into halls (id, seats) values (1, 200)',
  'insert into yards (id, paved) values (2, true)',
  `insert into contracts (id, number, pages) values ('${UUID}2', 'A', 3)`,
  `insert into receipts (id, number, total) values ('${UUID}3', 'B', 9)`,
  'insert into shelves (room, place) values (1, 1)',
  `insert into loans (id, instrument_id, player_id, branch_id, paper_id) values (1, 1, 1, 1, '${UUID}2'), (2, 1, 2, 2, null)`,
  'insert into notes (id, shelf_room, shelf_place) values (1, 1, 1), (2, null, null)',
  `insert into remarks (id, about_type, about_id) values (1, 'player', '1'), (2, 'ensemble', '${UUID}1'), (3, 'hall', '1'), (4, null, null)`,
  'insert into photos (id, player_id, branch_id) values (1, 1, null), (2, null, 2)',
];

/** What breaks one thing each, and what is then said of it. */
const FAULTS: readonly [sql: string, code: string, message: string, examples: readonly string[]][] = [
  [
    'update loans set branch_id = 1 where id = 2',
    'broken-rule',
    'Loan: 1 row breaks the rule same_town, “Lent in another town”.',
    ['2'],
  ],
  ['delete from cards where id = 2', 'unkept-promise', 'Player.card: 1 row knows no Card, and each has to know one.', ['2']],
  [
    'update players set branch_id = 77',
    'lost-key',
    'Player.branch_id: 2 rows hold a key that no row of Branch has.',
    ['1 branch_id 77', '2 branch_id 77'],
  ],
  [
    'update loans set instrument_id = 2 where id = 2',
    'lost-key',
    'Loan.instrument_id: 1 row holds a key that no row of StringInstrument has.',
    ['2 instrument_id 2'],
  ],
  [
    `update loans set paper_id = '${UUID}9' where id = 2`,
    'lost-key',
    'Loan.paper_id: 1 row holds a key that no row of Paper has.',
    [`2 paper_id ${UUID}9`],
  ],
  [
    `insert into seats (player_id, ensemble_id) values (9, '${UUID}1')`,
    'lost-key',
    'seating.player_id: 1 pair holds a key that no row of Player has.',
    [`player_id 9 ensemble_id ${UUID}1`],
  ],
  [
    'update notes set shelf_place = 4 where id = 1',
    'lost-key',
    'Note.shelf_room, shelf_place: 1 row holds a key that no row of Shelf has.',
    ['1 shelf_room 1 shelf_place 4'],
  ],
  [
    "update remarks set about_id = '55' where id = 1",
    'lost-key',
    "Remark.about_id, about_type 'player': 1 row holds a key that no row of Player has.",
    ['1 about_id 55'],
  ],
  [
    "update remarks set about_type = 'hall', about_id = '2' where id = 4",
    'lost-key',
    "Remark.about_id, about_type 'hall': 1 row holds a key that no row of Hall has.",
    ['4 about_id 2'],
  ],
  [
    'update notes set shelf_place = null where id = 1',
    'half-key',
    'Note: of 1 row shelf_room, shelf_place is filled in part, so relation shelved cannot say what it leads to.',
    ['1 shelf_room 1 shelf_place –'],
  ],
  [
    "update remarks set about_type = 'player' where id = 4",
    'half-key',
    'Remark: of 1 row about_type, about_id is filled in part, so relation about cannot say what it leads to.',
    ['4 about_type player about_id –'],
  ],
  [
    'update photos set branch_id = 1',
    'half-key',
    'Photo: of 1 row player_id, branch_id is filled more than once, or not at all, so relation shows cannot say what it leads to.',
    ['1 player_id 1 branch_id 1'],
  ],
  [
    'update photos set player_id = null where id = 1',
    'half-key',
    'Photo: of 1 row player_id, branch_id is filled more than once, or not at all, so relation shows cannot say what it leads to.',
    ['1 player_id – branch_id –'],
  ],
  [
    "update instruments set kind = 'brass' where id = 2",
    'unknown-mark',
    "Instrument: 1 row has a mark that no kind has, and is read as Instrument alone. Known are 'string', 'wind'.",
    ['2 kind brass'],
  ],
  [
    "update remarks set about_type = 'piano' where id = 3",
    'unknown-mark',
    "Remark.about_type: 1 row says something that relation about does not know, and leads nowhere. Known are 'player', 'ensemble', 'hall'.",
    ['3 about_type piano about_id 1'],
  ],
  ['delete from yards', 'kind-row', 'Space: 1 row is marked as Yard and has no row in yards.', ['2 sort yard']],
  [
    'insert into yards (id, paved) values (3, false)',
    'kind-row',
    'Space: 1 row in yards belongs to a row that is not marked as Yard.',
    ['3'],
  ],
  [
    'insert into duets (player_id, partner_id) values (2, 1)',
    'pair-order',
    'relation duets: 1 pair does not stand as player_id < partner_id, so the same two may stand twice, or one with itself.',
    ['player_id 2 partner_id 1'],
  ],
  [
    'insert into next_to (shelf_room, shelf_place, beside_room, beside_place) values (1, 1, 1, 1)',
    'pair-order',
    'relation next_to: 1 pair does not stand as (shelf_room, shelf_place) < (beside_room, beside_place), so the same two may stand twice, or one with itself.',
    ['shelf_room 1 shelf_place 1 beside_room 1 beside_place 1'],
  ],
  [
    `update receipts set id = '${UUID}2'`,
    'doubled',
    'Paper: 1 value of id stands more than once over the tables of its kinds.',
    [`id ${UUID}2 times 2`],
  ],
  [
    "update receipts set number = 'A'",
    'doubled',
    'Paper: 1 value of number stands more than once over the tables of its kinds.',
    ['number A times 2'],
  ],
];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

/** The statements that make a design's tables as one finds them where nobody stated a constraint. */
function looseTables({ schema, dialect }: Design): readonly string[] {
  const loose = (table: Table): Table => ({ ...table, foreignKeys: [], uniques: [], checks: [], constraints: [], triggers: [] });
  const { before, after } = dialect.steps({ ...schema, tables: schema.tables.map(loose) });
  return [...before, ...after];
}

const shown = ({ examples }: RowFinding) =>
  examples.map(({ key, values }) =>
    [...(key === null ? [] : [String(key)]), ...values.flatMap(({ column, value }) => [column, value ?? '–'])].join(' '),
  );

describe.each<EngineName>(['sqlite', 'postgres', 'embedded', 'mariadb'])('on %s', (name) => {
  test('what no constraint kept is found in the rows, and sound rows have nothing to be found', async () => {
    const design = readDesign(TEXT, dialectOf(name));
    expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    for (const fault of [null, ...FAULTS]) {
      const { engine, remove } = await engines.open(name);
      const put = await engine.execute([...looseTables(design), ...SOUND, ...(fault === null ? [] : [fault[0]])]);
      if (!put.ok) throw new Error(put.problem.message);
      const { findings, unanswered, asked } = await checkRows(design, engine, { sampleKeys: {} });
      expect(unanswered).toEqual([]);
      expect(asked).toBeGreaterThan(25);
      if (fault === null) expect(findings).toEqual([]);
      else {
        const [sql, code, message, examples] = fault;
        const found = findings.find((finding) => finding.code === code && finding.message === message);
        expect(found === undefined ? findings.map((finding) => finding.message) : shown(found), sql).toEqual(examples);
      }
      await remove();
    }
  }, 600_000);

  test('a column that holds keys of several types is counted for each entity that it leads to', async () => {
    const design = readDesign(TEXT, dialectOf(name));
    const { engine, remove } = await engines.open(name);
    const put = await engine.execute([...looseTables(design), ...SOUND]);
    expect(put.ok).toBe(true);
    const outcome = await profileRelation({ design, engine }, 'about');
    if (!outcome.ok) throw new Error(outcome.problem);
    const counted = outcome.profile.ends.map(({ entity, histogram: { parents, none, most } }) => [entity, parents, none, most]);
    expect(counted).toEqual([
      ['Player', 2, 1, 1],
      ['Ensemble', 1, 0, 1],
      ['Hall', 1, 0, 1],
    ]);
    expect(outcome.profile.empty).toEqual([{ column: 'about_id', rows: 1 }]);
    await remove();
  }, 600_000);
});

test.each(['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin', 'apiary.kin'])(
  'in the rows that are made of %s nothing is wrong but what no sample can keep, on any engine',
  async (file) => {
    const text = readFileSync(new URL(`../tests/${file}`, import.meta.url), 'utf8');
    for (const name of ['sqlite', 'postgres', 'embedded', 'mariadb'] as const) {
      const { design, database, made } = await makeOn(engines, name, text);
      const { findings, unanswered } = await checkRows(design, database.engine, made);
      expect(unanswered, name).toEqual([]);
      expect(
        findings.filter(({ code }) => code !== 'broken-rule' && code !== 'unkept-promise').map(({ message }) => message),
        name,
      ).toEqual([]);
      await database.remove();
    }
  },
  600_000,
);

test('rules and promises that samples do not keep are told when a database is made', async () => {
  const { made, database } = await makeOn(engines, 'sqlite', `${TEXT}\nsample Player 3\n\nsample Card 1\n`);
  expect(made.unheld).toContain('Player.card: 2 rows know no Card, and each has to know one.');
  await database.remove();
});

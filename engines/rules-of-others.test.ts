import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { doCommands } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { type Engines, makeOn, openEngines } from '../tests/engines.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = `tree 'Rules over rows'

entity Branch in branches
  id    integer key
  name  text(40)
  rule not_crowded: count(players) <= 2, message 'A branch has two players at most'
  rule staffed: count(players[steward]) > 0 or count(players) = 0, message 'A branch with players has a steward'

entity Player in players
  id       integer key
  name     text(40)
  steward  boolean default false

entity Instrument in instruments
  id         integer key
  name       text(40)
  bought_on  date

entity Loan in loans
  id       integer key
  lent_on  date
  rule bought_by_then: instrument.bought_on <= lent_on, message 'Nothing is lent before it is bought'

relation belonging
  Player knows one Branch as branch
  Branch knows many Player as players

relation lending
  Loan knows one Instrument as instrument
  Instrument knows many Loan as loans
  on delete cascade

sample Branch
  main: name 'Main'
  quay: name 'Quay'
sample Player
  ines: name 'Ines', branch Branch(main), steward true
  bram: name 'Bram', branch Branch(main)
  cleo: name 'Cleo', branch Branch(quay), steward true
sample Instrument
  lute: name 'Lute', bought_on '2020-01-01'
  harp: name 'Harp', bought_on '2030-01-01'
sample Loan
  good: lent_on '2025-01-01', instrument Instrument(lute)
  early: lent_on '2025-01-01', instrument Instrument(harp)
`;

const CROWDED = 'A branch has two players at most. What keeps it: Branch, rule not_crowded. Nothing was written.';
const CASES: readonly (readonly [string, string | null])[] = [
  [
    "update Instrument(lute) with bought_on '2026-01-01'",
    'Nothing is lent before it is bought. What keeps it: Loan, rule bought_by_then. Nothing was written.',
  ],
  ["update Instrument(lute) with bought_on '2024-01-01'", null],
  // This loan breaks its rule already, and goes on doing so.
  ["update Instrument(harp) with bought_on '2031-01-01'", null],
  ["update Instrument(lute) with name 'Old lute'", null],
  ["create Player with name 'Dov', branch Branch(main)", CROWDED],
  ["create Branch(main).players with name 'Dov'", CROWDED],
  ['update Player(cleo) with branch Branch(main)', CROWDED],
  ['link Branch(main).players to Player(cleo)', CROWDED],
  ["create Player with name 'Dov', branch Branch(quay)", null],
  [
    'update Player(cleo) with steward false',
    'A branch with players has a steward. What keeps it: Branch, rule staffed. Nothing was written.',
  ],
  ['delete Player(cleo)', 'A branch with players has a steward. What keeps it: Branch, rule staffed. Nothing was written.'],
  ['delete Player(bram)', null],
  // What one command breaks the next one may mend.
  ["update Player(cleo) with steward false\nupdate Player[name = 'Dov'] with steward true", null],
  ['delete Player[branch = Branch(main)]', null],
];

test.each(ENGINES)(
  'a rule is kept for the rows that read what is written, also where none of them is written, on %s',
  async (name) => {
    const { design, database, made } = await makeOn(engines, name, TEXT);
    try {
      for (const [text, refusal] of CASES) {
        const request = {
          text,
          sampleKeys: made.sampleKeys,
          madeHere: true,
          now: '2031-04-12T09:00:00.000000Z',
          rehearse: false,
        };
        const outcome = await doCommands(design, database.engine, request);
        expect([
          text,
          outcome.ok ? null : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(),
        ]).toEqual([text, refusal]);
      }
    } finally {
      await database.remove();
    }
  },
  600_000,
);

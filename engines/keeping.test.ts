import { readFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { sqliteDialect } from '../core/dialects/index.js';
import { runQuery } from '../services/index.js';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

const TEXT = `entity Player
  id    integer key
  name  text(20)

entity Branch
  id    integer key
  name  text(20)

entity Ensemble
  id    uuid key

entity Instrument in instruments abstract
  id     integer key
  maker  text(20)
  kinds in single table by kind

entity StringInstrument is Instrument marked 'string'
  string_count  integer
  check strings: string_count between 3 and 20

entity WindInstrument is Instrument marked 'wind'
  reed  text(20) optional

entity Space
  id     integer key
  label  text(20)
  kinds in joined tables by sort

entity Hall is Space
  seats  integer

entity Paper abstract
  id     uuid key
  kinds in separate tables

entity Contract is Paper
  pages  integer

entity Receipt is Paper
  total  integer

entity Remark
  id  integer key

entity Note
  id  integer key

entity Spare
  id  integer key

entity Claim
  id  integer key

entity Photo
  id  integer key

relation home
  Player knows at most one Branch as branch
  Branch knows many Player as players
  on delete cascade

relation subject
  Remark knows one Player | StringInstrument | Ensemble as subject
  each knows many Remark as remarks
  on delete cascade

relation about
  Note knows at most one Hall | Branch as about
  each knows many Note as notes
  stored in Note.about_type with Note.about_id
    Branch marked 'b'
  on delete set null

relation spare
  Spare knows one StringInstrument as fits
  StringInstrument knows many Spare as spares

relation claim
  Claim knows one Paper as paper
  Paper knows many Claim as claims
  on delete cascade

relation shows
  Photo knows one Player | Branch as shows
  each knows many Photo as photos
  stored in one of Photo.player_id, Photo.branch_id

relation tagging
  Branch knows many Player | WindInstrument as things
  each knows many Branch as tagged_by
  stored in table tagged (branch_id, thing_type with thing_id)

sample Player 0
sample Branch 0
sample Ensemble 0
sample StringInstrument 0
sample WindInstrument 0
sample Space 0
sample Hall 0
sample Contract 0
sample Receipt 0
sample Remark 0
sample Note 0
sample Spare 0
sample Claim 0
sample Photo 0
`;

const UUID = '0b0c1d2e-0000-4000-8000-00000000abc';
const ROWS = [
  "insert into branches (id, name) values (1, 'North'), (2, 'South')",
  "insert into players (id, name, branch_id) values (1, 'Ines', 1), (2, 'Omar', null)",
  `insert into ensembles (id) values ('${UUID}1')`,
  "insert into instruments (id, maker, kind, string_count, reed) values (1, 'Alder', 'string', 6, null), (2, 'Crane', 'wind', null, 'cane')",
  "insert into spaces (id, label, sort) values (1, 'Yard', 'hall'), (2, 'Loft', 'space')",
  'insert into halls (id, seats) values (1, 200)',
  `insert into contracts (id, pages) values ('${UUID}2', 3)`,
  `insert into receipts (id, total) values ('${UUID}3', 9)`,
  "insert into remarks (id, subject_type, subject_id) values (1, 'player', '1'), (2, 'string_instrument', '1')",
  `insert into remarks (id, subject_type, subject_id) values (3, 'ensemble', '${UUID}1')`,
  "insert into notes (id, about_type, about_id) values (1, 'hall', 1), (2, 'b', 2), (3, null, null)",
  'insert into spares (id, fits_id) values (1, 1)',
  `insert into claims (id, paper_id) values (1, '${UUID}2'), (2, '${UUID}3')`,
  'insert into photos (id, player_id, branch_id) values (1, 1, null), (2, null, 2)',
  "insert into tagged (branch_id, thing_type, thing_id) values (2, 'player', 1), (2, 'wind_instrument', 2)",
];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const ALL: readonly EngineName[] = ['sqlite', 'postgres', 'embedded', 'mariadb'];

async function filled(name: EngineName): Promise<MadeTree> {
  const made = await makeOn(engines, name, TEXT);
  const put = await made.database.engine.execute(ROWS);
  if (!put.ok) throw new Error(put.problem.message);
  return made;
}

const idsOf = async ({ database }: MadeTree, table: string, column = 'id') => {
  const read = await rawRows(database.engine, `select ${column} from ${table} order by 1`, {});
  if (!read.ok) throw new Error(read.problem.message);
  return read.value.map(([id]) => (id === null ? null : Number.isNaN(Number(id)) ? String(id) : Number(id)));
};

/** Each breaks one rule that no foreign key and no column can hold. */
const REFUSED: readonly [what: string, sql: string][] = [
  ['a remark on a player who is not there', "insert into remarks (id, subject_type, subject_id) values (9, 'player', '77')"],
  [
    'a remark on a kind of thing that there is not',
    "insert into remarks (id, subject_type, subject_id) values (9, 'piano', '1')",
  ],
  [
    'a remark on a wind instrument as one with strings',
    "insert into remarks (id, subject_type, subject_id) values (9, 'string_instrument', '2')",
  ],
  ...['1x', '01', ' 1', '1 ', '1.0'].map((key): [string, string] => [
    `a remark on a player whose key is spelled “${key}”`,
    `insert into remarks (id, subject_type, subject_id) values (9, 'player', '${key}')`,
  ]),
  [
    'a remark on an ensemble whose key is in capitals',
    `insert into remarks (id, subject_type, subject_id) values (9, 'ensemble', '${UUID.toUpperCase()}1')`,
  ],
  ['a remark on nothing', 'insert into remarks (id, subject_type, subject_id) values (9, null, null)'],
  ['a note with a type and no key', "insert into notes (id, about_type, about_id) values (9, 'hall', null)"],
  ['a note on a space that is no hall', "insert into notes (id, about_type, about_id) values (9, 'hall', 2)"],
  ['a remark that is moved to what is not there', "update remarks set subject_id = '55' where id = 1"],
  ['a spare for an instrument without strings', 'insert into spares (id, fits_id) values (9, 2)'],
  [
    'an instrument that loses its strings while a spare fits it',
    "update instruments set kind = 'wind', string_count = null where id = 1",
  ],
  ['a string instrument without a count', "insert into instruments (id, maker, kind) values (9, 'Holm', 'string')"],
  [
    'a string instrument with too many strings',
    "insert into instruments (id, maker, kind, string_count) values (9, 'Holm', 'string', 99)",
  ],
  ['an instrument of an unknown kind', "insert into instruments (id, maker, kind) values (9, 'Holm', 'drum')"],
  ['a claim on a paper that stands in no table', `insert into claims (id, paper_id) values (9, '${UUID}9')`],
  ['a photo of two things', 'insert into photos (id, player_id, branch_id) values (9, 1, 1)'],
  ['a photo of nothing', 'insert into photos (id, player_id, branch_id) values (9, null, null)'],
  ['a tag on a player who is not there', "insert into tagged (branch_id, thing_type, thing_id) values (2, 'player', 77)"],
  ['a string instrument that goes while a spare fits it', 'delete from instruments where id = 1'],
  ['the key of a hall that a note is on', 'update halls set id = 7 where id = 1'],
];

describe.each(ALL)('on %s what no column can hold is kept', (name) => {
  test('rows that break a rule are refused, each, and change nothing', async () => {
    const made = await filled(name);
    const { engine } = made.database;
    for (const [what, sql] of REFUSED) {
      const outcome = await engine.execute([sql]);
      expect(outcome.ok, `${what}: ${sql}`).toBe(false);
    }
    expect(await idsOf(made, 'remarks')).toEqual([1, 2, 3]);
    expect(await idsOf(made, 'instruments')).toEqual([1, 2]);
    await made.database.remove();
  }, 600_000);

  test('what points at a row goes with it, or is emptied, over foreign keys and triggers alike', async () => {
    const made = await filled(name);
    const { engine } = made.database;
    const run = async (sql: string) => {
      const outcome = await engine.execute([sql]);
      if (!outcome.ok) throw new Error(`${sql}: ${outcome.problem.message}`);
    };
    await run('delete from photos');
    // A branch takes its players along, by a foreign key; those take the remarks on them, by a trigger.
    await run('delete from branches where id = 1');
    expect(await idsOf(made, 'players')).toEqual([2]);
    expect(await idsOf(made, 'remarks')).toEqual([2, 3]);
    expect(await idsOf(made, 'tagged', 'thing_id')).toEqual([2]);
    await run(`delete from ensembles where id = '${UUID}1'`);
    expect(await idsOf(made, 'remarks')).toEqual([2]);
    // A base’s row takes its kind’s along, and the note on that is emptied.
    await run('delete from spaces where id = 1');
    expect(await idsOf(made, 'halls')).toEqual([]);
    await run('delete from branches where id = 2');
    expect((await idsOf(made, 'notes', 'about_id')).every((id) => id === null)).toBe(true);
    await run(`delete from receipts where id = '${UUID}3'`);
    expect(await idsOf(made, 'claims')).toEqual([1]);
    await run('delete from spares');
    await run('delete from instruments where id = 1');
    expect(await idsOf(made, 'remarks')).toEqual([]);
    await made.database.remove();
  }, 600_000);
});

test('on SQLite what a row takes along goes to the last, also where the session has not asked for triggers that go on', async () => {
  const text = `entity Player
  id  integer key

entity Remark
  id  integer key

relation subject
  Remark knows at most one Player | Remark as subject
  Remark knows many Remark as answers
  Player knows many Remark as remarks
  on delete cascade

sample Player 0

sample Remark 0
`;
  const { schema } = readDesign(text);
  for (const settings of ['', 'pragma recursive_triggers = on']) {
    const db = new Database(':memory:');
    // Without its head, as somebody's own program would have it.
    for (const sql of sqliteDialect.createStatements(schema)) db.exec(sql);
    db.exec(settings);
    db.exec(`insert into players values (1);
      insert into remarks (id, subject_type, subject_id) values (1, 'player', 1), (2, 'remark', 1), (3, 'remark', 2), (4, 'remark', 3), (5, null, null);`);
    db.exec('delete from players where id = 1');
    expect(db.prepare('select id from remarks').pluck().all(), settings).toEqual([5]);
    db.exec(
      "insert into remarks (id, subject_type, subject_id) values (6, 'remark', 5), (7, 'remark', 6); update remarks set subject_type = 'remark', subject_id = 7 where id = 5; delete from remarks where id = 6",
    );
    expect(db.prepare('select id from remarks').pluck().all(), settings).toEqual([]);
    db.close();
  }
});

test.each(ALL)('on %s the key of a base changes for all that point at its kind, or not at all', async (name) => {
  const text = `entity Space
  id  text(5) key
  kinds in joined tables by sort

entity Hall is Space
  seats  integer

entity Player
  id  integer key

entity Remark
  id  integer key

relation subject
  Remark knows at most one Hall | Player as subject
  on update cascade

sample Space 0

sample Hall 0

sample Player 0

sample Remark 0
`;
  const made = await makeOn(engines, name, text);
  const { engine } = made.database;
  const put = await engine.execute([
    "insert into spaces (id, sort) values ('a', 'hall')",
    "insert into halls (id, seats) values ('a', 4)",
    "insert into remarks (id, subject_type, subject_id) values (1, 'hall', 'a')",
  ]);
  expect(put.ok).toBe(true);
  // MariaDB fires no trigger where a foreign key changes a key.
  const changed = await engine.execute(["update spaces set id = 'b'"]);
  expect(changed.ok).toBe(name !== 'mariadb');
  expect(await idsOf(made, 'remarks', 'subject_id')).toEqual(await idsOf(made, 'halls'));
  await made.database.remove();
});

test('a key that was used is not used again for what type and id may still mean', async () => {
  const made = await filled('sqlite');
  const { engine } = made.database;
  await engine.execute(['delete from photos', 'delete from players where id = 2', "insert into players (name) values ('Tarn')"]);
  expect(await idsOf(made, 'players')).toEqual([1, 3]);
  await made.database.remove();
});

test('a table that is somebody else’s is in no script, and nothing is put on it', async () => {
  const text = readFileSync(new URL('../tests/forms/forms.kin', import.meta.url), 'utf8');
  for (const name of ALL) {
    const { design, database } = await makeOn(engines, name, text);
    expect(design.schema.tables.map((table) => table.name.name)).not.toContain('old register');
    expect(design.schema.tables.flatMap(({ triggers }) => triggers).join('\n')).not.toMatch(/on ["`]old register/);
    await database.remove();
  }
}, 600_000);

test('a row whose mark means nothing is read as one of the base, and of no kind', async () => {
  const made = await filled('sqlite');
  const { design, database } = made;
  const put = await database.engine.execute([
    'pragma ignore_check_constraints = on',
    "insert into instruments (id, maker, kind) values (9, 'Holm', 'drum')",
    'pragma ignore_check_constraints = off',
  ]);
  if (!put.ok) throw new Error(put.problem.message);
  const asked = async (text: string): Promise<unknown> => {
    const query = { kind: 'text' as const, text, parameters: [] };
    const run = { query, parameters: {}, sampleKeys: {}, madeHere: true, rowLimit: 100 };
    const outcome = await runQuery(design, database.engine, run);
    if (!outcome.ok) throw new Error(outcome.problems.join());
    return JSON.parse(outcome.answer.text);
  };
  expect(await asked('from Instrument\norder by id')).toEqual([
    { '~kind': 'StringInstrument', id: 1, maker: 'Alder', string_count: 6 },
    { '~kind': 'WindInstrument', id: 2, maker: 'Crane', reed: 'cane' },
    { '~kind': 'Instrument', id: 9, maker: 'Holm' },
  ]);
  expect(await asked('from WindInstrument')).toEqual([{ id: 2, maker: 'Crane', reed: 'cane' }]);
  await made.database.remove();
});

import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import type { Table } from '../core/schema/index.js';
import { checkRows, type RowFinding, runQuery } from '../services/index.js';
import { dialectOf, type EngineName, type Engines, openEngines } from '../tests/engines.js';

const TEXT = `choice Wear
  'new'
  'worn'

entity Branch
  id    integer key
  town  text(20) optional

entity Player
  id      integer key
  name    text(20) optional
  email   text(40) unique optional
  size    integer optional in (1, 2, 3)
  wear    Wear optional
  born    date optional
  up_at   time optional
  seen    timestamp optional
  fee     decimal(6, 2) optional
  sum     decimal(20, 2) optional
  steward boolean optional
  code    uuid optional
  needed  text(10)
  unique (name, size)
  check old_enough: size >= 1 and fee < 100, message 'Too small, or too dear'

entity Card
  id  integer key

entity Tool in tools
  id  integer key
  kinds in single table by kind

entity Bow is Tool
  hair  text(10)

entity Thing in things
  id  integer key
  kinds in json body by kind

entity Lamp is Thing
  watts  integer
  lit    boolean optional
  label  text(10) optional

entity Seat
  id  integer key

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation carded
  Card knows one Player as player
  Player knows at most one Card as card
  stored in Card.player_id

relation seating
  Player knows many Branch as sits_in
  Branch knows many Player as sitters
  stored in table seats_of (player_id, branch_id)
    chair  integer optional
    check low: chair < 50
    unique (branch_id, chair)

relation keeping
  Branch knows many Player | Tool as kept
  stored in table keepings (branch_id, (player_id, tool_id))

relation of
  Seat knows one Player | Branch as of
  each knows at most one Seat as seat
  stored in Seat.of_type with Seat.of_id
`;

const UUID = '0b0c1d2e-0000-4000-8000-00000000abc1';

const SOUND = [
  "insert into branches (id, town) values (1, 'Ferren'), (2, null)",
  `insert into players (id, name, email, size, wear, born, up_at, seen, fee, sum, steward, code, needed, branch_id) values (1, 'Ines', 'i@x', 1, 'new', '2001-02-03', '09:00:00', '2031-04-12 09:00:00', 1.50, '12345678901234567.25', true, '${UUID}', 'x', 1), (2, 'Omar', null, null, null, null, null, null, null, null, null, null, 'y', 1)`,
  'insert into cards (id, player_id) values (1, 1)',
  "insert into tools (id, kind, hair) values (1, 'bow', 'horse'), (2, 'tool', null)",
  `insert into things (id, kind, body) values (1, 'lamp', '{"watts": 40, "lit": true, "label": "desk"}'), (2, 'thing', null)`,
  'insert into seats_of (player_id, branch_id, chair) values (1, 1, 4), (2, 1, null)',
  'insert into keepings (id, branch_id, player_id, tool_id) values (1, 1, 1, null), (2, 1, null, 1)',
  "insert into seats (id, of_type, of_id) values (1, 'player', 1), (2, 'branch', 1)",
];

const ALL: readonly EngineName[] = ['sqlite', 'postgres', 'embedded', 'mariadb'];
const SQLITE: readonly EngineName[] = ['sqlite'];

interface Fault {
  readonly sql: string;
  readonly code: string;
  readonly message: string;
  readonly examples: readonly string[];
  readonly on?: readonly EngineName[];
}

const twice = (what: string, rule: string, values = 'value') =>
  `${what.split('.')[0]}: 1 ${values} of ${what.split('.')[1]} stands in more than one row, and may stand in one only: ${rule}.`;

/** What breaks one thing each, where the constraint that would refuse it is missing. */
const FAULTS: readonly Fault[] = [
  {
    sql: "update players set email = 'i@x'",
    code: 'not-unique',
    message: twice('Player.email', 'unique'),
    examples: ['email i@x times 2'],
  },
  {
    sql: "update players set name = 'Ines', size = 1",
    code: 'not-unique',
    message: twice('Player.name, size', 'unique'),
    examples: ['name Ines size 1 times 2'],
  },
  {
    sql: 'insert into cards (id, player_id) values (2, 1)',
    code: 'not-unique',
    message: twice('Card.player_id', 'relation carded'),
    examples: ['player_id 1 times 2'],
  },
  {
    sql: "insert into seats (id, of_type, of_id) values (3, 'player', 1)",
    code: 'not-unique',
    message: twice('Seat.of_type, of_id', 'relation of'),
    examples: ['of_type player of_id 1 times 2'],
  },
  {
    sql: 'insert into seats_of (player_id, branch_id, chair) values (2, 1, 4)',
    code: 'not-unique',
    message: twice('seats_of.player_id, branch_id', 'each pair once'),
    examples: ['player_id 2 branch_id 1 times 2'],
  },
  {
    sql: 'update seats_of set chair = 4',
    code: 'not-unique',
    message: twice('seats_of.branch_id, chair', 'unique'),
    examples: ['branch_id 1 chair 4 times 2'],
  },
  {
    sql: 'insert into keepings (id, branch_id, player_id, tool_id) values (3, 1, 1, null)',
    code: 'not-unique',
    message: twice('keepings.branch_id, player_id', 'each pair once'),
    examples: ['branch_id 1 player_id 1 times 2'],
  },
  {
    sql: "insert into players (id, needed, branch_id) values (1, 'z', 1)",
    code: 'not-unique',
    message: twice('Player.id', 'its key'),
    examples: ['id 1 times 2'],
  },
  {
    sql: 'update players set fee = 100 where id = 1',
    code: 'broken-check',
    message: 'Player: 1 row breaks the check old_enough, “Too small, or too dear”.',
    examples: ['1'],
  },
  {
    sql: 'update seats_of set chair = 50 where player_id = 2',
    code: 'broken-check',
    message: 'relation seating: 1 pair breaks the check low.',
    examples: ['chair 50'],
  },
  {
    sql: 'update players set size = 7 where id = 2',
    code: 'unlisted-value',
    message: "Player.size: 1 value is none of '1', '2', '3'.",
    examples: ['2 size 7'],
  },
  {
    sql: "update players set wear = 'odd' where id = 2",
    code: 'unlisted-value',
    message: "Player.wear: 1 value is none of 'new', 'worn'.",
    examples: ['2 wear odd'],
  },
  {
    sql: 'update players set needed = null where id = 2',
    code: 'empty-required',
    message: 'Player.needed: 1 row has nothing there, and each has to have something.',
    examples: ['2'],
  },
  {
    sql: 'update players set branch_id = null where id = 2',
    code: 'empty-required',
    message: 'Player.branch: 1 row has nothing there, and each has to have something.',
    examples: ['2'],
  },
  {
    sql: 'update seats set of_type = null, of_id = null where id = 2',
    code: 'empty-required',
    message: 'Seat.of: 1 row has nothing there, and each has to have something.',
    examples: ['2'],
  },
  {
    sql: 'update tools set hair = null where id = 1',
    code: 'empty-required',
    message: 'Bow.hair: 1 row has nothing there, and each has to have something.',
    examples: ['1'],
  },
  {
    sql: `update things set body = '{"lit": false}' where id = 1`,
    code: 'empty-required',
    message: 'Lamp.watts: 1 row has nothing there, and each has to have something.',
    examples: ['1'],
  },
  {
    sql: 'update seats_of set branch_id = null where player_id = 2',
    code: 'empty-required',
    message: 'relation seating: of 1 pair player_id, branch_id is not all filled, so it joins nothing.',
    examples: ['player_id 2 branch_id –'],
  },
  {
    sql: `update things set body = '{"watts": "forty", "label": "desk"}' where id = 1`,
    code: 'json-kind',
    message: 'Lamp.watts: of 1 row body has something there that is no integer.',
    examples: [],
  },
  {
    sql: `update things set body = '{"watts": 40, "label": 7}' where id = 1`,
    code: 'json-kind',
    message: 'Lamp.label: of 1 row body has something there that is no text(10).',
    examples: [],
  },
  {
    sql: `update things set body = '{"watts": 40' where id = 1`,
    code: 'json-kind',
    message: 'Thing: of 1 row body is no JSON, so what its kind has of its own is read as empty.',
    examples: [],
    on: ['sqlite', 'mariadb'],
  },
  ...(
    [
      ['name', "'a name of more than twenty letters'", 'text(20)', ALL],
      ['size', "'two'", 'integer', SQLITE],
      ['fee', '12345', 'decimal(6, 2)', ALL],
      ['fee', '0.125', 'decimal(6, 2)', ALL],
      ['sum', "'1.2.3'", 'decimal(20, 2)', SQLITE],
      ['sum', "'5'", 'decimal(20, 2)', SQLITE],
      ['born', "'2031-02-30'", 'date', SQLITE],
      ['born', "'0000-01-01'", 'date', ['sqlite', 'mariadb']],
      ['born', "'infinity'", 'date', ['postgres', 'embedded']],
      ['up_at', "'24:00:00'", 'time', ALL],
      ['seen', "'2031-04-12T09:00:00.000000z'", 'timestamp', SQLITE],
      ['steward', "'yes'", 'boolean', SQLITE],
      ['steward', '7', 'boolean', ['sqlite', 'mariadb']],
      ['code', "'none'", 'uuid', SQLITE],
      ['name', "'a' || char(0)", 'text(20)', SQLITE],
    ] as const
  ).map(
    ([field, value, type, on]): Fault => ({
      sql: `update players set ${field} = ${value} where id = 2`,
      code: 'unfit-value',
      message: `Player.${field}: 1 value is no ${type}, and is delivered as stored.`,
      examples: [],
      on,
    }),
  ),
];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

/** The statements that make a design's tables as one finds them where nobody stated a constraint, not even of a length. */
function bareTables({ schema, dialect }: Design): readonly string[] {
  const bare = (table: Table): Table => ({
    ...table,
    primaryKey: { columns: [], name: null, autoincrement: false },
    columns: table.columns.map((column) => ({
      ...column,
      notNull: false,
      type: widened(column.type),
    })),
    foreignKeys: [],
    uniques: [],
    checks: [],
    constraints: [],
    triggers: [],
    indexes: [],
  });
  const { before, after } = dialect.steps({ ...schema, tables: schema.tables.map(bare) });
  return [...before, ...after];
}

function widened(type: string): string {
  return type
    .replace(/ (generated by default as identity|auto_increment).*/, '')
    .replace(/^(varchar|character varying)\(\d+\)/, '$1(500)')
    .replace(/^(decimal|numeric)\(6,2\)/, '$1(12,5)')
    .replace(/^json$/, 'longtext');
}

/** SQLite's moments have one form only. */
const spelled = (sql: string, name: EngineName) =>
  name === 'sqlite' ? sql.replace('2031-04-12 09:00:00', '2031-04-12T09:00:00.000000Z') : sql;

const shown = ({ examples }: RowFinding) =>
  examples.map(({ key, values }) =>
    [...(key === null ? [] : [String(key)]), ...values.flatMap(({ column, value }) => [column, value ?? '–'])].join(' '),
  );

describe.each<EngineName>(['sqlite', 'postgres', 'embedded', 'mariadb'])('on %s', (name) => {
  test('what a missing constraint let in is found, each for itself, and nothing in sound rows', async () => {
    const design = readDesign(TEXT, dialectOf(name));
    expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    for (const fault of [null, ...FAULTS]) {
      if (fault !== null && !(fault.on ?? ALL).includes(name)) continue;
      const { engine, remove } = await engines.open(name);
      if (name === 'mariadb') await engine.execute(["set sql_mode = ''"]);
      const put = await engine.execute([
        ...bareTables(design),
        ...SOUND.map((sql) => spelled(sql, name)),
        ...(fault === null ? [] : [fault.sql]),
      ]);
      if (!put.ok) throw new Error(`${fault?.sql}: ${put.problem.message}`);
      const { findings, unanswered } = await checkRows(design, engine, { sampleKeys: {} });
      expect(unanswered, fault?.sql).toEqual([]);
      if (fault === null) expect(findings.map(({ message }) => message)).toEqual([]);
      else {
        const found = findings.find((finding) => finding.code === fault.code && finding.message === fault.message);
        expect(found === undefined ? findings.map((finding) => finding.message) : fault.message, fault.sql).toBe(fault.message);
        if (found !== undefined && fault.examples.length > 0) expect(shown(found), fault.sql).toEqual(fault.examples);
      }
      await remove();
    }
  }, 600_000);

  test('one value that is broken fails no query: it comes as it is stored, and is marked', async () => {
    const design = readDesign(TEXT, dialectOf(name));
    const { engine, remove } = await engines.open(name);
    const broken = name === 'sqlite' || name === 'mariadb' ? [`update things set body = '{"watts": 4' where id = 1`] : [];
    const odd = name === 'sqlite' ? [`update players set born = '{"half', seen = '{"bytes": 3}', size = '{' where id = 2`] : [];
    const put = await engine.execute([...bareTables(design), ...SOUND.map((sql) => spelled(sql, name)), ...broken, ...odd]);
    if (!put.ok) throw new Error(put.problem.message);
    const ask = async (text: string) => {
      const outcome = await runQuery(design, engine, {
        query: { kind: 'text', text, parameters: [] },
        parameters: {},
        sampleKeys: {},
        madeHere: false,
        rowLimit: 10,
      });
      if (!outcome.ok) throw new Error(outcome.problems.join());
      return JSON.parse(outcome.answer.text) as Record<string, unknown>[];
    };
    const things = await ask('from Thing');
    expect(things).toHaveLength(2);
    // Where the column can hold no JSON at all, what stands there is shown in place of each value.
    expect(things[0]).toMatchObject({ id: 1, watts: broken.length > 0 ? { asStored: '{"watts": 4' } : 40 });
    const odder = await engine.execute([`update things set body = '{"watts": "forty", "lit": 1, "label": ["a"]}' where id = 1`]);
    expect(odder.ok).toBe(true);
    expect((await ask('from Thing'))[0]).toMatchObject({
      watts: { asStored: 'forty' },
      lit: { asStored: 1 },
      label: { asStored: '["a"]' },
    });
    expect(await ask('from Lamp\nwhere watts > 0 or watts <= 0 or lit or not lit')).toEqual([]);
    await engine.execute(broken.length > 0 ? broken : [`update things set body = '{"watts": 41}' where id = 1`]);
    expect(await ask('from Lamp\nwhere watts > 3')).toHaveLength(broken.length > 0 ? 0 : 1);
    const players = await ask('from Player');
    expect(players).toHaveLength(2);
    if (odd.length > 0)
      expect(players[1]).toMatchObject({
        born: { asStored: '{"half' },
        seen: { asStored: '{"bytes": 3}' },
        size: { asStored: '{' },
      });
    await remove();
  }, 600_000);
});

test('a decimal that a file declares by a type of its own stands as a number; another value is found, and comes as stored', async () => {
  const text = `tree 'Ledgers'
  dialect sqlite
  tables as stated
  stored decimal(p, s) as 'decimal(p,s)'

entity Ledger in ledgers
  id   integer key
  sum  decimal(20, 4) optional
  fee  decimal(6, 2) optional
`;
  const design = readDesign(text, 'sqlite');
  const { engine, remove } = await engines.open('sqlite');
  const put = await engine.execute([
    'create table ledgers (id integer primary key, sum decimal(20,4), fee decimal(6,2))',
    "insert into ledgers values (1, 5, 1), (2, 0.1, 0.125), (3, 'abc', 'x'), (4, 0.12345, -2.5)",
  ]);
  if (!put.ok) throw new Error(put.problem.message);
  const { findings, unanswered } = await checkRows(design, engine, { sampleKeys: {} });
  expect(unanswered).toEqual([]);
  expect(findings.map((finding) => [finding.message, ...shown(finding).map((row) => row.slice(0, 1))])).toEqual([
    ['Ledger.sum: 2 values are no decimal(20, 4), and are delivered as stored.', '3', '4'],
    ['Ledger.fee: 2 values are no decimal(6, 2), and are delivered as stored.', '2', '3'],
  ]);
  const outcome = await runQuery(design, engine, {
    query: { kind: 'text', text: 'from Ledger\norder by id', parameters: [] },
    parameters: {},
    sampleKeys: {},
    madeHere: false,
    rowLimit: 10,
  });
  expect(outcome.ok && JSON.parse(outcome.answer.text)).toEqual([
    { id: 1, sum: '5.0000', fee: '1.00' },
    { id: 2, sum: '0.1000', fee: { asStored: 0.125 } },
    { id: 3, sum: { asStored: 'abc' }, fee: { asStored: 'x' } },
    { id: 4, sum: { asStored: 0.12345 }, fee: '-2.50' },
  ]);
  await remove();
});

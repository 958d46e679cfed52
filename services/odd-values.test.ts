import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { temporaryFolder } from '../tests/database.js';
import { bringIn, profileRelation, type RowsRequest, roleCounts, rowChoices, rowOrder, rowWindow, runQuery } from './index.js';

const folder = temporaryFolder();
let design: Design;
let engine: Engine;

beforeAll(async () => {
  const path = join(folder.path, 'odd.db');
  const db = new Database(path);
  db.exec(`
    create table halls (site text not null, number integer not null, seats integer, primary key (site, number)) without rowid;
    create table concerts (id integer primary key, site text not null, number integer not null, held_on date, title text, sold boolean, takings bigint,
      foreign key (site, number) references halls (site, number) on delete cascade);
    create table hall_keys (site text not null, number integer not null, holder text, primary key (site, number), foreign key (site, number) references halls);
    create table players (id integer primary key, name text not null, born date);
    create table stewards (site text not null, number integer not null, player_id integer not null references players (id), since date,
      primary key (site, number, player_id), foreign key (site, number) references halls (site, number));
    create table visits (player_id integer references players (id), concert_id integer references concerts (id), at integer);
    create table log (line text, at integer);
    create table prints (digest blob primary key, note text);
    create table desks (shelf int, place int, holder int, primary key (shelf, place));
    insert into desks values (1, 2, 5), (null, 3, 6), ('q', 1, 7), (1.5, x'01', 8);
    create table readings (id integer primary key, level real);
    insert into readings values (1, 9e999), (2, -9e999), (3, 1.5);
    create table labels (id int primary key, words text);
    insert into labels values (1, 'one'), (null, 'none'), ('x7', 'a text'), (x'00ff', 'bytes');
    insert into halls values ('North Quay', 1, 200), ('North Quay', 2, null), ('South "Gate" \\ É', 1, 'many');
    insert into concerts values (1, 'North Quay', 1, 1901664000, 'Bridge night', 't', 9007199254740993),
      (2, 'South "Gate" \\ É', 1, '2031-04-12', '', 'f', 'twelve'), (3, 'North Quay', 2, '', cast(x'41ff42' as text), 1, 9223372036854775807);
    insert into hall_keys values ('North Quay', 1, 'Ines');
    insert into players values (1, 'Ines', '2001-02-03'), (2, x'00ff', 978307200), (3, char(65533), '31.12.2001');
    insert into stewards values ('North Quay', 1, 1, '2030-01-01'), ('North Quay', 1, 2, null), ('North Quay', 2, 1, null);
    insert into visits values (1, 1, 1901664000), (1, 1, 1901664000), (2, 3, null);
    insert into log values ('opened', 1), ('closed', 2);
    insert into prints values (x'00ff', 'one'), (x'0100', 'two');
  `);
  db.close();
  const brought = await bringIn(path, 'Odd', join(folder.path, 'copy.db'));
  if (!brought.ok) throw new Error(brought.problem.message);
  design = readDesign(brought.value.text);
  engine = openSqlite({ path, mode: 'look', milliseconds: 20_000 });
});

afterAll(async () => {
  await engine.close();
  folder.remove();
});

async function answer(text: string): Promise<Record<string, unknown>[]> {
  const outcome = await runQuery(design, engine, {
    query: { kind: 'text', text, parameters: [] },
    parameters: {},
    sampleKeys: {},
    madeHere: false,
    rowLimit: 100,
  });
  if (!outcome.ok) throw new Error([...outcome.problems, ...outcome.findings.map(({ message }) => message)].join());
  return JSON.parse(outcome.answer.text) as Record<string, unknown>[];
}

describe('values that do not fit are delivered as they are stored, and marked', () => {
  test('dates as epochs and as text, booleans as letters, text among numbers, whole numbers of 64 bits', async () => {
    expect(await answer('from Concert')).toMatchObject([
      { held_on: { asStored: 1901664000 }, sold: { asStored: 't' }, takings: '9007199254740993', title: 'Bridge night' },
      { held_on: '2031-04-12', sold: { asStored: 'f' }, takings: { asStored: 'twelve' }, title: '' },
      { held_on: { asStored: '' }, sold: true, takings: '9223372036854775807' },
    ]);
  });

  test('bytes that are no UTF-8 arrive as bytes, and the character that stands for them elsewhere as itself', async () => {
    expect((await answer('from Concert\nwhere id = 3'))[0]?.title).toEqual({ asStored: { bytes: '41ff42' } });
    expect((await answer('from Player')).map(({ name }) => name)).toEqual(['Ines', { asStored: { bytes: '00ff' } }, '\ufffd']);
  });

  test.each([
    ["held_on = '2031-04-12'", ['2']],
    ['held_on is not null and takings > 9007199254740992', ['1', '2', '3']],
    ["title = ''", ['2']],
    ["hall.site = 'North Quay'", ['1', '3']],
    ['hall.seats is null', ['3']],
  ])('they are filtered without a crash: %s', async (where, ids) => {
    expect((await answer(`from Concert\nwhere ${where}`)).map(({ id }) => id)).toEqual(ids);
  });
});

describe('keys of several columns', () => {
  test('are loaded across, up and down, and told apart whatever stands in them', async () => {
    const halls = await answer('from Hall\nload concerts (title)\nload hall_key\nload players (name)');
    expect(halls).toMatchObject([
      {
        site: 'North Quay',
        number: '1',
        concerts: [{ id: '1' }],
        hall_key: { holder: 'Ines' },
        players: [{ id: '1' }, { id: '2' }],
      },
      { site: 'North Quay', number: '2', concerts: [{ id: '3' }], hall_key: null, players: [{ id: '1' }] },
      { site: 'South "Gate" \\ É', concerts: [{ id: '2' }], hall_key: null, players: [] },
    ]);
    expect(await answer('from Concert\nload hall')).toMatchObject([
      { hall: { site: 'North Quay', number: '1' } },
      { hall: { site: 'South "Gate" \\ É' } },
      { hall: { number: '2' } },
    ]);
    expect(await answer('from Player\nwhere any(halls[seats > 100])\nload halls\n  concerts')).toMatchObject([
      { id: '1', halls: [{ number: '1', concerts: [{ id: '1' }] }, { number: '2' }] },
      { id: '2', halls: [{ number: '1' }] },
    ]);
  });

  test('a row is written with its parts, and counted and compared by them', async () => {
    expect(await answer("from Concert\nwhere hall = Hall('North Quay', 2)")).toMatchObject([{ id: '3' }]);
    expect(await answer("from Concert\nwhere hall in (Hall('North Quay', 2), Hall('North Quay', 1))")).toHaveLength(2);
    expect(await answer('from Hall\nwhere count(players) = 2')).toMatchObject([{ number: '1' }]);
    expect(await answer('from Hall\nwhere none(concerts[sold])')).toHaveLength(2);
  });
});

test('a number beyond all numbers is delivered as stored, and not as empty', async () => {
  expect((await answer('from Reading\norder by id')).map(({ level }) => level)).toEqual([
    { asStored: 'Infinity' },
    { asStored: '-Infinity' },
    1.5,
  ]);
});

describe('rows without a key that fits', () => {
  test.each([
    ['Desk', 'holder', ['6', '5', '8', '7']],
    ['Label', 'words', ['none', 'one', 'a text', 'bytes']],
  ])('of %s are seen with all the others, in their order', async (entity, field, expected) => {
    const asked = { entity, where: '', orderBy: '', via: null };
    const browsed = { design, engine, sampleKeys: {}, madeHere: false };
    const order = await rowOrder(browsed, asked);
    if (!order.ok) throw new Error(order.problems.join());
    const { keys } = order.value;
    const rows = await rowWindow(browsed, asked, keys, 0);
    expect(rows.ok && rows.value.map((row) => row[field])).toEqual(expected);
    // A window that begins further down holds the rows from there on.
    const last = await rowWindow(browsed, asked, keys.slice(2), 2);
    expect(last.ok && last.value.map((row) => row[field])).toEqual(expected.slice(2));
  });
});

describe('rows are browsed', () => {
  const look = async (request: Partial<RowsRequest> & { entity: string }) => {
    const asked = { where: '', orderBy: '', via: null, ...request };
    const browsed = { design, engine, sampleKeys: {}, madeHere: false };
    const order = await rowOrder(browsed, asked);
    if (!order.ok) throw new Error(order.problems.join());
    const rows = await rowWindow(browsed, asked, order.value.keys, 0);
    if (!rows.ok) throw new Error(rows.problems.join());
    expect(rows.value).toHaveLength(order.value.keys.length);
    return { keys: order.value.keys, rows: rows.value };
  };

  test('by a key of several columns, one row alone too, and those behind it', async () => {
    const { keys, rows } = await look({ entity: 'Hall' });
    expect(keys).toEqual(['["North Quay",1]', '["North Quay",2]', '["South \\"Gate\\" \\\\ É",1]']);
    expect(rows[2]).toMatchObject({ site: 'South "Gate" \\ É', '~key': keys[2] });
    expect((await look({ entity: 'Hall', key: String(keys[2]) })).rows).toMatchObject([{ seats: { asStored: 'many' } }]);
    const via = { entity: 'Hall', key: String(keys[0]), role: 'players' };
    expect((await look({ entity: 'Player', via })).rows).toMatchObject([
      { id: '1', stewards: { since: '2030-01-01' } },
      { id: '2' },
    ]);
    expect((await look({ entity: 'Hall', via: { entity: 'Player', key: '2', role: 'halls' } })).rows).toMatchObject([
      { number: '1' },
    ]);
  });

  test('and are counted over each role', async () => {
    const browsed = { design, engine, sampleKeys: {}, madeHere: false };
    const { keys } = await look({ entity: 'Hall' });
    expect(await roleCounts(browsed, 'Hall', keys)).toEqual({
      concerts: { '["North Quay",1]': 1, '["North Quay",2]': 1, [String(keys[2])]: 1 },
      players: { '["North Quay",1]': 2, '["North Quay",2]': 1 },
    });
    expect(await profileRelation({ design, engine }, 'concert_hall')).toMatchObject({ ok: true, profile: { rows: 3 } });
    expect(await profileRelation({ design, engine }, 'stewards')).toMatchObject({ ok: true, profile: { rows: 3 } });
    expect(await rowChoices({ design, engine, sampleKeys: {}, madeHere: false }, 'Hall')).toMatchObject({
      rows: [{ key: '["North Quay",1]' }, {}, {}],
    });
  });

  test('by the number that SQLite gives each, where a table has no key or one of bytes', async () => {
    expect((await look({ entity: 'Log' })).rows).toMatchObject([{ line: 'opened' }, { line: 'closed' }]);
    expect((await look({ entity: 'Print' })).rows).toMatchObject([{ digest: '00ff' }, { digest: '0100' }]);
    expect((await look({ entity: 'Concert', via: { entity: 'Player', key: '1', role: 'concerts' } })).rows).toMatchObject([
      { id: '1' },
    ]);
  });
});

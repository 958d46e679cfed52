import { readFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { makeTestDatabase, type TestDatabase, temporaryFolder } from '../tests/database.js';
import {
  type AnswerRow,
  entityCounts,
  type LookedAt,
  profileRelation,
  type RowsRequest,
  roleCounts,
  rowOrder,
  rowWindow,
} from './index.js';

const folder = temporaryFolder();
let browsed: LookedAt;
let raw: Database.Database;
let made: TestDatabase;

beforeAll(async () => {
  made = await makeTestDatabase(readFileSync('demo/library.kin', 'utf8'));
  browsed = { design: made.design, engine: made.engine, sampleKeys: made.made.sampleKeys, madeHere: true };
  raw = new Database(made.path, { readonly: true });
});

afterAll(async () => {
  raw.close();
  await made.close();
  folder.remove();
});

const all = (entity: string, more: Partial<RowsRequest> = {}): RowsRequest => ({
  entity,
  where: '',
  orderBy: '',
  via: null,
  ...more,
});

async function keys(request: RowsRequest, on: LookedAt = browsed): Promise<readonly unknown[]> {
  const order = await rowOrder(on, request);
  if (!order.ok) throw new Error(JSON.stringify(order));
  return order.value.keys;
}

async function rows(request: RowsRequest, on: LookedAt = browsed): Promise<readonly AnswerRow[]> {
  const order = await rowOrder(on, request);
  if (!order.ok) throw new Error(JSON.stringify(order));
  const window = await rowWindow(on, request, order.value.keys.slice(0, 50), 0);
  if (!window.ok) throw new Error(JSON.stringify(window));
  return window.value;
}

const column = (sql: string) => raw.prepare(sql).pluck().all();

describe('looking through rows', () => {
  test('gives all of them, in the entity’s own order', async () => {
    expect(await keys(all('Player'))).toEqual(column('select id from players order by name, id'));
  });

  test('filters by a condition of the notation, and orders by its terms', async () => {
    expect(await keys(all('Player', { where: 'count(loans) > 12', orderBy: 'count(loans) desc' }))).toEqual(
      column(
        'select id from players p where (select count(*) from loans where borrower_id = p.id) > 12 order by (select count(*) from loans where borrower_id = p.id) desc, id',
      ),
    );
    expect((await keys(all('Loan', { where: 'overdue' }))).length).toBe(
      column("select id from loans where returned_on is null and due_on < '2031-04-12'").length,
    );
  });

  test('a row has its own fields and the titles of what it points at', async () => {
    const [first] = await rows(all('Loan', { where: 'id = 7' }));
    const [borrower] = column('select players.name from loans join players on players.id = borrower_id where loans.id = 7');
    expect(first).toMatchObject({ id: 7, borrower: { '~shown': borrower } });
    expect(Object.keys(first?.instrument as object)).toEqual(['~kind', 'id', '~shown']);
  });

  test('a window keeps the order that was found', async () => {
    const request = all('Player', { orderBy: 'email desc' });
    const found = await rows(request);
    expect(found.map(({ id }) => id)).toEqual((await keys(request)).slice(0, 50));
  });

  test('walks over a key, backwards, and over a pivot with its fields', async () => {
    const loans = all('Loan', { via: { entity: 'Player', key: '3', role: 'loans' } });
    expect(new Set(await keys(loans))).toEqual(new Set(column('select id from loans where borrower_id = 3')));
    const branch = all('Branch', { via: { entity: 'Player', key: '3', role: 'branch' } });
    expect(await keys(branch)).toEqual(column('select branch_id from players where id = 3'));
    const players = all('Player', { via: { entity: 'Ensemble', key: '2', role: 'players' } });
    const found = await rows(players);
    expect(found.length).toBe(Math.min(50, column('select 1 from seats where ensemble_id = 2').length));
    for (const row of found) {
      const chair = raw.prepare('select chair from seats where ensemble_id = 2 and player_id = ?').pluck().get(row.id);
      expect((row.seats as AnswerRow).chair).toBe(chair);
    }
  });

  test('rows that are walked to over pairs stand in the order that those give them, filtered or not', async () => {
    const ordered = raw
      .prepare('select piece_id from setlist where concert_id = 1 order by position, piece_id')
      .pluck()
      .all() as number[];
    const via = { via: { entity: 'Concert', key: '1', role: 'pieces' } };
    expect(await keys(all('Piece', via))).toEqual(ordered);
    const [first] = ordered;
    expect(await keys(all('Piece', { ...via, where: `id <> ${first}` }))).toEqual(ordered.slice(1));
    expect(await keys(all('Piece', { ...via, orderBy: 'id' }))).toEqual(ordered.toSorted((one, other) => one - other));
  });

  test('a symmetric pair is walked from either side', async () => {
    const pair = raw.prepare('select player_id, partner_id from duets limit 1').get() as {
      player_id: number;
      partner_id: number;
    };
    const via = (key: number) => ({ via: { entity: 'Player', key: String(key), role: 'duet_partners' } });
    expect(await keys(all('Player', via(pair.player_id)))).toContain(pair.partner_id);
    expect(await keys(all('Player', via(pair.partner_id)))).toContain(pair.player_id);
  });

  test('counts what each row knows, over keys, pivots and pairs', async () => {
    const ids = (await keys(all('Player'))).slice(0, 40) as number[];
    const counts = await roleCounts(browsed, 'Player', ids);
    for (const id of ids) {
      expect(counts.loans?.[String(id)] ?? 0).toBe(
        raw.prepare('select count(*) from loans where borrower_id = ?').pluck().get(id),
      );
      expect(counts.ensembles?.[String(id)] ?? 0).toBe(
        raw.prepare('select count(*) from seats where player_id = ?').pluck().get(id),
      );
      expect(counts.duet_partners?.[String(id)] ?? 0).toBe(
        raw.prepare('select count(*) from duets where player_id = :id or partner_id = :id').pluck().get({ id }),
      );
    }
    expect((await entityCounts(browsed)).Loan).toBe(column('select count(*) from loans')[0]);
  });

  test('what is wrong is told with its place in what was typed', async () => {
    expect(await rowOrder(browsed, all('Loan', { where: 'due_on < today and borrwer is null' }))).toEqual({
      ok: false,
      findings: [{ part: 'where', message: expect.stringContaining('Did you mean borrower?'), start: 19, end: 26 }],
      problems: [],
    });
    expect(await rowOrder(browsed, all('Loan', { orderBy: 'nothing' }))).toMatchObject({
      ok: false,
      findings: [{ part: 'order by', start: 0, end: 7 }],
    });
    expect(await rowOrder(browsed, all('Nobody'))).toMatchObject({
      ok: false,
      problems: ['There is no entity Nobody in the text.'],
    });
  });
});

describe('what the rows say about a relation', () => {
  test('is what counting by hand says', async () => {
    const outcome = await profileRelation(browsed, 'borrowing');
    if (!outcome.ok) throw new Error(outcome.problem);
    const perPlayer = column('select (select count(*) from loans where borrower_id = players.id) from players') as number[];
    const { histogram } = outcome.profile.ends[0] ?? {};
    expect(histogram).toMatchObject({
      least: Math.min(...perPlayer),
      most: Math.max(...perPlayer),
      none: perPlayer.filter((count) => count === 0).length,
      parents: perPlayer.length,
    });
    expect(histogram?.mean).toBeCloseTo(perPlayer.reduce((sum, count) => sum + count, 0) / perPlayer.length, 6);
    for (const { least, most, parents } of histogram?.buckets ?? [])
      expect(parents).toBe(perPlayer.filter((count) => count >= least && count <= most).length);
    expect(outcome.profile).toMatchObject({ empty: [{ column: 'borrower_id', rows: 0 }], dangling: [{ rows: 0 }] });
  });

  test('is known for every relation of the demo, both ends of a pivot', async () => {
    for (const relation of browsed.design.model.relations.values()) {
      const outcome = await profileRelation(browsed, relation.name);
      if (!outcome.ok) throw new Error(outcome.problem);
      const ends = { 'many-to-many': 2, polymorphic: 3, 'polymorphic many-to-many': 3 } as Record<string, number>;
      expect(outcome.profile.ends.length).toBe(ends[relation.form] ?? 1);
    }
  });
});

describe('in a database that others fill', () => {
  let loose: LookedAt;
  let engine: Engine;

  beforeAll(() => {
    const path = `${folder.path}/loose.db`;
    const db = new Database(path);
    db.pragma('foreign_keys = off');
    db.exec(`create table makers (id text primary key, name text);
      create table lutes (id integer primary key, maker_id text references makers (id), label text);
      insert into makers values ('a', 'Tarn'), ('b', null);
      insert into lutes values (1, 'a', 'x'), (2, 'gone', 'y'), (3, null, 'z');`);
    db.close();
    const design = readDesign(
      'entity Maker\n  id text key\n  name text optional\n\nentity Lute\n  id integer key\n  label text optional\n\nrelation made\n  Lute knows at most one Maker as maker\n  Maker knows many Lute as lutes\n',
    );
    engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
    loose = { design, engine, sampleKeys: {}, madeHere: false };
  });
  afterAll(() => engine.close());

  test('keys that are empty or point at nothing are counted, and cost no row', async () => {
    const outcome = await profileRelation(loose, 'made');
    expect(outcome).toMatchObject({
      ok: true,
      profile: {
        rows: 3,
        empty: [{ rows: 1 }],
        dangling: [{ rows: 1 }],
        ends: [{ histogram: { none: 1, parents: 2, most: 1 } }],
      },
    });
    const found = await rows(all('Lute'), loose);
    expect(found.map(({ maker, maker_id }) => [maker === null ? null : 'row', maker_id])).toEqual([
      ['row', 'a'],
      [null, 'gone'],
      [null, null],
    ]);
    expect(await keys(all('Lute', { where: 'maker is not null and maker.id is null' }), loose)).toEqual([2]);
  });

  test('a table that is not there is told', async () => {
    const design = readDesign('entity Gone\n  id integer key\n');
    const outcome = await rowOrder({ ...loose, design }, all('Gone'));
    expect(outcome).toMatchObject({ ok: false, problems: [expect.stringContaining('gones')] });
  });
});

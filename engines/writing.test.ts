import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type EngineName, type Engines, openEngines } from '../tests/engines.js';
import type { MakeRequest } from './index.js';
import { rawRows } from './raw-rows.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const EACH = ['sqlite', 'postgres', 'embedded', 'mariadb'] as const satisfies readonly EngineName[];
const HALLS = { schema: null, name: 'halls' };

const request = (more: Partial<MakeRequest>): MakeRequest => ({
  before: ['create table halls (id int primary key, seats int, constraint seated check (seats > 0))'],
  inserts: [],
  keys: [],
  after: [],
  marked: false,
  ...more,
});

describe.each(EACH)('a transaction that writes on %s', (name) => {
  test('goes on behind a row that is refused, of which nothing is left', async () => {
    const { engine, remove } = await engines.open(name);
    const rows = Array.from({ length: 7 }, (_, index) => [index + 1, index === 3 ? 0 : index + 1]);
    const made = await engine.make(request({ inserts: [{ table: HALLS, columns: ['id', 'seats'], rows }] }));
    expect(made).toMatchObject({ ok: true, value: { rows: { halls: 6 }, refused: [{ table: 'halls', rows: 1 }] } });
    const there = await rawRows(engine, 'select id from halls order by id', {});
    expect(there.ok && there.value.map(([id]) => Number(id))).toEqual([1, 2, 3, 5, 6, 7]);
    await remove();
  });

  test('takes all rows back where a statement fails, and says which', async () => {
    const { engine, remove } = await engines.open(name);
    const inserts = [{ table: HALLS, columns: ['id', 'seats'], rows: [[1, 1]] }];
    const keys = [{ table: 'halls', parent: 'nowhere', sql: 'delete from halls where no_such_column = 1' }];
    const after = ['create index nowhere on no_such_table (id)'];
    const made = await engine.make(request({ inserts, keys, after }));
    expect(made.ok).toBe(false);
    if (!made.ok) expect(made.problem.message).toMatch(/no_such/);
    const there = await rawRows(engine, 'select count(*) from halls', {});
    // Where a table is made for good at once, it is there without rows; else it went too.
    expect(there.ok ? Number(there.value[0]?.[0]) : 0).toBe(0);
    await remove();
  });

  test('removes what points at a row that was refused, down to what points at that', async () => {
    const { engine, remove } = await engines.open(name);
    const points = (child: string, parent: string) =>
      `create table ${child} (id int primary key, parent int${name === 'sqlite' ? ` references ${parent} (id)` : ''})`;
    const held = (child: string, parent: string) => ({
      table: child,
      parent,
      sql: `delete from ${child} where parent is not null and not exists (select 1 from ${parent} there where there.id = ${child}.parent)`,
    });
    const into = (table: string, rows: (number | null)[][]) => ({
      table: { schema: null, name: table },
      columns: ['id', 'parent'],
      rows,
    });
    const made = await engine.make({
      ...request({ keys: [held('loans', 'players'), held('players', 'halls')] }),
      before: [...request({}).before, points('players', 'halls'), points('loans', 'players')],
      inserts: [
        into('loans', [
          [1, 1],
          [2, 2],
          [3, null],
        ]),
        into('players', [
          [1, 1],
          [2, 2],
        ]),
        {
          table: HALLS,
          columns: ['id', 'seats'],
          rows: [
            [1, 0],
            [2, 5],
          ],
        },
      ],
    });
    expect(made).toMatchObject({ ok: true, value: { rows: { halls: 1, players: 1, loans: 2 } } });
    await remove();
  });
});

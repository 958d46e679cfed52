import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { openSqlite } from '../engines/index.js';
import { temporaryFolder } from '../tests/database.js';
import { foretellDelete } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const folder = temporaryFolder();
afterAll(() => folder.remove());

let count = 0;

/** What is told of a delete in a database that SQL made, line by line. */
async function told(text: string, sql: string, rows: string): Promise<readonly string[]> {
  const path = join(folder.path, `given_${count++}.db`);
  new Database(path).exec(sql).close();
  const engine = openSqlite({ path, mode: 'look', milliseconds: 10_000 });
  try {
    const told = await foretellDelete(readDesign(text), engine, { rows, sampleKeys: {}, now: NOW, schemas: null, looks: 2 });
    if (!told.ok) return [...told.problems, ...told.findings.map(({ message }) => message)];
    const { groups, unforeseen } = told.impact;
    return [
      ...groups.map(
        ({ effect, generation, of, over, rows: many }, at) =>
          `${generation} ${effect}: ${many} ${of} over ${over.join(', ')} (${told.looks[at]?.keys.join(', ') ?? 'pairs'})`,
      ),
      ...unforeseen.map(({ table, trigger }) => `${trigger} of ${table}`),
    ];
  } finally {
    await engine.close();
  }
}

const SHELVES = `
entity Shelf in shelves
  id  integer key
entity Case in cases
  id  integer key

relation standing
  Case knows at most one Shelf as shelf
  Shelf knows many Case as cases
`;

describe('what a delete reaches is read off the database itself, not off the text', () => {
  const tables = (rule: string) => `
    create table shelves (id integer primary key);
    create table cases (id integer primary key, shelf_id integer ${rule});
    insert into shelves values (1), (2);
    insert into cases values (10, 1), (11, 1), (12, 2);`;

  test.each([
    ['references shelves on delete cascade', ['1 goes along: 2 Case over shelf (10, 11)']],
    ['references shelves on delete set null', ['1 is emptied: 2 Case over shelf (10, 11)']],
    ['references shelves', ['1 refuses: 2 Case over shelf (10, 11)']],
    ['', ['1 stays: 2 Case over shelf (10, 11)']],
  ])('a key that is declared “%s”', async (rule, lines) => {
    expect(await told(SHELVES, tables(rule), 'Shelf(1)')).toEqual(lines);
  });

  test('a trigger that others wrote is named, since nobody can tell what it does', async () => {
    const trigger = 'create trigger "on the way" before delete on shelves begin delete from cases where shelf_id = old.id; end;';
    const other = 'create trigger counts after insert on shelves begin select 1; end;';
    const lines = await told(SHELVES, `${tables('')}${trigger}${other}`, 'Shelf(1)');
    expect(lines).toEqual(['1 stays: 2 Case over shelf (10, 11)', 'on the way of shelves']);
  });

  test('several deletes are told as one; another command is none', async () => {
    const sql = tables('references shelves on delete cascade');
    expect(await told(SHELVES, sql, 'delete Shelf(1); delete Shelf(2)')).toEqual(['1 goes along: 3 Case over shelf (10, 11)']);
    expect(await told(SHELVES, sql, 'delete Shelf(1); delete Case(10)')).toEqual(['1 goes along: 1 Case over shelf (11)']);
    expect(await told(SHELVES, sql, 'Shelf(7)')).toEqual([]);
    expect(await told(SHELVES, sql, 'Shelve(1)')).toEqual([expect.stringContaining('Shelf')]);
    expect(await told(SHELVES, sql, 'delete Shelf(1); create Shelf')).toEqual([
      'Only a delete is told beforehand. Rehearse the other commands instead.',
    ]);
  });
});

test('rows that take each other along in a circle of tables are followed to its end, each counted once', async () => {
  const text = `
entity Stand in stands
  id  integer key
entity Folder in folders
  id  integer key

relation above
  Stand knows at most one Stand as carrier
  Stand knows many Stand as carried
  on delete cascade
relation inside
  Folder knows at most one Stand as stand
  Stand knows many Folder as folders
  on delete cascade
relation holding
  Stand knows at most one Folder as folder
  Folder knows many Stand as stands
  on delete cascade
`;
  const sql = `
    create table stands (id integer primary key, carrier_id integer references stands on delete cascade, folder_id integer references folders on delete cascade);
    create table folders (id integer primary key, stand_id integer references stands on delete cascade);
    insert into stands values (1, null, null), (2, 1, null), (3, 2, null), (6, null, null);
    insert into folders values (1, 3), (2, null);
    insert into stands values (4, null, 1), (5, 4, 2);
    update stands set carrier_id = 5 where id = 1;
    insert into folders values (3, 5);`;
  expect(await told(text, sql, 'Stand(2)')).toEqual([
    '1 goes along: 4 Stand over carrier, folder (1, 3)',
    '1 goes along: 2 Folder over stand (1, 3)',
  ]);
});

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { openSqlite } from '../engines/index.js';
import { rawRows } from '../engines/raw-rows.js';
import { makeTestDatabase, type TestDatabase, temporaryFolder } from '../tests/database.js';
import { bringIn, makeDatabase, nowOf, rowChoices, runQuery, titleOf } from './index.js';

const demo = readFileSync('demo/library.kin', 'utf8');
const folder = temporaryFolder();
let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(demo);
});
afterAll(async () => {
  await library.close();
  folder.remove();
});

const ENDLESS = 'with recursive n(i) as (select 1 union all select i + 1 from n) select count(*) from n';

describe('the demo', () => {
  test('makes every row that it asks for, some of which break a rule, to be found', () => {
    expect(library.made).toMatchObject({
      unsatisfied: [],
      unheld: ['Loan: 3 rows break the rule bought_by_then, “Nothing is lent before it is bought”.'],
      rows: { loans: 1600, players: 180, instruments: 330, tags: 8 },
    });
  });

  test.each([
    ['overdue_by_branch', { branch: 'north' }, 5],
    ['concert_programme', {}, 3],
    ['players_with_many_loans', {}, 3],
    ['worn_instruments', {}, 3],
    ['partners_of', { email: 'ines@example.org' }, 2],
    ['not_lent_since', { since: '2030-06-01' }, 3],
    ['repair_bill', { least: '400' }, 3],
    ['newest_in', { branch: 'mill' }, 3],
    ['thin_ensembles', {}, 4],
    ['busiest_branches', {}, 1],
    ['worth_out', {}, 1],
    ['last_loans', {}, 3],
  ])('its query %s answers, with a statement for each load', async (name, parameters, least) => {
    const answer = await library.answer(name, parameters);
    expect(answer.rows).toBeGreaterThan(0);
    expect(answer.log.length).toBeGreaterThanOrEqual(least);
  });

  test('its query waiting_for answers for an instrument that somebody asked for', async () => {
    const [reservation] = await library.rows('from Reservation\nlimit 1');
    const waiting = await library.rows('waiting_for', { instrument: String(reservation?.instrument_id) });
    expect(waiting.map(({ id }) => id)).toContain(reservation?.id);
  });

  test('what it answers is as asked: every loan overdue, every borrower of the branch', async () => {
    for (const loan of await library.rows('overdue_by_branch', { branch: 'south' })) {
      expect(loan.returned_on).toBeNull();
      expect(String(loan.due_on) < '2031-04-12').toBe(true);
      expect(loan.borrower).toMatchObject({ branch: { name: 'South Gate' } });
    }
  });
});

describe('making a database', () => {
  test('replaces the file that is there, with nothing of it left', async () => {
    const path = join(folder.path, 'twice.db');
    const first = await makeDatabase(readDesign('entity Old\n  id integer key\n'), path);
    const second = await makeDatabase(readDesign('entity Fresh\n  id integer key\n'), path);
    expect([first.ok, second.ok]).toEqual([true, true]);
    const db = new Database(path, { readonly: true });
    expect(db.prepare("select name from sqlite_schema where type = 'table' and name not like 'sqlite%'").pluck().all()).toEqual([
      'freshes',
    ]);
    db.close();
  });

  test('a folder that is not there is said', async () => {
    const made = await makeDatabase(readDesign('entity A\n  id integer key\n'), join(folder.path, 'nowhere', 'x.db'));
    expect(made.ok ? '' : made.problem.message).toContain('folder of x.db is not there');
  });

  test('a text with errors still makes what is right', async () => {
    const made = await makeDatabase(
      readDesign('entity A\n  id integer key\n  b nonsense\n\nentity C\n  no key\n'),
      join(folder.path, 'half.db'),
    );
    expect(made.ok && made.value.rows).toEqual({ as: 12 });
  });

  test('a sample row that breaks a check is left out and told, with what points at it', async () => {
    const text = `entity A\n  id integer key\n  code text(3)\n  check odd: replace(code, 'x', '') = code\n\nentity B\n  id integer key\n\nrelation r\n  B knows one A as a\n  A knows many B as bs\n\nsample A\n  good: code 'abc'\n  bad: code 'x'\n\nsample B\n  one: a A(good)\n  two: a A(bad)\n`;
    const made = await makeDatabase(readDesign(text), join(folder.path, 'refused.db'));
    expect(made.ok && made.value.rows).toMatchObject({ as: 1 });
    expect(made.ok && made.value.unsatisfied.map((short) => short.constraint)).toContain('check odd, in the sample row bad');
  });
});

describe('running a query', () => {
  const run = (name: string, text = demo) =>
    runQuery(readDesign(text), library.engine, {
      query: { kind: 'saved', name },
      parameters: {},
      sampleKeys: {},
      madeHere: true,
      rowLimit: 10,
    });

  test('that the text does not have names the nearest', async () => {
    expect(await run('worn_instrument')).toEqual({
      ok: false,
      findings: [],
      problems: ['Query worn_instrument is not in the text. Did you mean worn_instruments?'],
    });
  });

  test('that does not stand says why', async () => {
    const outcome = await run('broken', `${demo}\nquery broken\n  from Loan\n  where nothing\n`);
    expect(outcome.ok ? '' : outcome.problems[0]).toContain(
      'Query broken cannot run: There is no field, role or scope of Loan called nothing',
    );
  });
});

describe('rows to choose from', () => {
  test('come in the entity’s order, shown as it says', async () => {
    const { rows, more } = await rowChoices({ ...library, sampleKeys: {}, madeHere: true }, 'Branch');
    expect(rows).toEqual([
      { key: '5', shown: 'Hill Chapel' },
      { key: '4', shown: 'Kiln Row' },
      { key: '3', shown: 'Mill Lane' },
      { key: '1', shown: 'North Quay' },
      { key: '2', shown: 'South Gate' },
    ]);
    expect(more).toBe(false);
    expect((await rowChoices({ ...library, sampleKeys: {}, madeHere: true }, 'Instrument')).rows[0]?.shown).toMatch(/^Cello \w/);
  });

  test('and say where they are too many to list', async () => {
    const loans = await rowChoices({ ...library, sampleKeys: {}, madeHere: true }, 'Loan');
    expect([loans.rows.length, loans.more]).toEqual([200, true]);
  });
});

describe('bringing in', () => {
  test('says what came, and that the file is not written', async () => {
    const path = join(folder.path, 'shop_of-mine.sqlite3');
    new Database(path)
      .exec('create table a (id integer primary key); create table b (id integer primary key, a_id integer unique references a)')
      .close();
    const brought = await bringIn(path, titleOf(path), join(folder.path, 'copy.db'));
    expect(brought.ok && brought.value.title).toBe('Shop of mine');
    expect(brought.ok && brought.value.summary).toEqual({
      was: '2 tables with 3 columns and 1 foreign key',
      became: '2 entities, 1 one-to-one relation',
    });
  });

  test.each([
    ['x.db', 'X'],
    ['.db', 'Untitled'],
    ['/a/b/my_file.sqlite', 'My file'],
  ])('%s is called %s', (file, title) => {
    expect(titleOf(file)).toBe(title);
  });
});

test('now is the tree’s clock in a database that was made here, or the same for all; elsewhere it is now', () => {
  expect(nowOf(library.design.model, true)).toBe('2031-04-12T09:00:00.000000Z');
  expect(nowOf(readDesign('').model, true)).toBe('2030-01-01T12:00:00.000000Z');
  for (const model of [library.design.model, readDesign('').model]) {
    const now = nowOf(model, false);
    expect(now).toMatch(/^\d{4}-\d\d-\d\dT[\d:.]{15}Z$/);
    expect(Math.abs(Date.parse(now) - Date.now())).toBeLessThan(60_000);
  }
});

describe('an engine', () => {
  test('leaves out the rows that a constraint refuses, and those that point at them, and counts both', async () => {
    const engine = openSqlite({ path: join(folder.path, 'make.db'), mode: 'make', milliseconds: 10_000 });
    const made = await engine.make({
      keys: [],
      marked: false,
      after: [],
      before: [
        'create table parents (id integer primary key, size int, constraint parents_small check (size < 10))',
        'create table children (id integer primary key, parent_id int references parents (id))',
      ],
      inserts: [
        {
          table: { schema: null, name: 'children' },
          columns: ['id', 'parent_id'],
          rows: [
            [1, 1],
            [2, 2],
            [3, null],
          ],
        },
        {
          table: { schema: null, name: 'parents' },
          columns: ['id', 'size'],
          rows: [
            [1, 5],
            [2, 50],
            [1, 6],
          ],
        },
      ],
    });
    expect(made).toEqual({
      ok: true,
      value: {
        rows: { parents: 1, children: 2 },
        refused: [
          { table: 'parents', constraint: 'parents_small', rows: 1 },
          { table: 'parents', constraint: 'parents.id', rows: 1 },
          { table: 'children', constraint: 'a key that points at a row of parents that is not there', rows: 1 },
        ],
      },
    });
    await engine.close();
  });

  test('stops what runs when it is told to, holds up no short question meanwhile, and takes the call that waits behind it', async () => {
    const engine = openSqlite({ path: join(folder.path, 'twice.db'), mode: 'look', milliseconds: 30_000 });
    const endless = rawRows(engine, ENDLESS, {}, { signal: AbortSignal.timeout(800), patient: true });
    const second = rawRows(engine, 'select 2', {}, { patient: true });
    expect(await rawRows(engine, 'select 3', {})).toEqual({ ok: true, value: [[3]] });
    expect(await engine.answers()).toEqual({ ok: true, value: null });
    expect(await endless).toEqual({ ok: false, problem: { code: 'ended', message: 'Stopped.' } });
    expect(await second).toEqual({ ok: true, value: [[2]] });
    expect(await rawRows(engine, 'select 1', {})).toEqual({ ok: true, value: [[1]] });
    await engine.close();
    expect(await rawRows(engine, 'select 1', {})).toMatchObject({ ok: false, problem: { message: 'This database is closed.' } });
  });

  test('that only looks never writes', async () => {
    const engine = openSqlite({ path: join(folder.path, 'twice.db'), mode: 'look', milliseconds: 10_000 });
    for (const sql of ['delete from freshes returning id', 'insert into freshes values (99) returning id']) {
      expect(await rawRows(engine, sql, {})).toMatchObject({ ok: false, problem: { code: 'refused' } });
    }
    await engine.close();
  });

  test('answers several calls that were asked at once', async () => {
    const engine = openSqlite({ path: join(folder.path, 'twice.db'), mode: 'look', milliseconds: 10_000 });
    const answers = await Promise.all(Array.from({ length: 20 }, (_, index) => rawRows(engine, 'select :n', { n: index })));
    expect(answers.map((answer) => (answer.ok ? answer.value[0]?.[0] : null))).toEqual(
      Array.from({ length: 20 }, (_, index) => index),
    );
    await engine.close();
  });
});

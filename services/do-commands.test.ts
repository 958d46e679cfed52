import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { WrittenRow } from '../core/write/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { type DoOutcome, doCommands } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

let library: TestDatabase;
let writer: Engine;
beforeAll(async () => {
  library = await makeTestDatabase(readFileSync('demo/library.kin', 'utf8'));
  writer = openSqlite({ path: library.path, mode: 'write', milliseconds: 20_000 });
});
afterAll(async () => {
  await writer.close();
  await library.close();
});

/** Rehearses commands on the demo. */
function rehearsed(text: string): Promise<DoOutcome> {
  const { design, made } = library;
  return doCommands(design, writer, { text, sampleKeys: made.sampleKeys, madeHere: true, now: NOW, rehearse: true });
}

async function rowsOf(text: string): Promise<readonly WrittenRow[]> {
  const outcome = await rehearsed(text);
  if (!outcome.ok) throw new Error([...outcome.problems, ...outcome.findings.map(({ message }) => message)].join('\n'));
  return outcome.carried.lines.flatMap(({ rows }) => rows);
}

/** The statements that write, as a person is shown them. */
async function sqlOf(text: string): Promise<readonly string[]> {
  const outcome = await rehearsed(text);
  return (outcome.ok ? outcome.carried.log : outcome.log).flatMap((entry) => (entry.kind === 'write' ? [entry.plain] : []));
}

async function refusalOf(text: string): Promise<string> {
  const outcome = await rehearsed(text);
  return outcome.ok ? 'done' : outcome.problems.join('\n');
}

describe('the SQL of a command is what a careful person would write', () => {
  test.each([
    ["create Ensemble with title 'Night Watch'", ['insert into ensembles (title) values (:title) returning id']],
    [
      'update Player(1) with mentor Player(2)',
      ['update players set mentor_id = :mentor_id, changed_at = :changed_at where id = :key'],
    ],
    [
      'update Player[id in (1, 2, 3)] with portrait null',
      ['update players set portrait = :portrait, changed_at = :changed_at where id in (:key, :key_2, :key_3)'],
    ],
    ['delete Tag(1)', ['delete from tags where id = :key']],
    [
      'link Player(1).duet_partners to Player(99)',
      ['insert into duets (player_id, partner_id) values (:player_id, :partner_id)'],
    ],
    ['link Loan(1).borrower to Player(99)', ['update loans set borrower_id = :borrower_id where id = :key']],
  ])('%s', async (text, sql) => {
    expect(await sqlOf(text)).toEqual(sql);
  });

  test('rows that get the same values are written by one statement, others by their own', async () => {
    expect(await sqlOf('update Loan[id <= 40] with due_on today + 90 days')).toHaveLength(1);
    const apart = await sqlOf('update Loan[id <= 40] with due_on due_on + 1 day');
    expect(apart.length).toBeGreaterThan(10);
    expect(apart.length).toBeLessThanOrEqual(40);
  });
});

describe('what fills a value', () => {
  test('is computed where it is made of what the row had, and where its row’s change sets it', async () => {
    const [row] = await rowsOf('update Player(1) with portrait lower(name)');
    expect(row?.cells.map(({ name, by }) => [name, by])).toEqual([
      ['portrait', 'computed'],
      ['changed_at', 'computed'],
    ]);
    expect(row?.after?.portrait).toBe(String(row?.before?.name).toLowerCase());
  });

  test('is what was given also where that is nothing, and no default takes its place', async () => {
    const [row] = await rowsOf(
      "create Ensemble with title 'x'; create Player with name 'N', email 'n@made.example', branch Branch(1), portrait null",
    );
    expect(row?.change).toBe('created');
    expect(await refusalOf("create Tag with word 'w', id null")).toContain('Tag.id is required, and nothing fills it.');
    expect(await refusalOf("create Player with name 'N', email 'n@made.example', branch Branch(1), steward null")).toContain(
      'players.steward is required, and would be empty.',
    );
  });

  test('may be said twice where both say the same', async () => {
    expect(await refusalOf('create Player(1).loans with borrower Player(1), instrument Instrument(1), due_on today')).toBe(
      'done',
    );
  });
});

describe('rows are named', () => {
  test('by what a line before has named, also as a row of a base, and by the text’s own names', async () => {
    const rows = await rowsOf(
      "v = create WindInstrument with number 'W-77', name 'Flute', worth 10, pitch 'C', branch Branch(north), maker Maker(1); link Tag(1).things to Instrument(v); update Instrument(v) with condition 'worn'",
    );
    expect(rows.map(({ change, entity }) => `${change} ${entity}`)).toEqual([
      'created WindInstrument',
      'linked Tag',
      'updated WindInstrument',
    ]);
  });

  test('by paths from them, over several roles, with conditions on the way', async () => {
    const late = await library.rows('from Loan\nwhere borrower.branch = Branch(2) and overdue\nshow id\norder by id');
    const rows = await rowsOf('update Branch(2).players.loans[overdue] with due_on today');
    expect(rows.map(({ key }) => key).sort((a, b) => Number(a) - Number(b))).toEqual(late.map(({ id }) => id));
  });

  test('and where one is needed, several or none are refused with their number', async () => {
    expect(await refusalOf('create Branch(2).players.loans with due_on today')).toContain(
      'rows of Player are meant, and one is needed',
    );
    expect(await refusalOf('create Player(4711).loans with instrument Instrument(1), due_on today')).toContain(
      'there is no such row of Player',
    );
    expect(await refusalOf('link Player(nobody).ensembles to Ensemble(1)')).toContain(
      'There is no row Player(nobody) in this database.',
    );
  });
});

test('a rehearsal tells each row before and after, and what goes along; the database is as it was', async () => {
  const before = await library.rows('from Player\nload loans\nload card');
  const outcome = await rehearsed('update Player(1) with name ‘X’'.replace(/[‘’]/g, "'").concat('\ndelete Player(5)'));
  if (!outcome.ok) throw new Error(outcome.problems.join('\n'));
  const [updated, deleted] = outcome.carried.lines.flatMap(({ rows }) => rows);
  expect(updated?.after).toMatchObject({ id: 1, name: 'X' });
  expect(deleted).toMatchObject({ change: 'deleted', key: 5, after: null });
  expect(outcome.carried.along.map(({ of }) => of)).toContain('Loan');
  expect(await library.rows('from Player\nload loans\nload card')).toEqual(before);
});

test('a rule is looked at for each row that was written, and for no other', async () => {
  const [broken] = await library.rows('from Loan\nwhere instrument.bought_on > lent_on\nshow id\nlimit 1');
  const [sound] = await library.rows('from Loan\nwhere instrument.bought_on < lent_on\nshow id\nlimit 1');
  expect(await refusalOf(`update Loan(${String(broken?.id)}) with returned_on null`)).toContain(
    'What keeps it: Loan, rule bought_by_then.',
  );
  expect(await refusalOf(`update Loan(${String(sound?.id)}) with returned_on null`)).toBe('done');
});

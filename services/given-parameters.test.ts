import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { parseParameters } from '../core/notation/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { type RunOutcome, type RunRequest, runQuery } from './index.js';

let library: TestDatabase;
beforeAll(async () => {
  library = await makeTestDatabase(readFileSync('demo/library.kin', 'utf8'));
});
afterAll(async () => {
  await library.close();
});

function run(
  query: RunRequest['query'],
  parameters: RunRequest['parameters'],
  options: Partial<RunRequest> = {},
): Promise<RunOutcome> {
  const { design, engine, made } = library;
  return runQuery(design, engine, {
    query,
    parameters,
    sampleKeys: made.sampleKeys,
    madeHere: true,
    rowLimit: 10_000,
    ...options,
  });
}

function typed(text: string, head: string): RunRequest['query'] {
  return { kind: 'text', text, parameters: parseParameters(head) ?? [] };
}

function told(outcome: RunOutcome): string {
  return outcome.ok ? outcome.answer.text : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n');
}

describe('a list that is given', () => {
  const among = async (list: string, head = 'wanted many Condition', path = 'condition', entity = 'Instrument') =>
    told(await run(typed(`from ${entity}\nwhere ${path} in :wanted\norder by id`, head), { wanted: list }));
  const written = async (condition: string, entity = 'Instrument') =>
    told(await run(typed(`from ${entity}\nwhere ${condition}\norder by id`, ''), {}));

  test('answers as the values written out do, whatever their type', async () => {
    expect(await among('worn, broken')).toBe(await written("condition in ('worn', 'broken')"));
    expect(await among('["mint"]')).toBe(await written("condition in ('mint')"));
    const day = await among('2030-01-01,2029-12-23', 'wanted many date', 'lent_on', 'Loan');
    expect(day).toBe(await written("lent_on in ('2030-01-01', '2029-12-23')", 'Loan'));
    expect(await among('[1, 3]', 'wanted many Player', 'borrower', 'Loan')).toBe(
      await written('borrower in (Player(1), Player(3))', 'Loan'),
    );
    expect(await among('ines, 3', 'wanted many Player', 'borrower', 'Loan')).toBe(
      await written('borrower in (Player(ines), Player(3))', 'Loan'),
    );
  });

  test('of no values holds nothing, and everything is outside of it', async () => {
    expect(await among('')).toBe('[]');
    expect(await among('[]')).toBe('[]');
    const outside = await run(typed('from Instrument\nwhere condition not in :wanted\ncount', 'wanted many Condition'), {
      wanted: '',
    });
    expect(told(outside)).toBe(told(await run(typed('from Instrument\ncount', ''), {})));
  });

  test('of a saved query is given beside its other parameters, and any number of times', async () => {
    const saved = { kind: 'saved' as const, name: 'in_condition' };
    for (const wanted of ['mint', 'mint, worn', '["worn","broken","mint"]']) {
      const outcome = await run(saved, { wanted, least: '500' });
      const rows = JSON.parse(told(outcome)) as { condition: string; worth: string }[];
      expect(rows.length).toBeGreaterThan(0);
      expect(rows.every(({ condition, worth }) => wanted.includes(condition) && Number(worth) >= 500)).toBe(true);
    }
  });

  test('stands behind “in” alone, and what stands there is a list', async () => {
    expect(told(await run(typed('from Loan\nwhere id = :some', 'some many integer'), { some: '1' }))).toContain(
      'is a list, which stands behind “in” alone',
    );
    expect(told(await run(typed('from Loan\nwhere id in :some', 'some integer'), { some: '1' }))).toContain(
      'Declare it as “some many …”',
    );
    expect(told(await run(typed('from Loan\nwhere id in :some', ''), {}))).toContain('there is no parameter :some');
  });

  test('that is missing, is no list, is too long or has a value of another type is told', async () => {
    const ids = typed('from Loan\nwhere id in :some', 'some many integer');
    expect(told(await run(ids, {}))).toContain('needs a list for some');
    expect(told(await run(ids, { some: '[1, {}]' }))).toContain('no JSON list');
    expect(told(await run(ids, { some: Array.from({ length: 1001 }, (_, id) => id).join() }))).toContain('takes 1,000 at most');
    expect(told(await run(ids, { some: '1, soon' }))).toContain('some\u00a02');
    expect(JSON.parse(told(await run(ids, { some: Array.from({ length: 1000 }, (_, id) => id).join() })))).toHaveLength(999);
  });
});

describe('a row that is given by a unique field', () => {
  const loans = (who: string) => run(typed('from Loan\nwhere borrower = :who\norder by id', 'who Player'), { who });

  test('is the row of which that is true', async () => {
    const byKey = told(await loans('1'));
    expect(byKey).not.toBe('[]');
    expect(told(await loans("Player[email = 'ines@example.org']"))).toBe(byKey);
    const inText = typed("from Loan\nwhere borrower = Player[email = 'ines@example.org']\norder by id", '');
    expect(told(await run(inText, {}))).toBe(byKey);
  });

  test('that is none, or of which there are several, or of another entity, is told', async () => {
    expect(told(await loans("Player[email = 'nobody']"))).toBe("who: no row is Player[email = 'nobody'].");
    expect(told(await loans('Player[id > 3]'))).toBe('who: several rows are Player[id > 3].');
    expect(told(await loans("Branch[name = 'Mill Lane']"))).toContain('a row of Player is meant');
    expect(told(await loans('Player[nothing = 3]'))).toContain('nothing');
    expect(told(await run(typed('from Loan\nwhere borrower = Player[steward]', ''), {}))).toContain(
      'may be true of several rows',
    );
    expect(told(await run(typed('from Loan\nwhere borrower = Player[email = name]', ''), {}))).toContain(
      'may be true of several',
    );
  });
});

test('a value behind a condition is there where the condition holds, and nothing elsewhere', async () => {
  const text =
    'from Loan\nshow borrower[steward].name as keeper, borrower.steward as steward, borrower.name as name\norder by id';
  const rows = JSON.parse(told(await run(typed(text, ''), {}))) as { keeper: string | null; steward: boolean; name: string }[];
  expect(rows.filter(({ steward }) => steward).length).toBeGreaterThan(0);
  for (const { keeper, steward, name } of rows) expect(keeper).toBe(steward ? name : null);
});

describe('a load of one row of each owner', () => {
  const rows = async (text: string) => JSON.parse(told(await run(typed(text, ''), {}))) as Record<string, unknown>[];

  test('has the first in place of a list, or nothing, in each way', async () => {
    const lists = await rows('from Player\nload loans (lent_on) where out order by lent_on, id\norder by id');
    const expected = lists.map(({ loans, ...player }) => ({ ...player, loans: (loans as unknown[])[0] ?? null }));
    expect(expected.some(({ loans }) => loans === null) && expected.some(({ loans }) => loans !== null)).toBe(true);
    for (const way of ['', ' by join', ' by json', ' by row'])
      expect(await rows(`from Player\nload loans (lent_on) where out order by lent_on, id first${way}\norder by id`)).toEqual(
        expected,
      );
  });

  test('goes on below it, and below lists', async () => {
    const [branch] = await rows(
      'from Branch\nload players (name)\n  loans (due_on) order by due_on, id first\n    instrument (name)\norder by id\nlimit 1',
    );
    const players = branch?.players as { loans: { instrument: { name: string } } | null }[];
    expect(players.every(({ loans }) => loans === null || typeof loans.instrument.name === 'string')).toBe(true);
  });

  test('that is to be the only one says which owner has none, or several', async () => {
    const one = async (text: string) => told(await run(typed(text, ''), {}));
    expect(await one('from Player\nwhere count(loans) > 1\nload loans one\norder by id\nlimit 1')).toMatch(
      /^load loans asks for one row, and Player \d+ has several\. Write “first”/,
    );
    expect(await one('from Player\nwhere none(loans[overdue])\nload loans where overdue one\norder by id\nlimit 1')).toContain(
      'has none',
    );
    expect(await rows('from Player\nwhere count(pupils) = 1\nload pupils (name) one\norder by id\nlimit 1')).toMatchObject([
      { pupils: { name: expect.any(String) } },
    ]);
  });

  test('is asked for only where there may be several', async () => {
    expect(told(await run(typed('from Loan\nload borrower first', ''), {}))).toContain('borrower leads to one row already');
  });
});

test('how many rows there are beside a page is counted when asked for, without its limit and its loads', async () => {
  const text = 'from Loan\nwhere out\nload borrower\norder by id\nlimit 5\noffset 3';
  const asked = await run(typed(text, ''), {}, { total: true });
  const all = await run(typed('from Loan\nwhere out\ncount', ''), {});
  if (!asked.ok) throw new Error(told(asked));
  expect(JSON.parse(told(all))).toEqual([{ count: asked.answer.total }]);
  expect(asked.answer.rows).toBe(5);
  expect(asked.answer.log).toHaveLength(3);
  const unasked = await run(typed(text, ''), {});
  expect(unasked.ok && unasked.answer.total).toBe(null);
  const whole = await run(typed('from Branch', ''), {}, { total: true });
  expect(whole.ok && whole.answer.total).toBe(null);
});

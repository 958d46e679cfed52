import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { checkExpectations, isHeld, nowOf } from './index.js';

const TREE = `tree 'Shelves'
  clock '2031-04-12 09:00'

entity Branch in branches
  id    integer key
  name  text(20) unique
  shown as name

entity Case in cases
  id       integer key
  code     text(2)
  made_on  date optional
  weight   integer default 1
  key_note text optional
  check light: weight < 10, message 'Nobody carries more'

relation standing
  Case knows one Branch as branch
  Branch knows many Case as cases

query cases_of(branch Branch, since date optional)
  from Case
  where branch = :branch and (:since is null or made_on >= :since)
  load branch

query one_case(code text)
  from Case
  where code = :code
  one

query all_cases
  from Case
  count

sample Branch
  north: name 'North'
  south: name 'South'
sample Case
  a: code 'A', made_on '2031-04-01', branch Branch(north)
  b: code 'B', branch Branch(north)
  c: code 'C', made_on '2030-01-01', branch Branch(south)
`;

let database: TestDatabase;
let writer: Engine;
beforeAll(async () => {
  database = await makeTestDatabase(TREE);
  writer = openSqlite({ path: database.path, mode: 'write', milliseconds: 20_000 });
});
afterAll(async () => {
  await writer.close();
  await database.close();
});

/** How an expectation comes out: each line as it stands, with what is wrong behind a colon. */
async function held(expectation: string, writable: Engine | { problem: string } = writer): Promise<readonly string[]> {
  const design = readDesign(`${TREE}\n${expectation}\n`);
  const errors = design.findings.filter(({ weight, code }) => weight === 'error' || code === 'not-built-yet');
  if (errors.length > 0) return errors.map(({ message }) => message);
  const { sampleKeys } = database.made;
  const of = { engine: database.engine, writable, sampleKeys, madeHere: true, now: nowOf(design.model, true) };
  const [run] = await checkExpectations(design, of);
  if (run === undefined) throw new Error('no expectation');
  expect(isHeld(run)).toBe(run.problem === null && run.lines.every(({ broken }) => broken === null));
  if (run.problem !== null) return [run.problem];
  return run.lines.map(({ text, broken }) => (broken === null ? text : `${text}: ${broken}`));
}

describe('what a text expects of a query is held against its rows', () => {
  test.each([
    ['expect cases_of(Branch(north))\n  rows 2', ['rows 2']],
    ['expect cases_of(Branch(north))\n  rows 3', ['rows 3: There are 2 rows.']],
    [
      'expect cases_of(Branch(north))\n  rows at least 1\n  rows at most 1',
      ['rows at least 1', 'rows at most 1: There are 2 rows.'],
    ],
    ['expect cases_of(Branch(2))\n  statements at most 2', ['statements at most 2']],
    ['expect cases_of(Branch(2))\n  statements at most 1', ['statements at most 1: It took 2 statements.']],
    ['expect cases_of(Branch(north), today - 30 days)\n  rows 1', ['rows 1']],
    ["expect one_case('A')\n  rows 1\n  every row code = 'A'", ['rows 1', "every row code = 'A'"]],
    ["expect one_case('Z')\n  fails", ['fails']],
    ["expect one_case('A')\n  fails", ['fails: It answered, and did not fail.']],
    ['expect all_cases\n  rows 3', ['rows 3']],
  ])('%s', async (expectation, lines) => {
    expect(await held(expectation)).toEqual(lines);
  });

  test('a query that fails holds nothing else that is expected of it', async () => {
    const [told] = await held("expect one_case('Z')\n  rows 1");
    expect(told).toMatch(/^rows 1: It failed: The query asks for one Case, and there is none/);
  });

  test('every row fails where the condition is unknown, and no row does not; neither fails where there is none', async () => {
    const every = await held('expect cases_of(Branch(north))\n  every row made_on < today\n  no row made_on >= today');
    expect(every).toEqual(['every row made_on < today: 1 of 2 rows does not: Case(2).', 'no row made_on >= today']);
    expect(await held('expect cases_of(Branch(south), today)\n  every row false\n  no row true')).toEqual([
      'every row false',
      'no row true',
    ]);
    expect(await held("expect cases_of(Branch(north))\n  no row code in ('A', 'B')")).toEqual([
      "no row code in ('A', 'B'): 2 of 2 rows do: Case(1), Case(2).",
    ]);
  });
});

describe('what is expected of a command is tried, and taken back', () => {
  test('that it is done, or refused, with the words of the design', async () => {
    const create = "create Case with code 'D', branch Branch(north)";
    expect(await held(`expect ${create}\n  done`)).toEqual(['done']);
    expect(await held(`expect ${create}\n  refused`)).toEqual(['refused: It was done, and not refused.']);
    expect(await held(`expect ${create}, weight 12\n  refused`)).toEqual(['refused']);
    expect((await held(`expect ${create}, weight 12\n  done`))[0]).toContain('It was refused: Nobody carries more');
    expect(await held('expect all_cases\n  rows 3')).toEqual(['rows 3']);
  });

  test('where nothing may be written, that it could not be tried is told', async () => {
    expect(await held('expect delete Case(1)\n  done', { problem: 'The server is locked.' })).toEqual(['The server is locked.']);
  });
});

describe('an expectation that makes no sense is told where it stands', () => {
  test.each([
    ['expect cases_off(Branch(north))\n  rows 1', 'There is no query cases_off. Did you mean cases_of?'],
    ['expect cases_of\n  rows 1', 'cases_of takes branch, since, and is given nothing.'],
    ['expect cases_of(Branch(north), today, 3)\n  rows 1', 'and is given 3.'],
    ["expect cases_of('x')\n  rows 1", 'cannot be set to'],
    ['expect cases_of(Branch(north))\n  refused', 'A query is not refused'],
    ['expect delete Case(1)\n  rows 1', 'Of a command is expected that it is “done” or “refused”'],
    ['expect all_cases\n  every row true', 'answers with a number'],
    ["expect all_cases\n  note 'nothing'", 'This expects nothing.'],
    ['expect cases_of(Branch(north))\n  every row nam = 1', 'no field, role or scope of Case called nam'],
    ['expect all_cases as Branch(north)\n  rows 1', 'nobody says whose rows are at work'],
  ])('%s', async (expectation, message) => {
    expect((await held(expectation)).join('\n')).toContain(message);
  });

  test('as system is whom it is asked for anyway', async () => {
    expect(await held('expect all_cases as system\n  rows 3')).toEqual(['rows 3']);
  });
});

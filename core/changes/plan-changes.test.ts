import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import type { TableName } from '../sql/index.js';
import {
  type ChangePlan,
  differences,
  formerNamesOf,
  type PlanRequest,
  planChanges,
  readAnswers,
  scriptOfPlan,
} from './index.js';

const LOANS = `entity Player in players
  id    integer key
  name  text(60)
  town  text(40) optional

entity Loan in loans
  id       integer key
  lent_on  date

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;

interface Planned {
  readonly plan: ChangePlan;
  /** What the rows were asked. */
  readonly asked: readonly string[];
}

/** Plans between two texts, over rows of which each count comes to the same. */
function planned(
  from: string,
  to: string,
  more: Partial<PlanRequest> & { readonly count?: number; readonly said?: string } = {},
): Planned {
  const [before, after] = [readDesign(from), readDesign(to)];
  const planning = planChanges({
    dialect: after.dialect,
    before: before.schema,
    after: after.schema,
    stated: after.schema,
    former: formerNamesOf(after.syntax, after.model),
    answers: readAnswers(more.said ?? '').answers,
    last: before.schema,
    given: [],
    asides: [],
    doneByHand: [],
    byHandBefore: [],
    number: 1,
    now: '2031-04-12T09:00:00.000000Z',
    ...more,
  });
  const asked: string[] = [];
  for (let turn = planning.next(); ; ) {
    if (turn.done === true) return { plan: turn.value, asked };
    asked.push(turn.value);
    turn = planning.next([Array.from({ length: 30 }, () => more.count ?? 0)]);
  }
}

const ids = ({ changes }: ChangePlan) => changes.map(({ id }) => id);

describe('a plan', () => {
  test('of the same design has no step, and asks the rows nothing', () => {
    const { plan, asked } = planned(LOANS, LOANS);
    expect([plan.changes, plan.questions, plan.operations, asked]).toEqual([[], [], [], []]);
  });

  test('tells what is new before what changes, and what goes last', () => {
    const to = LOANS.replace('  town  text(40) optional\n', '  level integer optional\n').replace('text(60)', 'text(80)');
    const { plan } = planned(LOANS, to);
    expect(ids(plan)).toEqual(['column players.level', 'column players.name', 'gone column players.town']);
    expect(plan.changes.map(({ kind }) => kind)).toEqual(['new', 'changed', 'gone']);
  });

  test('counts the rows of a table with one statement', () => {
    const to = LOANS.replace('text(60)', 'text(20)').replace('  town  text(40) optional\n', '');
    const { asked } = planned(LOANS, to);
    expect(asked.filter((sql) => /count\(\*\), count\(players\.town\)/.test(sql))).toHaveLength(1);
  });

  test('asks of a new column and one that is gone whether they are one, where they hold values of one family', () => {
    const renamed = LOANS.replace('  town  text(40)', '  home  text(50)');
    expect(planned(LOANS, renamed).plan.questions.map(({ ways }) => ways.map(({ line }) => line))).toEqual([
      ['column players.home was town', 'column players.home is new'],
    ]);
    expect(planned(LOANS, LOANS.replace('  town  text(40)', '  home  date')).plan.questions).toEqual([]);
    const said = planned(LOANS, renamed, { said: 'column players.home is new' }).plan;
    expect(ids(said)).toEqual(['column players.home', 'gone column players.town']);
    expect(ids(planned(LOANS, renamed.replace('optional', 'optional was town')).plan)).toEqual(['column players.home']);
  });

  test('asks of a new table whether it was one of the design’s that is gone; of somebody else’s only where they are nearly the same', () => {
    const gone = LOANS.replace('entity Player in players', 'entity Player in members');
    expect(planned(LOANS, gone).plan.questions.map(({ kind, columns }) => [kind, columns])).toEqual([['former name', []]]);
    const other = LOANS.replace('entity Player in players', 'entity Player in members').replace(
      '  town  text(40) optional\n',
      '  level integer\n  code text(3)\n',
    );
    expect(planned(LOANS, other).plan.questions).toHaveLength(1);
    expect(planned(LOANS, other, { last: null }).plan.questions).toEqual([]);
  });

  test('lets a table alone that the last applied state did not name, and one that is somebody else’s', () => {
    const without = LOANS.slice(0, LOANS.indexOf('entity Loan'));
    expect(ids(planned(LOANS, without).plan)).toEqual(['gone table loans']);
    expect(ids(planned(LOANS, without, { last: null }).plan)).toEqual([]);
    const given: TableName[] = [{ schema: null, name: 'loans' }];
    expect(ids(planned(LOANS, without, { given }).plan)).toEqual([]);
  });

  test('with an open question has no statement to run; what loses data says how many rows', () => {
    const required = LOANS.replace('town  text(40) optional', 'town  text(40)\n  level integer');
    const open = planned(LOANS, required, { count: 4 }).plan;
    expect(open.questions.map(({ kind }) => kind)).toContain('empty');
    expect(open.operations).toEqual([]);
    const { plan } = planned(LOANS, LOANS.replace('  town  text(40) optional\n', ''), { count: 4 });
    expect(plan.changes).toMatchObject([{ id: 'gone column players.town', verdict: 'loses data', lost: 4 }]);
    const counted = planned(LOANS, LOANS.replace('  town  text(40) optional\n', '')).plan;
    expect(counted.asides).toMatchObject([
      { kind: 'values', table: { name: 'players' }, key: ['id'], columns: [{ was: 'town', became: null }] },
    ]);
  });

  test('leads no key to a table of somebody else’s that is not there, and says so', () => {
    const given = `${LOANS}
entity Policy in policies given
  id  integer key

relation insured
  Loan knows at most one Policy as policy
`;
    const missing = { given: [{ schema: null, name: 'policies' }] };
    const { plan } = planned(LOANS, given, missing);
    expect(plan.faults).toEqual([expect.stringMatching(/^policies is somebody else’s, .* is not in this database/)]);
    expect(plan.operations).toEqual([]);
    expect(planned(LOANS, LOANS, missing).plan.faults).toEqual([]);
  });

  test('says of an answer that does not stand why, with the table that it speaks of', () => {
    const to = LOANS.replace('town  text(40) optional', 'town  text(40) optional\n  level integer');
    expect(planned(LOANS, to, { said: 'value players.level = hight + 1' }).plan.faults).toEqual([
      expect.stringContaining('value players.level: There is no field'),
    ]);
    expect(planned(LOANS, to, { said: 'value players.level = count(loans)' }).plan.faults).toHaveLength(1);
  });

  test('adds a column that asks nothing of the rows in place, and makes the table anew for any other change', () => {
    const added = planned(
      LOANS,
      LOANS.replace('  town  text(40) optional\n', '  town  text(40) optional\n  level integer optional\n'),
    ).plan;
    expect(added.operations.map(({ sql }) => sql.split('\n')[0])).toEqual([
      expect.stringMatching(/^alter table players add column level INTEGER constraint players_level_type check/),
    ]);
    const retyped = planned(LOANS, LOANS.replace('text(60)', 'text(80)')).plan;
    expect(retyped.operations.map(({ sql }) => sql.split(' ').slice(0, 3).join(' '))).toEqual(
      ['alter table players', 'create table players', 'insert into players', 'drop table players_as_it_was'].map((head) =>
        expect.stringContaining(head),
      ),
    );
  });

  test('where definitions commit by themselves, says what takes each statement back until the new tables take their places', () => {
    const on = (text: string) => `tree 'On'\n  dialect mariadb\n\n${text}`;
    const { plan } = planned(on(LOANS), on(LOANS.replace('town  text(40) optional', 'town  text(40)')), {
      said: "value players.town = 'Ferren'",
    });
    const { operations } = plan;
    const second = operations.findIndex(({ back }) => back === undefined);
    expect(operations.slice(second).every(({ back }) => back === undefined)).toBe(true);
    const [first, rest] = [operations.slice(0, second), operations.slice(second)];
    // Nothing in use is touched before, but for what keeps others from writing.
    expect(first.filter(({ sql }) => /^(?:drop|alter|rename|update|delete)\b/i.test(sql))).toEqual([]);
    expect(first.map(({ kind }) => kind).lastIndexOf('rows')).toBeLessThan(first.map(({ kind }) => kind).lastIndexOf('check'));
    expect(rest.filter(({ kind }) => kind !== 'define')).toEqual([]);
    const again = /^(?:drop \w+ if exists|rename table if exists|create or replace|begin not atomic)/;
    expect(rest.filter(({ sql, done }) => !again.test(sql) && done === undefined)).toEqual([]);
  });

  test('calls no two tables the same that are made beside others, however long their names are', () => {
    const long = 'instruments_that_were_lent_by_branches_which_are_no_more_';
    const on = (type: string) =>
      `tree 'On'\n  dialect mariadb\n\nentity One in ${long}1\n  id  integer key\n  a  ${type}\n\nentity Other in ${long}2\n  id  integer key\n  a  ${type}\n`;
    const { plan } = planned(on('integer'), on('bigint'));
    const made = plan.operations.flatMap(({ sql }) => /^create or replace table (family_tree_new\S+)/.exec(sql)?.[1] ?? []);
    expect(new Set(made).size).toBe(2);
    expect(made.every((name) => name.length <= 64)).toBe(true);
  });

  test('is a script that stops at the first error and says what each statement is for', () => {
    const { plan } = planned(LOANS, LOANS.replace('text(60)', 'text(80)'));
    const script = scriptOfPlan(readDesign(LOANS).dialect, plan.operations);
    expect(script).toMatch(/^\.bail on\npragma foreign_keys = off;/);
    expect(script).toContain('-- players: its rows\ninsert into players (id, name, town)');
    expect(script.trimEnd()).toMatch(/pragma foreign_keys = on;$/);
    expect(scriptOfPlan(readDesign(LOANS).dialect, [])).toBe('');
  });
});

test('two schemas differ by what a person reads of them, whatever the order of their columns', () => {
  const { dialect, schema } = readDesign(LOANS);
  const turned = { ...schema, tables: schema.tables.map((table) => ({ ...table, columns: table.columns.toReversed() })) };
  expect(differences(dialect, schema, turned)).toEqual([]);
  const [first] = differences(dialect, schema, readDesign(LOANS.replace('text(60)', 'text(80)')).schema);
  expect(first).toBe('players.name becomes varchar(80) (it is varchar(60)).');
});

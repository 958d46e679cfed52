import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { describeType, type Expression, resolve, someExpression } from './index.js';

const LIBRARY = `choice Condition
  'mint'
  'worn'

entity Branch
  id    integer key
  name  text(20)

entity Player
  id       integer key
  name     text(20)
  born     date
  seen     timestamp
  at       time
  score    decimal(6, 2)
  weight   real
  steward  boolean
  state    Condition
  mark     uuid
  data     json
  raw      bytes
  spare    sql('POINT')
  initial = upper(substr(name, 1, 1))

entity Loan
  id      bigint key
  due_on  date

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation seating
  Player knows many Branch as seats_at
  Branch knows many Player as sitters
  stored in table seats (player_id, branch_id)
    chair  integer

scope late
  Loan where due_on < today
`;

const resolved = resolve(parse(LIBRARY));

/** The condition of a query over an entity, or what is said against it. */
function condition(entity: string, text: string): { expression: Expression | null; messages: string[] } {
  const { query, findings } = resolved.queryOf(`from ${entity}\nwhere ${text}`);
  return { expression: query?.where[0] ?? null, messages: findings.map((finding) => finding.message) };
}

test('the text itself has no error', () => {
  expect(resolved.findings).toEqual([]);
});

describe('conditions that stand', () => {
  test.each([
    ['a comparison of numbers of any sort', 'Player', 'score > 2 and weight >= 0.5 and id <> score'],
    ['a date with a text that is one', 'Player', "born = '2031-01-01'"],
    ['a date with a timestamp', 'Player', 'born < now and seen > today'],
    ['a time', 'Player', "at between '09:00' and '17:30'"],
    ['a choice', 'Player', "state = 'worn'"],
    ['a choice in a list', 'Player', "state in ('worn', 'mint')"],
    ['a uuid', 'Player', "mark = '0b0c1d2e-0000-4000-8000-00000000abcd'"],
    ['a truth value by itself', 'Player', 'steward and not steward'],
    ['a truth value with a literal', 'Player', 'steward = true'],
    ['a row by its key', 'Player', 'branch = Branch(1)'],
    ['a row that is nothing', 'Player', 'mentor is null'],
    ['a row with another row of its entity', 'Player', 'mentor.branch = branch'],
    ['a physical type with anything', 'Player', "spare = 'x' or spare = 1"],
    ['days between two dates', 'Player', 'today - born > 3650'],
    ['a date moved', 'Player', 'born + 18 years < today'],
    ['a function of a text', 'Player', "lower(name) like 'a%'"],
    ['a value where there is none', 'Player', "coalesce(name, 'x') = 'x'"],
    ['the greatest of several', 'Player', 'greatest(score, 1, weight) > 2'],
    ['a case', 'Player', "case when steward then 'a' when score > 2 then 'b' else name end = 'a'"],
    ['a derived field', 'Player', "initial = 'A'"],
    ['a scope behind a path', 'Player', 'any(loans[late])'],
    ['a scope behind any path to one', 'Loan', 'borrower.steward and late'],
    ['a pivot’s field inside its hop', 'Player', 'any(seats_at[seats.chair = 1])'],
    ['several filters on one hop', 'Player', "any(seats_at[seats.chair = 1][name = 'x'])"],
    ['a filter on each hop', 'Branch', 'count(players[steward].loans[late]) > 2'],
    ['all with its test', 'Player', 'all(loans[due_on > today])'],
  ])('%s', (_name, entity, text) => {
    const { expression, messages } = condition(entity, text);
    expect(messages).toEqual([]);
    expect(expression?.type.kind).toBe('boolean');
  });
});

describe('conditions that do not stand', () => {
  test.each([
    ['name = 3', 'a text(20) cannot be compared with an integer'],
    ["score = 'two'", 'cannot be compared'],
    ["born = 'soon'", '“soon” is no date'],
    ["at = '25:00'", '“25:00” is no time'],
    ["state = 'broken'", "'broken' is no value of Condition"],
    ["state = 'wron'", 'Did you mean worn?'],
    ['branch = 1', 'a Branch cannot be compared with an integer'],
    ['branch = Player(1)', 'a Branch cannot be compared with a Player'],
    ['branch > Branch(1)', 'compared with = or <> only'],
    ["branch = Branch('x')", '“x” is no integer'],
    ['branch = Branch(1, 2)', 'has a single key'],
    ['branch = Branch', 'say which Branch'],
    ['score', 'where a condition is meant'],
    ['name', 'where a condition is meant'],
    ['branch', 'this is a Branch, where a condition is meant'],
    ['score = null', 'Write “is null”'],
    ['born + 7 = today', 'a date and days'],
    ['name + 1 = 2', '+ takes numbers'],
    ['score * born > 2', '* takes numbers'],
    ['score + 7 days > 2', 'an interval moves a date or time'],
    ['born = 7 days', 'an interval is added'],
    ['- name = 2', '- stands before a number'],
    ['weight like 2', 'like compares texts'],
    ['lower(score) = 2', 'lower takes a text'],
    ['abs(name) = 2', 'abs takes a number'],
    ["length(name, 'x') = 2", 'length takes 1 value'],
    ['substr(name) = 2', 'substr takes 2 to 3 values'],
    ['lowr(name) = 2', 'there is no function lowr. Did you mean lower?'],
    ['name.x = 2', 'nothing stands behind it'],
    ['loans.due_on = today', 'stands inside any( )'],
    ['any(name)', 'where a role is meant'],
    ['any(branch.nothing)', 'There is no field, role or scope of Branch called nothing'],
    ['any(loans, pupils)', 'takes one path'],
    ['any(3)', 'takes one path'],
    ['all(loans)', 'all( ) needs a condition to test'],
    ['seats.chair = 1', 'There is no field, role or scope of Player called seats'],
    ['any(seats_at[seats.chiar = 1])', 'Did you mean chair?'],
    ['any(seats_at[seats = 1])', 'say which field of seats is meant'],
    [':who = 1', 'there is no parameter :who'],
  ])('%s: %s', (text, message) => {
    const { expression, messages } = condition('Player', text);
    expect(expression).toBeNull();
    expect(messages.join('\n').toLowerCase()).toContain(message.toLowerCase());
  });

  test('who is at work is asked for where the tree says whose rows that is', () => {
    const { findings } = resolved.queryOf('from Player\nwhere me.branch = branch');
    expect(findings.map(({ code }) => code)).toEqual(['no-actor']);
    expect(findings[0]?.message).toContain('as in “actor Player”');
  });

  test.each(['Player(1).name = name', 'any(me.loans)'])('%s is not built, and said so without an error', (text) => {
    const { query, findings } = resolved.queryOf(`from Player\nwhere ${text}`);
    expect(query).toBeNull();
    expect(findings.map((finding) => [finding.weight, finding.code])).toEqual([['note', 'not-built-yet']]);
  });
});

describe('queries', () => {
  test.each([
    ['where name = 1', 'needs one line “from”, and has none'],
    ['from Player\nfrom Loan', 'needs one line “from”, and has 2'],
    ['from Player\nfirst\none', 'says first and one'],
    ['from Player\nlimit name', 'limit'],
    ["from Player\nlimit 'x'", 'a whole number'],
    ['from Player\nlimit 2.5', 'a whole number'],
    ['from Player\nload name', 'only related rows are loaded'],
    ['from Player\nload nobody', 'There is no role of Player called nobody'],
    ['from Player\nload branch (nme)', 'Did you mean name?'],
    ['from Player\nload branch (players)', 'Load it on a line of its own'],
    ['from Player\nload branch (players.name)', 'load that role below this line'],
    ['from Player\nload loans where nothing', 'There is no field, role or scope of Loan called nothing'],
    ['from Player\norder by nothing', 'called nothing'],
  ])('%s: %s', (text, message) => {
    const { query, findings } = resolved.queryOf(text);
    expect(query).toBeNull();
    expect(findings.map((finding) => finding.message).join('\n')).toContain(message);
  });

  test('two loads of one role are one, with what both ask below it', () => {
    const { query } = resolved.queryOf('from Loan\nload borrower.branch\nload borrower (name)\n  mentor');
    expect(query?.loads.map((load) => [load.role.name, load.fields, load.loads.map((deeper) => deeper.role.name)])).toEqual([
      ['borrower', ['name'], ['branch', 'mentor']],
    ]);
  });

  test('several conditions are and-ed, several orders follow each other', () => {
    const { query } = resolved.queryOf('from Player\nwhere steward\nwhere score > 2\norder by name\norder by id desc');
    expect([query?.where.length, query?.orderBy.map((order) => order.descending)]).toEqual([2, [false, true]]);
  });

  test('a query outside the text leaves the text’s findings alone', () => {
    resolved.queryOf('from Nowhere');
    expect(resolved.findings).toEqual([]);
  });
});

describe('types in words', () => {
  test.each([
    [{ kind: 'integer' } as const, 'an integer'],
    [{ kind: 'date' } as const, 'a date'],
    [{ kind: 'text', length: 20 } as const, 'a text(20)'],
    [{ kind: 'row', entity: 'Loan' } as const, 'a Loan'],
    [{ kind: 'json' } as const, 'json'],
    [{ kind: 'null' } as const, 'null'],
  ])('%o is %s', (type, words) => {
    expect(describeType(type)).toBe(words);
  });
});

test('an expression is searched through and through', () => {
  const { expression } = condition(
    'Player',
    "case when any(loans[late]) then name in ('x', lower(name)) else score between 1 and 2 end",
  );
  if (expression === null) throw new Error('no condition');
  for (const kind of ['quantified', 'clock', 'function', 'in', 'between', 'field', 'value', 'named']) {
    expect(
      someExpression(expression, (inner) => inner.kind === kind),
      kind,
    ).toBe(true);
  }
  expect(someExpression(expression, (inner) => inner.kind === 'parameter')).toBe(false);
});

test('a query that says limit or offset twice is told so, and answers nothing', () => {
  const { query, findings } = resolved.queryOf('from Player\nlimit 50\noffset 1\nlimit 3\noffset 2');
  expect(query).toBeNull();
  expect(findings.map(({ message }) => message)).toEqual([
    'the query says limit twice. Keep one of the two.',
    'the query says offset twice. Keep one of the two.',
  ]);
});

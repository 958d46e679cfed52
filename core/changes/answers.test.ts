import { describe, expect, test } from 'vitest';
import { readAnswers, writtenPick, writtenPlace } from './answers.js';
import { writtenHandStep } from './by-hand.js';
import { columnKey, tableKey } from './pairs.js';

const players = { schema: null, name: 'players' };

describe('answers', () => {
  test('say what tables and columns were, or that they are new', () => {
    const { answers, faults } = readAnswers(
      'table players was old.members -- they were\ncolumn players.full_name was name\ncolumn players.town was branches.town\n\ncolumn players.nick is new\ntable seats is new',
    );
    expect(faults).toEqual([]);
    expect(Array.from(answers.tables)).toEqual([
      ['.players', { schema: 'old', name: 'members' }],
      ['.seats', 'new'],
    ]);
    expect(Array.from(answers.columns.values())).toEqual([
      { table: players, column: 'name' },
      { table: { schema: null, name: 'branches' }, column: 'town' },
      'new',
    ]);
  });

  test('keep rows that are picked by their keys, line by line, and the others by an order', () => {
    const lines = [
      'keep players (email) rows 3',
      "keep players (email) rows -17, 'it''s, so' by joined_on",
      "keep seats (row, place) rows (1, 'a'), (2, 'b')",
    ];
    const { answers, faults } = readAnswers(lines.join('\n'));
    expect(faults).toEqual([]);
    expect(answers.keeping.map(({ picked, order }) => ({ picked, order }))).toEqual([
      { picked: [['3'], ['-17'], ["it's, so"]], order: [{ column: 'joined_on', descending: false }] },
      {
        picked: [
          ['1', 'a'],
          ['2', 'b'],
        ],
        order: [],
      },
    ]);
    expect(writtenPick(players, ['email'], ["it's"])).toBe("keep players (email) rows 'it''s'");
    expect(readAnswers(writtenPick(players, ['the town'], ['1', 'x'])).answers.keeping[0]?.picked).toEqual([['1', 'x']]);
    expect(readAnswers('keep players (email)').faults).toHaveLength(1);
  });

  test('give values, one for another, cut, empty, leave out and keep', () => {
    const { answers, faults } = readAnswers(
      [
        "value players.town = coalesce(city, 'it''s -- here')",
        "map players.level 'a' to 'b', 'it''s' to null",
        "map players.level 'c' to 'd'",
        'cut players.name',
        'empty loans.player_id',
        'leave out players.players_level_in',
        'make loans.player_id',
        'keep players (email, "the town") by joined_on desc, id',
        'match players.branch_id by lower(town) = lower(name), make the others',
      ].join('\n'),
    );
    expect(faults).toEqual([]);
    expect(answers.values.get(columnKey(players, 'town'))).toBe("coalesce(city, 'it''s -- here')");
    expect(answers.mapped.get(columnKey(players, 'level'))).toEqual([
      { from: 'a', to: 'b' },
      { from: "it's", to: null },
      { from: 'c', to: 'd' },
    ]);
    expect(answers.keeping).toEqual([
      {
        table: players,
        columns: ['email', 'the town'],
        picked: [],
        order: [
          { column: 'joined_on', descending: true },
          { column: 'id', descending: false },
        ],
      },
    ]);
    expect(answers.matching.get(columnKey(players, 'branch_id'))).toMatchObject({
      by: 'lower(town)',
      equals: 'lower(name)',
      unmatched: 'make',
    });
    expect([answers.cut.size, answers.emptied.size, answers.leftOut.size, answers.made.size]).toEqual([1, 1, 1, 1]);
  });

  test('give steps by hand, with where they stand and what takes them back', () => {
    const text = [
      'cut players.name',
      'by hand  before plan, on sqlite',
      '  update players set town = trim(town)',
      '',
      'no way back',
      'by hand instead of "my shop".players: its rows, on postgres',
      '    create function f() returns int as $$',
      '      begin; return 1; end $$',
      'back',
      '  drop function f',
      'cut players.town',
    ].join('\n');
    const { answers, faults } = readAnswers(text);
    expect(faults).toEqual([]);
    expect(answers.cut.size).toBe(2);
    expect(answers.byHand).toEqual([
      { on: 'sqlite', where: 'before', table: null, what: null, sql: 'update players set town = trim(town)', back: null },
      {
        on: 'postgres',
        where: 'instead of',
        table: '"my shop".players',
        what: 'its rows',
        sql: 'create function f() returns int as $$\n  begin; return 1; end $$',
        back: 'drop function f',
      },
    ]);
    expect(readAnswers(answers.byHand.map(writtenHandStep).join('\n')).answers.byHand).toEqual(answers.byHand);
  });

  test.each([
    ['by hand before players\n  select 1\nno way back', 1, 'This is written as'],
    ['by hand before players, on sqlite\n  select 1\ncut a.b', 2, 'ends with “back”'],
    ['by hand instead of players, on sqlite\n  select 1\nno way back', 1, 'is named'],
    ['by hand before players, on sqlite\nno way back', 1, 'a statement of SQL'],
    ['by hand before players, on sqlite\n  select 1; select 2\nno way back', 1, 'one statement'],
    ['by hand before players, on sqlite\n  -- done\n  COMMIT\nno way back', 1, 'beyond the plan'],
    ['by hand before players, on sqlite\n  select 1\nback\n  rollback', 3, 'beyond the plan'],
  ])('a step by hand that cannot be one is told: %j', (text, line, message) => {
    const { answers, faults } = readAnswers(text);
    expect(answers.byHand).toEqual([]);
    expect(faults[0]).toMatchObject({ line, message: expect.stringContaining(message) });
  });

  test('that nobody can mean are told with their line and how they are written', () => {
    const { faults } = readAnswers('-- nothing\nrename players to members\ncolumn players.name\nvalue players.town');
    expect(faults.map(({ line }) => line)).toEqual([2, 3, 4]);
    expect(faults[0]?.message).toContain('An answer begins with “table”');
    expect(faults[2]?.message).toContain("value players.town = 'Ferren'");
  });

  test('name a place as it is written again', () => {
    expect(writtenPlace({ schema: 'my shop', name: 'Order "1"' }, 'from')).toBe('"my shop"."Order ""1""".from');
    const { answers } = readAnswers(`cut ${writtenPlace({ schema: 'my shop', name: 'Order "1"' }, 'from')}`);
    expect(Array.from(answers.cut)).toEqual([`${tableKey({ schema: 'my shop', name: 'Order "1"' })}\nfrom`]);
  });
});

import { describe, expect, test } from 'vitest';
import { readCreateTable, sqlTokens } from './index.js';

describe('SQL is cut into tokens as SQLite reads it', () => {
  test.each([
    ["select 'it''s' from t", ['word select', "string 'it''s'", 'word from', 'word t']],
    ['"a""b" `c` [d e]', ['quoted "a""b"', 'quoted `c`', 'quoted [d e]']],
    ["1.5e3 .5 x'00'", ['number 1.5e3', 'number .5', "string x'00'"]],
    [':name ?1 @x $y', ['parameter :name', 'parameter ?1', 'parameter @x', 'parameter $y']],
    ['a -- gone\n/* gone too */ b', ['word a', 'word b']],
    ['a<=b||c->>d', ['word a', 'symbol <=', 'word b', 'symbol ||', 'word c', 'symbol ->>', 'word d']],
    ["'never closed", ["string 'never closed"]],
    ['/* never closed', []],
  ])('%s', (sql, tokens) => {
    expect(sqlTokens(sql).map((token) => `${token.kind} ${token.text}`)).toEqual(tokens);
  });

  test('each token knows its place', () => {
    const sql = 'create  table "x y" (a int default \')\')';
    for (const { text, start, end } of sqlTokens(sql)) expect(sql.slice(start, end)).toBe(text);
  });
});

describe('a CREATE TABLE tells what the catalogue does not', () => {
  test('checks on columns and on the table, with their names', () => {
    const { constraints } = readCreateTable(`create table t (
      a integer constraint small check (a < 10 and (a > 1 or a is null)),
      b text check (b <> ')' ), -- a comment, with ( in it
      constraint pair check (a <> b), check ( length(b) = 3 )
    )`);
    expect(
      constraints
        .filter((constraint) => constraint.kind === 'check')
        .map(({ name, column, expression }) => [name, column, expression]),
    ).toEqual([
      ['small', 'a', 'a < 10 and (a > 1 or a is null)'],
      [null, 'b', "b <> ')'"],
      ['pair', null, 'a <> b'],
      [null, null, 'length(b) = 3'],
    ]);
  });

  test('names of keys and uniques', () => {
    const { constraints } = readCreateTable(`create table t (
      id integer constraint pk primary key, a int constraint ua unique, b int constraint fb references x (id),
      constraint uab unique (a, b), constraint fab foreign key (a, "b") references y
    )`);
    expect(constraints.map(({ kind, name, columns }) => [kind, name, [...columns]])).toEqual([
      ['primary key', 'pk', ['id']],
      ['unique', 'ua', ['a']],
      ['foreign key', 'fb', ['b']],
      ['unique', 'uab', ['a', 'b']],
      ['foreign key', 'fab', ['a', 'b']],
    ]);
  });

  test('autoincrement, strict, without rowid and collations', () => {
    expect(readCreateTable('create table t (id integer primary key autoincrement, n text collate nocase)')).toMatchObject({
      autoincrement: true,
      options: [],
    });
    expect(
      readCreateTable('create table t (id integer primary key, n text collate "NoCase") strict, without rowid'),
    ).toMatchObject({ autoincrement: false, options: ['strict', 'without rowid'] });
    expect(readCreateTable('create table t (n text collate nocase)').collations.get('n')).toBe('nocase');
  });

  test('a column may bear the name of a keyword', () => {
    expect(readCreateTable('create table t ("check" int check ("check" > 0), unique_ int)').constraints).toMatchObject([
      { kind: 'check', column: 'check' },
    ]);
  });

  test.each(['', 'create table t as select 1', 'create table t (', 'create table t (a', 'not sql at all'])(
    '%s is passed over',
    (sql) => {
      expect(() => readCreateTable(sql)).not.toThrow();
    },
  );
});

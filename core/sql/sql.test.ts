import { describe, expect, test } from 'vitest';
import { column, equal, readCreateTable, renamed, selectOf, sqlTokens, statementsOf, tableShape, tableSource } from './index.js';

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

describe('two statements make the same table', () => {
  test.each([
    ['create table t (a int, b text)', 'CREATE TABLE "t" (\n  a  INT, -- first\n  [b] TEXT\n);'],
    ['create table t (a int primary key, b unique)', 'create table t (a int, b, unique (b), primary key (a))'],
    ['create table t (a int check (a > 1))', 'create table t (a int, CHECK ( "a" > 1 ))'],
    ["create table t (a text default 'x')", "create table t (a text default ('x'))"],
    [
      'create table t (a references u (b) on delete cascade)',
      'create table t (a, foreign key (a) REFERENCES "u"(b) ON DELETE CASCADE)',
    ],
    ['create table t (a varchar ( 20 ))', 'create table t (a varchar(20))'],
    ['create table t (a int primary key not null) without rowid', 'create table t (a int primary key) WITHOUT ROWID'],
  ])('%s and %s', (one, other) => {
    expect(tableShape(one)).toEqual(tableShape(other));
  });

  test.each([
    ['create table t (a int)', 'create table t (A int)'],
    ['create table t (a int)', 'create table t (a integer)'],
    ['create table t (a varchar(20))', 'create table t (a VARCHAR(20))'],
    ['create table t (a int not null)', 'create table t (a int)'],
    ['create table t (a int not null on conflict ignore)', 'create table t (a int not null)'],
    ["create table t (a text default 'x')", "create table t (a text default 'X')"],
    ['create table t (a text collate nocase)', 'create table t (a text)'],
    ['create table t (a, unique (a) on conflict replace)', 'create table t (a, unique (a))'],
    ['create table t (a, constraint u unique (a))', 'create table t (a, unique (a))'],
    ['create table t (a references u)', 'create table t (a references u (a))'],
    ['create table t (a references u deferrable initially deferred)', 'create table t (a references u)'],
    ['create table t (a references u match full)', 'create table t (a references u)'],
    ['create table t (a integer primary key autoincrement)', 'create table t (a integer primary key)'],
    ['create table t (a integer primary key desc)', 'create table t (a integer primary key)'],
    ['create table t (a as (1) stored)', 'create table t (a as (1) virtual)'],
    ['create table t (a int) strict', 'create table t (a int)'],
  ])('but not %s and %s', (one, other) => {
    expect(tableShape(one)).not.toEqual(tableShape(other));
  });
});

describe('a script is cut into statements', () => {
  const cut = (script: string) =>
    Array.from(statementsOf(script), ({ sql, line, sort }) => [line, sort, sql.replace(/\s+/g, ' ')]);

  test('with the line of each, whatever stands in texts and comments', () => {
    expect(cut("create table a (x text default ';');\n\n-- no; statement\ninsert into a\n values ('b;c');;\nselect 1")).toEqual([
      [1, 'makes', "create table a (x text default ';')"],
      [4, 'makes', "insert into a values ('b;c')"],
      [6, 'passed over', 'select 1'],
    ]);
  });

  test('a trigger ends at the END that closes it', () => {
    const trigger = 'create temp trigger t after insert on a begin update a set x = case when 1 then 2 end; select 1; end';
    expect(cut(`${trigger};\ndrop table b;`)).toEqual([
      [1, 'makes', trigger],
      [2, 'makes', 'drop table b'],
    ]);
  });

  test('lines of the shell’s own are passed over, and what reaches further is refused', () => {
    expect(cut(".mode list\n  .read other.sql\nattach 'x' as y;\nvacuum into 'z';\npragma foreign_keys = off;\ncommit;")).toEqual(
      [
        [3, 'refused', "attach 'x' as y"],
        [4, 'refused', "vacuum into 'z'"],
        [5, 'passed over', 'pragma foreign_keys = off'],
        [6, 'passed over', 'commit'],
      ],
    );
  });

  test.each(['', ' \n ', ';;;', '-- nothing', "'never closed", '.'])('%j holds none, or one that is cut short', (script) => {
    expect(cut(script).length).toBeLessThanOrEqual(1);
  });
});

test('a source that is spoken of by another name is so everywhere, in selects within and in an order, and no other is', () => {
  const inner = selectOf(tableSource({ schema: null, name: 'cases' }, 'cases'), {
    columns: [{ expression: column('cases', 'id'), as: null }],
    where: equal(column('cases', 'owner'), column('p', 'id')),
  });
  const part = { on: equal(column('p', 'id'), column('q', 'id')), exists: { kind: 'exists', select: inner, negated: false } };
  expect(renamed(part, 'p', 'r')).toEqual({
    on: equal(column('r', 'id'), column('q', 'id')),
    exists: {
      kind: 'exists',
      select: { ...inner, where: equal(column('cases', 'owner'), column('r', 'id')) },
      negated: false,
    },
  });
});

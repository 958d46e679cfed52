import { describe, expect, test } from 'vitest';
import { dialectOfScript, mariadbStatements, postgresStatements } from './index.js';

const cut = (split: typeof postgresStatements, script: string) =>
  Array.from(split(script), ({ sql, line, sort }) => [sort, line, sql]);

describe('a script of PostgreSQL', () => {
  test.each([
    [
      "select 'a;b'; select 2",
      [
        ['makes', 1, "select 'a;b'"],
        ['makes', 1, 'select 2'],
      ],
    ],
    [
      'create function f() as $$ a; b $$;\ndrop table t;',
      [
        ['makes', 1, 'create function f() as $$ a; b $$'],
        ['makes', 2, 'drop table t'],
      ],
    ],
    ['create function f() as $x$ $$ ; $x$;', [['makes', 1, 'create function f() as $x$ $$ ; $x$']]],
    ['/* a; /* b; */ c; */ create table t (a int)', [['makes', 1, 'create table t (a int)']]],
    ["insert into t values (E'it\\'s; so')", [['makes', 1, "insert into t values (E'it\\'s; so')"]]],
    ['\\connect other\ncreate table t ()', [['makes', 2, 'create table t ()']]],
    [
      'create role x; alter system set a = 1; vacuum;',
      [
        ['refused', 1, 'create role x'],
        ['refused', 1, 'alter system set a = 1'],
        ['refused', 1, 'vacuum'],
      ],
    ],
    [
      'set statement_timeout = 0; set search_path = a; alter table t owner to x; begin;',
      [
        ['passed over', 1, 'set statement_timeout = 0'],
        ['makes', 1, 'set search_path = a'],
        ['passed over', 1, 'alter table t owner to x'],
        ['passed over', 1, 'begin'],
      ],
    ],
    ["copy t from '/etc/passwd';", [['refused', 1, "copy t from '/etc/passwd'"]]],
    [
      'grant select on t to x; creat table u (a int);',
      [
        ['left out', 1, 'grant select on t to x'],
        ['left out', 1, 'creat table u (a int)'],
      ],
    ],
    [
      'create function f() returns int begin atomic select 1; select 2; end; select 3;',
      [
        ['makes', 1, 'create function f() returns int begin atomic select 1; select 2; end'],
        ['makes', 1, 'select 3'],
      ],
    ],
  ])('%s', (script, expected) => {
    expect(cut(postgresStatements, script)).toEqual(expected);
  });

  test('copied rows become inserts, with what stands escaped in them', () => {
    const script = "copy t (a, b) from stdin;\n1\tx; y\n2\t\\N\n3\ttab\\there, it's \\\\\n\\.\ndrop table u;\n";
    expect(cut(postgresStatements, script)).toEqual([
      [
        'makes',
        2,
        "insert into t (a, b) overriding system value values ('1', 'x; y'), ('2', null), ('3', 'tab\there, it''s \\')",
      ],
      ['makes', 6, 'drop table u'],
    ]);
  });
});

describe('a script of MariaDB', () => {
  test.each([
    [
      "insert into t values ('a;b', \"c;d\", 'it\\'s; so');",
      [['makes', 1, "insert into t values ('a;b', \"c;d\", 'it\\'s; so')"]],
    ],
    ['# one; two\n-- three;\ncreate table `a;b` (a int);', [['makes', 3, 'create table `a;b` (a int)']]],
    [
      '/*!40101 create table t (a int) */; /* b; */ select 1;',
      [
        ['makes', 1, 'create table t (a int)'],
        ['passed over', 1, 'select 1'],
      ],
    ],
    [
      'delimiter //\ncreate trigger x begin a; b; end //\ndelimiter ;\ndrop table t;',
      [
        ['makes', 2, 'create trigger x begin a; b; end'],
        ['makes', 4, 'drop table t'],
      ],
    ],
    [
      "grant all on *.* to x; create database y; select 1 into outfile '/tmp/x';",
      [
        ['left out', 1, 'grant all on *.* to x'],
        ['refused', 1, 'create database y'],
        ['refused', 1, "select 1 into outfile '/tmp/x'"],
      ],
    ],
  ])('%s', (script, expected) => {
    expect(cut(mariadbStatements, script)).toEqual(expected);
  });
});

test.each([
  ['create table t (id integer primary key autoincrement)', 'sqlite'],
  ['create table t (id serial primary key, at timestamptz)', 'postgres'],
  ['copy public.t (a) from stdin;\n1\n\\.\n', 'postgres'],
  ['CREATE TABLE `t` (`id` int NOT NULL AUTO_INCREMENT) ENGINE=InnoDB', 'mariadb'],
  ['create table t (a int)', 'sqlite'],
])('%s is known as a script of %s', (script, dialect) => {
  expect(dialectOfScript(script)).toBe(dialect);
});

test('a script of blank lines is told and cut like any other', () => {
  const blank = '\n'.repeat(60_000);
  expect(dialectOfScript(blank)).toBe('sqlite');
  for (const split of [postgresStatements, mariadbStatements])
    expect(cut(split, `${blank}create table t (a int);${blank}`)).toHaveLength(1);
});

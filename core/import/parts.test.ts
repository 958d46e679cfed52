import { describe, expect, test } from 'vitest';
import { typeName } from '../values/index.js';
import { conditionOf } from './checks.js';
import { defaultOf } from './defaults.js';
import { importEngines } from './engines.js';
import { entityName, Names, roleStem, written, writtenFirst } from './names.js';
import { typeOfDeclared } from './types.js';

describe('names that a person would choose', () => {
  test.each([
    ['users', 'User'],
    ['user', 'User'],
    ['order_items', 'OrderItem'],
    ['categories', 'Category'],
    ['people', 'Person'],
    ['news', 'News'],
    ['OrderLines', 'OrderLine'],
    ['2020_sales', 'Table2020Sale'],
    ['tbl-odd name', 'TblOddName'],
  ])('table %s holds %s', (table, entity) => {
    expect(entityName(table, new Names())).toBe(entity);
  });

  test('a clash says more, and never a number', () => {
    const names = new Names();
    expect(['user', 'users', 'USERS'].map((table) => entityName(table, names))).toEqual(['User', 'Users', 'UsersTable']);
  });

  test.each([
    ['user_id', 'user'],
    ['userId', 'user'],
    ['created_by', 'created_by'],
    ['parent_key', 'parent'],
    ['id', 'id'],
    ['OwnerID', 'owner'],
  ])('column %s speaks of %s', (column, stem) => {
    expect(roleStem(column)).toBe(stem);
  });

  test('are quoted where the notation would read something else', () => {
    expect([written('name'), written('Name'), written('two words'), written('not'), written('desc'), written('a"b')]).toEqual([
      'name',
      '"Name"',
      '"two words"',
      '"not"',
      '"desc"',
      '"a""b"',
    ]);
    expect([writtenFirst('index'), writtenFirst('name')]).toEqual(['"index"', 'name']);
  });
});

describe('declared types', () => {
  test.each([
    ['INTEGER', 'bigint'],
    ['int', 'bigint'],
    ['BIGINT', 'bigint'],
    ['tinyint', 'bigint'],
    ['INT(11)', 'bigint'],
    ['VARCHAR(80)', 'text(80)'],
    ['character varying (20)', 'text(20)'],
    ['TEXT', 'text'],
    ['varchar', 'text'],
    ['BOOLEAN', 'boolean'],
    ['REAL', 'real'],
    ['double precision', 'real'],
    ['DECIMAL(8,2)', 'decimal(8, 2)'],
    ['NUMERIC(5)', 'decimal(5, 0)'],
    ['NUMERIC', "sql('NUMERIC')"],
    ['DATE', 'date'],
    ['DATETIME', 'timestamp'],
    ['TIME', 'time'],
    ['UUID', 'uuid'],
    ['JSON', 'json'],
    ['BLOB', 'bytes'],
    ['', "sql('')"],
    ['GEOMETRY', "sql('GEOMETRY')"],
    ["it's", "sql('it''s')"],
  ])('%s is %s', (declared, type) => {
    expect(typeName(typeOfDeclared(declared))).toBe(type);
  });
});

describe('defaults', () => {
  const of = (type: string, sql: string) => defaultOf(importEngines.sqlite, sql, typeOfDeclared(type));

  test.each([
    ['INTEGER', '0', '0'],
    ['INTEGER', '-1', '-1'],
    ['TEXT', "'it''s'", "'it''s'"],
    ['TEXT', "''", "''"],
    ['BOOLEAN', '1', 'true'],
    ['DECIMAL(6,2)', '2.5', '2.50'],
    ['TEXT', 'NULL', 'null'],
    ['DATE', "'2031-01-01'", "'2031-01-01'"],
  ])('%s default %s is default %s', (type, sql, expected) => {
    expect(of(type, sql)).toBe(expected);
  });

  test.each([
    ['INTEGER', "'0'"],
    ['INTEGER', '(1 + 1)'],
    ['INTEGER', "'x'"],
    ['BOOLEAN', 'false'],
    ['TEXT', "(lower('X'))"],
    ['DATETIME', 'CURRENT_TIMESTAMP'],
    ['DATETIME', "'2031-01-01 10:00'"],
    ['DATETIME', "'0000-00-00 00:00:00'"],
    ['NUMERIC', '7'],
    ['BLOB', "x'00'"],
  ])('%s default %s would become another, and is told as SQL', (type, sql) => {
    expect(of(type, sql)).toBe(`sql('${sql.replaceAll("'", "''")}')`);
  });

  test('one of several lines has no word at all', () => {
    expect(of('TEXT', "'two\nlines'")).toBeNull();
  });
});

describe('checks', () => {
  const of = (sql: string) =>
    conditionOf(sql, (column) => (['a', 'b'].includes(column.toLowerCase()) ? column.toLowerCase() : null));

  test.each([
    ['A > 1', 'a > 1'],
    ['"a">=-1 AND b IS NOT NULL', 'a >= -1 and b is not null'],
    ['a between -5 and - 3', 'a between -5 and -3'],
    ['a - 1 > b', 'a - 1 > b'],
    ["b in ('x','it''s')", "b in ('x', 'it''s')"],
    ['a != b', 'a <> b'],
    ['(length(b)<4)', '(length(b) < 4)'],
  ])('%s is %s', (sql, condition) => {
    expect(of(sql)).toBe(condition);
  });

  test.each(["b glob 'x*'", 'c > 1', 'a & 1', 'a > ?', 'a = 1e3', "b = 'two\nlines'", ''])('%s has no words', (sql) => {
    expect(of(sql)).toBeNull();
  });
});

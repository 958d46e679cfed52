import { describe, expect, test } from 'vitest';
import { readDesign, statedSqlOf } from './index.js';

const asked = (line: string, dialect = 'postgres') => {
  const { model, findings } = readDesign(`tree 'Asked'\n  dialect ${dialect}\n\nentity Thing\n  id  integer key\n${line}\n`);
  expect(findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  return statedSqlOf(model, model.dialect).map(({ sql }) => sql);
};

describe('a person is asked about SQL that does more than compute', () => {
  test.each([
    ["  a  text default sql('pg_read_file(''/etc/passwd'')')", 'postgres'],
    ["  a  text default sql('pg_read_file/**/(''/etc/passwd'')')", 'postgres'],
    ["  a  text default sql('\"pg_read_file\" (''/etc/passwd'')')", 'postgres'],
    ["  a  text default sql('pg_catalog.pg_read_file(''/etc/passwd'')')", 'postgres'],
    ["  a  text generated as 'load_file(''/etc/passwd'')' stored", 'mariadb'],
    ["  kept 'check (id > 0)'", 'sqlite'],
    ["  kept 'create trigger t after insert on things begin select 1; end'", 'sqlite'],
  ])('%s', (line, dialect) => {
    expect(asked(line, dialect)).toHaveLength(1);
  });

  test.each([
    ["  a  text default sql('lower(''X'')')", 'postgres'],
    ["  a  bigint default sql('nextval(''s''::regclass)')", 'postgres'],
    ["  a  text stored as 'varchar(20)'", 'postgres'],
    ["  a  sql('int4range') optional", 'postgres'],
    ['  a  integer default 3', 'sqlite'],
  ])('and not about %s', (line, dialect) => {
    expect(asked(line, dialect)).toEqual([]);
  });
});

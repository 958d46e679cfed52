import { describe, expect, test } from 'vitest';
import type { DialectName } from '../../notation/index.js';
import { readingStatement } from '../index.js';

const dialects: readonly DialectName[] = ['sqlite', 'postgres', 'mariadb'];
const faultOf = (sql: string, dialect: DialectName) => {
  const read = readingStatement(sql, dialect);
  return 'fault' in read ? read.fault : null;
};

describe('a statement that only reads', () => {
  test.each([
    'select * from loans',
    'SELECT 1;',
    '-- which are out\nselect * from loans where returned_on is null -- all of them',
    'with recursive c(n) as (select 1 union all select n + 1 from c where n < 5) select * from c',
    'values (1), (2)',
    '(select 1) union (select 2)',
    'explain select 1',
    "select 'delete from loans; drop table loans' as said",
    "select replace(name, 'a', 'b') from players",
    'select l.into from loans l',
  ])('is let through: %s', (sql) => {
    for (const dialect of dialects) expect(faultOf(sql, dialect)).toBeNull();
  });

  test('is taken alone, without its end and what stands around it', () => {
    expect(readingStatement(' -- one\n select 1 /* two */ ; -- three', 'sqlite')).toEqual({ sql: 'select 1', explains: false });
    expect(readingStatement('explain query plan select 1', 'sqlite')).toEqual({
      sql: 'explain query plan select 1',
      explains: true,
    });
  });
});

describe('what does more than read is not let through', () => {
  test.each([
    ['', 'no statement'],
    ['select 1; select 2', 'more than one'],
    ['delete from loans', 'select, with, values'],
    ['with gone as (delete from loans returning *) select * from gone', 'delete'],
    ["attach 'other.db' as other", 'select, with, values'],
    ['pragma writable_schema = on', 'select, with, values'],
    ["vacuum into 'copy.db'", 'select, with, values'],
    ['explain delete from loans', 'select, with, values'],
    ['select * into copy from loans', 'into'],
    ["select 'open", 'not closed'],
    ['select * from loans where id = ?', 'parameter'],
  ])('%s', (sql, why) => {
    for (const dialect of dialects) expect(faultOf(sql, dialect)).toContain(why);
  });

  test.each<[DialectName, string, string]>([
    ['postgres', "select pg_read_file('/etc/passwd')", 'files of the server'],
    ['postgres', "select set_config('role', 'postgres', false)", 'whose rights'],
    ['postgres', "select \"set_config\"('role', 'postgres', false)", 'whose rights'],
    ['postgres', "select U&\"set\\005fconfig\"('role', 'x', false)", 'numbers of its letters'],
    ['postgres', 'select lo_create(0)', 'lo_create'],
    ['postgres', 'select pg_advisory_lock(1)', 'pg_advisory_lock'],
    ['postgres', "select * from dblink('host=elsewhere', 'select 1') as t(n int)", 'other databases'],
    ['mariadb', "select load_file('/etc/passwd')", 'files of the server'],
    ['mariadb', "select 1 into outfile '/tmp/x'", 'into'],
    ['mariadb', "select 1 /*!50000 into outfile '/tmp/x' */", 'a comment that is run'],
    ['mariadb', "select get_lock('a', 100)", 'get_lock'],
  ])('of %s: %s', (dialect, sql, why) => {
    expect(faultOf(sql, dialect)).toContain(why);
  });
});

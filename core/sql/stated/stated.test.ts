import { describe, expect, test } from 'vitest';
import type { DialectName } from '../../notation/index.js';
import { expressionFault, qualifiersIn, reachesOf, readStated, typeFault } from '../index.js';

const faultOf = (dialect: DialectName, sql: string): string | null => {
  const read = readStated(sql, dialect);
  return read.ok ? null : read.why;
};
const reaches = (dialect: DialectName, sql: string): string[] => {
  const read = readStated(sql, dialect);
  return read.ok ? reachesOf(dialect, read.tokens) : ['refused'];
};

describe('kept SQL that is one thing is admitted', () => {
  test.each<[DialectName, string]>([
    ['sqlite', 'create index late on loans (due_on) where returned_on is null'],
    ['sqlite', "create trigger t after insert on a begin select case when 1 then ';' end; delete from a; end"],
    ['sqlite', 'CREATE VIEW v AS SELECT ";", [a;b], `c;d` FROM t /* ; */'],
    ['sqlite', 'create virtual table f using fts5(body)'],
    ['sqlite', 'without rowid, strict'],
    ['sqlite', 'constraint c check (a > 1)'],
    ['postgres', 'create function f() returns int language sql as $x$ select 1; select $$;$$::text; $x$'],
    ['postgres', 'create function f() returns int begin atomic select 1; select case when true then 2 end; end'],
    ['postgres', "create type mood as enum ('so;so', 'it''s')"],
    ['postgres', "create view v as select E'it\\'s; so' as a -- ;\n from t"],
    ['postgres', 'alter sequence a.s owned by a.t.id'],
    ['postgres', 'alter table a.t add foreign key (x, y) references b.s (u, v) on delete cascade'],
    ['postgres', 'alter table t add constraint k foreign key (x) references s not valid'],
    ['postgres', 'exclude using gist (during with &&)'],
    ['mariadb', 'create trigger t before insert on a for each row if new.x > 1 then set new.x = if(1, 2, 3); end if'],
    [
      'mariadb',
      'create trigger t after delete on a for each row begin if 1 then delete from b; end if; while 0 do set @a = 1; end while; end',
    ],
    ['mariadb', 'create function f() returns int x: begin declare a int; for i in 1..3 do set a = i; end for; return a; end x'],
    ['mariadb', 'partition by range (y) (partition p0 values less than (2000))'],
    ['mariadb', "create view v as select 'a\\'; b' as `c;d` # ;\n from t"],
  ])('%s: %s', (dialect, sql) => {
    expect(faultOf(dialect, sql)).toBeNull();
  });
});

describe('kept SQL that is more than one thing, or none, is refused with the reason', () => {
  test.each<[DialectName, string, RegExp]>([
    ['sqlite', "create trigger t after insert on a begin select 1; end; attach 'x' as y", /behind its end/],
    ['sqlite', "create trigger t after insert on a begin select 1; end attach 'x' as y", /behind its end/],
    ['sqlite', "create view v as select 1; attach 'x' as y", /semicolon/],
    ['sqlite', "attach 'x' as y", /begins with attach/],
    ['sqlite', 'pragma writable_schema = on', /begins with pragma/],
    ['sqlite', "vacuum into 'x'", /begins with vacuum/],
    ['sqlite', 'create temp table x (a)', /makes a temp/],
    ['sqlite', 'check (1)) ; drop table x; create table y (a', /brackets/],
    ['sqlite', 'check (1), check (2)', /comma/],
    ['sqlite', 'without rowid; drop table x', /semicolon/],
    ['sqlite', "create view v as select 'open", /not closed/],
    ['sqlite', 'create view v as select 1 /* open', /not closed/],
    ['sqlite', 'create view v as select 1 -- eats what follows', /ends in a comment/],
    ['sqlite', 'create view v as\u00a0select 1', /not seen/],
    ['sqlite', 'create view v as select 1\0; drop table x', /not seen/],
    ['sqlite', '', /empty/],
    ['postgres', "create view v as select 1; commit; copy (select 1) to program 'x'; begin", /semicolon/],
    ['postgres', "copy (select 1) to program 'x'", /begins with copy/],
    ['postgres', "do $$ begin execute 'x'; end $$", /begins with do/],
    ['postgres', 'create database x', /makes a database/],
    ['postgres', 'create role x superuser', /makes a role/],
    ['postgres', 'create schema x create table y (a int)', /more than one thing/],
    ['postgres', 'create function f() returns int language sql as $x$ select 1 $y$; drop table t', /not closed/],
    ['postgres', 'create view v as select 1 -- \r; drop table t\n', /not seen/],
    ['postgres', 'create view v as select $1', /parameter/],
    ['postgres', 'alter table t enable row level security, drop column x', /begins with alter/],
    ['postgres', 'alter table t add foreign key (x) references s, drop column x', /begins with alter/],
    ['postgres', 'alter table t add foreign key (x) references s; drop table t', /begins with alter/],
    ['postgres', 'alter table t add constraint k check (x > 1)', /begins with alter/],
    ['mariadb', 'create view v as select 1; drop database x', /semicolon/],
    ['mariadb', 'create view v as select 1 /*!; drop database x */', /comment that is run/],
    ['mariadb', 'create view v as select 1 /*M!100000 union select 2 */', /comment that is run/],
    ['mariadb', "create view v as select '\\\\'; drop database x", /semicolon/],
    ['mariadb', 'create view v as select 1 --\u00a0x', /not seen/],
    ['mariadb', 'engine=InnoDB select * from other.users', /no option/],
    ['mariadb', 'create event e on schedule every 1 day do delete from t', /makes a event/],
    ['mariadb', 'grant all on *.* to x', /begins with grant/],
  ])('%s: %s', (dialect, sql, why) => {
    expect(faultOf(dialect, sql)).toMatch(why);
  });
});

describe('a type or a default is one expression, as it stands in a column’s line', () => {
  test.each<[DialectName, string]>([
    ['sqlite', "upper('x')"],
    ['sqlite', 'VARCHAR(20)'],
    ['postgres', "nextval('a.s'::regclass)"],
    ['postgres', 'timestamp(3) with time zone'],
    ['postgres', "ARRAY['a', 'b']::text[]"],
    ['mariadb', "enum('a,b','c;d')"],
    ['mariadb', 'current_timestamp() on update current_timestamp()'],
  ])('%s: %s is', (dialect, sql) => {
    expect(expressionFault(sql, dialect, false)).toBeNull();
  });

  test.each<[DialectName, string, RegExp]>([
    ['sqlite', '1); drop table x; --', /brackets|comment/],
    ['sqlite', '1, evil text', /comma/],
    ['sqlite', '1 check (0)', /part of its own/],
    ['postgres', '1; select pg_sleep(9)', /semicolon/],
    ['postgres', '1 references t', /part of its own/],
    ['mariadb', '1 # ', /comment/],
    ['mariadb', '(1', /missing/],
  ])('%s: %s is not', (dialect, sql, why) => {
    expect(expressionFault(sql, dialect, false)).toMatch(why);
  });

  test.each<[DialectName, string]>([
    ['mariadb', "int as (load_file('/etc/passwd'))"],
    ['sqlite', 'int as (1) '],
    ['postgres', 'int not null'],
    ['sqlite', 'int on conflict replace'],
  ])('%s: %s is more than a type', (dialect, sql) => {
    expect(typeFault(sql, dialect)).toMatch(/part of its own/);
  });

  test('a number that the engine gives is part of a type', () => {
    expect(typeFault('integer generated by default as identity (start with 5)', 'postgres')).toBeNull();
    expect(typeFault('integer generated by default as identity; drop table x', 'postgres')).toMatch(/semicolon|part/);
  });
});

describe('what reaches beyond the tables of its database is named', () => {
  test.each<[DialectName, string, RegExp | null]>([
    ['postgres', 'create function f() returns int language sql as $$ select 1 $$', null],
    ['postgres', 'create function f() returns trigger language plpgsql as $$ begin delete from t; return old; end $$', null],
    ['postgres', 'create trigger t after insert on a execute function f()', null],
    ['postgres', "create function f() returns int language c as '/tmp/x'", /language c/],
    ['postgres', 'create function f() returns int language plpython3u as $$ 1 $$', /plpython3u/],
    ['postgres', 'create function f() returns int language "C" as \'x\'', /language/],
    ['postgres', 'create function f() returns int language sql security\n  definer as $$ select 1 $$', /security definer/],
    ['postgres', 'create function f() returns int language sql security/**/definer as $$ select 1 $$', /security definer/],
    [
      'postgres',
      "create function f() returns void language plpgsql as $$ begin copy t to program 'x'; end $$",
      /files or programs/,
    ],
    ['postgres', "create function f() returns void language plpgsql as $$ begin execute 'cop' || 'y'; end $$", /while it runs/],
    ['postgres', "create materialized view v as select lo_export(1, '/tmp/x')", /files of the server/],
    ['postgres', 'create event trigger e on ddl_command_start execute function f()', /event trigger/],
    ['postgres', 'create extension if not exists dblink', /extension/],
    ['mariadb', 'create trigger t after insert on a for each row delete from b', null],
    ['mariadb', "create function f returns string soname 'x.so'", /library/],
    ['mariadb', "create view v as select load_file('/etc/passwd')", /files of the server/],
    ['mariadb', 'engine=CONNECT', /engine keeps rows/],
    ['mariadb', "data directory='/tmp'", /names a file/],
    ['sqlite', 'create trigger t after insert on a begin delete from b; end', null],
  ])('%s: %s', (dialect, sql, what) => {
    if (what === null) expect(reaches(dialect, sql)).toEqual([]);
    else expect(reaches(dialect, sql).join('\n')).toMatch(what);
  });

  test('names before a dot are told, quoted or not', () => {
    const read = readStated('create view v as select a.b from `shop`.customers join other.t', 'mariadb');
    expect(read.ok && Array.from(qualifiersIn(read.tokens))).toEqual(['a', 'shop', 'other']);
  });
});

import fc from 'fast-check';
import type { DialectName } from '../core/notation/index.js';
import { quoteText } from '../core/notation/index.js';

/** What an attack aims at: things outside the database in which a text's tables are made. */
export interface Targets {
  /** Another database: a file, or a name on the same server. */
  readonly database: string;
  /** A file that is not there. */
  readonly file: string;
}

/** How honest SQL of a text begins, and goes on. */
const HONEST: Readonly<Record<DialectName, readonly string[]>> = {
  sqlite: [
    'create trigger t after insert on things begin',
    'create trigger t before insert on things when new.id > 0 begin',
    'create view v as select 1',
    'create index i on things (name)',
    'create virtual table f using fts5(body)',
    'check (id > 0)',
    'without rowid',
    "upper('x')",
    'create table q (a)',
    ' select case when 1 then 2 end; end',
    ' delete from things where 0; end',
    ' update things set name = name; end',
  ],
  postgres: [
    'create function f() returns trigger language plpgsql as $$ begin',
    'create function f() returns int language sql as $$ select 1',
    'create function f() returns int begin atomic select 1',
    'create view v as select 1',
    'create index i on things (name)',
    'create type mood as enum (',
    'create domain d as text check (',
    'create sequence s',
    'check (id > 0)',
    'create trigger t after insert on things for each row execute function f()',
    'create materialized view m as select 1',
    "upper('x')",
    ' return new; end $$',
    ' $$',
    " 'a')",
  ],
  mariadb: [
    'create trigger t after insert on things for each row begin',
    'create trigger t before insert on things for each row if new.id > 0 then',
    'create function f() returns int begin',
    'create view v as select 1',
    'create index i on things (name)',
    'check (id > 0)',
    "comment='x'",
    'engine=InnoDB',
    "upper('x')",
    ' end if',
    ' set @a = 1; end',
    ' return 1; end',
  ],
};

/** What ends one thing and begins another, where somebody reads it otherwise than the engine does. */
const TURNS = [
  ...[';', ' ; ', ';\n', '\n;\n', ' end; ', 'end;end;', '); ', "'); ", "'; ", '"; ', '`; ', ']; ', '$$; ', '$x$; '],
  ...['*/; ', '/*;*/', '--\n; ', '#\n; ', '-- ;\n', '\r; ', '\t;\t', '\u00a0; ', '\ufeff; ', '\u2028; ', '\0; ', '\v; ', '\f; '],
  ...[
    "'",
    "''",
    "\\'",
    "\\\\'",
    '"',
    '""',
    '`',
    '[',
    ']',
    '$$',
    '$x$',
    "E'\\'",
    "U&'\\'",
    "x'",
    '/*',
    '*/',
    '/*!',
    '/*M!',
    '--',
    '#',
    '--\u00a0',
  ],
  ...[
    ' union ',
    ', ',
    '(',
    ')',
    ' as ',
    ' begin ',
    ' end ',
    ' if ',
    ' case ',
    ' then ',
    ' loop ',
    ' atomic ',
    ' commit; ',
    ' rollback; ',
  ],
] as const;

/** Statements that would be seen outside. */
const ATTACKS: Readonly<Record<DialectName, (targets: Targets) => readonly string[]>> = {
  sqlite: ({ database, file }) => [
    `attach '${database}' as v; delete from v.users`,
    `attach '${database}' as v`,
    'delete from v.users',
    'drop table v.users',
    `vacuum into '${file}'`,
    'pragma writable_schema = on',
    `pragma temp_store_directory = '${file}'`,
    `select load_extension('${file}')`,
    `insert into f(f) values ('optimize')`,
    'detach taken_1',
    `attach '${file}' as w; create table w.x (a)`,
  ],
  postgres: ({ database, file }) => [
    `copy (select 1) to '${file}'`,
    `copy (select 1) to program 'touch ${file}'`,
    `drop database ${database}`,
    `drop database ${database} with (force)`,
    'create role canary_eater superuser',
    'alter system set work_mem = 123',
    `select lo_export(lo_from_bytea(0, 'x'), '${file}')`,
    `select pg_file_write('${file}', 'x', false)`,
    `create tablespace x location '${file}'`,
    'create extension file_fdw',
    `alter database ${database} rename to gone`,
  ],
  mariadb: ({ database, file }) => [
    `drop database ${database}`,
    `delete from ${database}.users`,
    `delete from \`${database}\` . users`,
    `insert into ${database}.users values (9)`,
    `select 1 into outfile '${file}'`,
    `select 1 into dumpfile '${file}'`,
    `create table ${database}.more (a int)`,
    "create user canary_eater identified by 'x'",
    'set global max_connections = 77',
    `rename table ${database}.users to things2`,
    `truncate ${database}.users`,
  ],
};

/** Stated SQL of a malicious colleague: honest pieces, turns and attacks in any order. */
export function hostileSql(dialect: DialectName, targets: Targets): fc.Arbitrary<string> {
  const honest = fc.constantFrom(...HONEST[dialect]);
  const turn = fc.constantFrom(...TURNS);
  const attack = fc.constantFrom(...ATTACKS[dialect](targets));
  const piece = fc.oneof({ arbitrary: honest, weight: 3 }, { arbitrary: turn, weight: 4 }, { arbitrary: attack, weight: 3 });
  return fc.tuple(honest, fc.array(piece, { minLength: 0, maxLength: 6 })).map(([first, rest]) => [first, ...rest].join(' '));
}

/** Where a text can state SQL. */
const PLACES = ['kept', 'tree', 'type', 'stored as', 'default', 'generated'] as const;

/** A text with rows that states hostile SQL somewhere. */
export function hostileText(dialect: DialectName, targets: Targets): fc.Arbitrary<string> {
  const field = (place: string, sql: string) => {
    // A text of the notation ends with its line.
    const quoted = quoteText(sql.replaceAll(/[\r\n]/g, ' '));
    switch (place) {
      case 'type':
        return `  more  sql(${quoted}) optional\n`;
      case 'stored as':
        return `  more  text optional stored as ${quoted}\n`;
      case 'default':
        return `  more  text optional default sql(${quoted})\n`;
      case 'generated':
        return `  more  text optional generated as ${quoted} stored\n`;
      default:
        return '';
    }
  };
  return fc
    .tuple(fc.constantFrom(...PLACES, 'kept', 'tree', 'kept'), hostileSql(dialect, targets), hostileSql(dialect, targets))
    .map(([place, sql, second]) => {
      const kept = (text: string) => `  kept ${text.split('\n').map(quoteText).join(',\n    ')}\n`;
      const above = place === 'tree' ? kept(sql) : '';
      const below = place === 'kept' ? `${kept(sql)}${kept(second)}` : '';
      return `tree 'Hostile'\n  dialect ${dialect}\n${above}\nentity Thing in things\n  id    integer key\n  name  text(20) optional\n${field(place, sql)}${below}\nsample Thing 3\n`;
    });
}

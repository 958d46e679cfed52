import type { Engine, Outcome } from '../engine.js';
import { rawRows } from '../raw-rows.js';
import type { Surroundings } from '../server/row.js';

/** MariaDB, “GRANT”: global privileges. */
const MARIADB_POWERS = `
  select case privilege_type when 'FILE' then 'can read and write files of the server (FILE)'
    when 'SUPER' then 'can change settings of the whole server (SUPER)' else 'can change every database on the server' end
  from information_schema.user_privileges
  where replace(grantee, '''', '') = current_user() and privilege_type in ('FILE', 'SUPER', 'DROP')
  order by privilege_type`;

/** The rights of the login beyond its own databases, in words. */
export async function powers(engine: Engine): Promise<readonly string[]> {
  const read = await rawRows(engine, MARIADB_POWERS);
  return read.ok ? read.value.map(([what]) => String(what)) : [];
}

/** The server's version, the login, and the schemas that it may read. */
export async function surroundings(engine: Engine): Promise<Outcome<Omit<Surroundings, 'powers'>>> {
  const about = await rawRows(engine, 'select version(), current_user(), database(), @@read_only', {});
  if (!about.ok) return about;
  const schemas = await rawRows(
    engine,
    `select table_schema, count(*) from information_schema.tables
     where table_type in ('BASE TABLE', 'SYSTEM VERSIONED') and table_schema not in ('mysql', 'information_schema', 'performance_schema', 'sys')
     group by table_schema order by table_schema`,
    {},
  );
  if (!schemas.ok) return schemas;
  const grants = await rawRows(
    engine,
    `select privilege_type from information_schema.user_privileges where replace(grantee, '''', '') = current_user()
     union select privilege_type from information_schema.schema_privileges
       where replace(grantee, '''', '') = current_user() and 'family_tree_x' like table_schema`,
    {},
  );
  const may = new Set(grants.ok ? grants.value.map(([name]) => String(name)) : []);
  const [version, user, database, readOnly] = about.value[0] ?? [];
  const limits: string[] = [];
  if (!may.has('CREATE') || !may.has('DROP'))
    limits.push('It may not create databases: the tables of a text cannot be tried here; what is here can be looked at.');
  if (String(readOnly) === '1') limits.push('The server is only read from: the tables of a text cannot be tried here.');
  return {
    ok: true,
    value: {
      version: `MariaDB ${String(version).split('-')[0]}`,
      user: String(user),
      database: database === null || database === undefined ? '' : String(database),
      // It tells a login of no table that the login may not use.
      schemas: schemas.value.map(([name, tables]) => ({ name: String(name), tables: Number(tables), readable: Number(tables) })),
      limits,
    },
  };
}

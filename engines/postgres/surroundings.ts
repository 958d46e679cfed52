import type { Engine, Outcome } from '../engine.js';
import { rawRows } from '../raw-rows.js';
import { type Surroundings, unreadable } from '../server/row.js';

/** PostgreSQL, 22.5 “Predefined Roles”; a superuser is a member of none and may do all. */
const POSTGRES_POWERS = `
  select 'is a superuser: it can run programs on the server, read and write its files, and change every database'
  from pg_roles where rolname = current_user and rolsuper
  union all
  select case rolname when 'pg_execute_server_program' then 'can run programs on the server'
    when 'pg_write_server_files' then 'can write files of the server' else 'can read files of the server' end
  from pg_roles
  where rolname in ('pg_execute_server_program', 'pg_write_server_files', 'pg_read_server_files')
    and pg_has_role(current_user, oid, 'member') and not (select rolsuper from pg_roles where rolname = current_user)`;

/** The rights of the login beyond its own databases, in words. */
export async function powers(engine: Engine): Promise<readonly string[]> {
  const read = await rawRows(engine, POSTGRES_POWERS);
  return read.ok ? read.value.map(([what]) => String(what)) : [];
}

/** The server's version, the login, and the schemas that it may read. */
export async function surroundings(engine: Engine): Promise<Outcome<Omit<Surroundings, 'powers'>>> {
  const about = await rawRows(
    engine,
    `select current_setting('server_version'), current_user, current_database(), r.rolcreatedb or r.rolsuper,
       has_database_privilege(current_database(), 'create'), pg_is_in_recovery()
     from pg_roles r where r.rolname = current_user`,
    {},
  );
  if (!about.ok) return about;
  const schemas = await rawRows(
    engine,
    `select n.nspname, count(*), count(*) filter (where has_schema_privilege(n.oid, 'usage') and has_table_privilege(c.oid, 'select'))
     from pg_class c join pg_namespace n on n.oid = c.relnamespace
     where c.relkind in ('r', 'p') and not c.relispartition and n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
     group by n.nspname order by n.nspname <> 'public', n.nspname`,
    {},
  );
  if (!schemas.ok) return schemas;
  const [version, user, database, createsDatabases, createsSchemas, replica] = (about.value[0] ?? []).map(String);
  const limits: string[] = [];
  if (createsDatabases !== 't')
    limits.push(
      createsSchemas === 't'
        ? 'It may not create databases: the tables of a text are tried in a schema of their own instead.'
        : 'It may create neither databases nor schemas: the tables of a text cannot be tried here; what is here can be looked at.',
    );
  if (replica === 't')
    limits.push('The server is a replica, which is only read from: the tables of a text cannot be tried here.');
  const found = schemas.value.map(([name, tables, readable]) => ({
    name: String(name),
    tables: Number(tables),
    readable: Number(readable),
  }));
  limits.push(...unreadable(found));
  return {
    ok: true,
    value: {
      version: `PostgreSQL ${(version ?? '').split(' ')[0]}`,
      user: user ?? '',
      database: database ?? '',
      schemas: found,
      limits,
    },
  };
}

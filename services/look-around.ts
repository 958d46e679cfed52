import { type Engine, type Outcome, openMariadb, openPostgres, type ServerAccess } from '../engines/index.js';

/** What a server says of itself and of the login, before anything is asked of its tables. */
export interface Surroundings {
  /** As `PostgreSQL 15.18`. */
  readonly version: string;
  readonly user: string;
  readonly database: string;
  /** Schemas with tables, or on MariaDB databases; with how many of their tables the login may read. */
  readonly schemas: readonly { readonly name: string; readonly tables: number; readonly readable: number }[];
  /** What the login may not do, and what follows from that, in words. */
  readonly limits: readonly string[];
  /** What the login could do beyond its own databases, in words; null where that is no more than any login. */
  readonly powers: string | null;
}

/**
 * What a login could do beyond the database that it works in, in words; null where that is no more than any login. Of a
 * server that does not answer nothing is known.
 */
export async function powersOf(access: ServerAccess): Promise<string | null> {
  const engine = openAt(access);
  try {
    return await powersIn(engine, access);
  } finally {
    await engine.close();
  }
}

async function powersIn(engine: Engine, { address }: ServerAccess): Promise<string | null> {
  const read = await engine.read(address.engine === 'postgres' ? POSTGRES_POWERS : MARIADB_POWERS, {});
  const powers = read.ok ? read.value.map(([what]) => String(what)) : [];
  return powers.length === 0 ? null : `${address.user} ${powers.join(', ')}`;
}

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

/** MariaDB, “GRANT”: global privileges. */
const MARIADB_POWERS = `
  select case privilege_type when 'FILE' then 'can read and write files of the server (FILE)'
    when 'SUPER' then 'can change settings of the whole server (SUPER)' else 'can change every database on the server' end
  from information_schema.user_privileges
  where replace(grantee, '''', '') = current_user() and privilege_type in ('FILE', 'SUPER', 'DROP')
  order by privilege_type`;

/** Opens the engine of a server's address. */
export function openAt(access: ServerAccess): Engine {
  return access.address.engine === 'postgres' ? openPostgres(access) : openMariadb(access);
}

/** Tries an address: whether it lets the login in, what is there, and what the login may not do. */
export async function lookAround(access: ServerAccess): Promise<Outcome<Surroundings>> {
  const engine = openAt(access);
  try {
    const found = access.address.engine === 'postgres' ? await onPostgres(engine) : await onMariadb(engine);
    return found.ok ? { ok: true, value: { ...found.value, powers: await powersIn(engine, access) } } : found;
  } finally {
    await engine.close();
  }
}

async function onPostgres(engine: Engine): Promise<Outcome<Omit<Surroundings, 'powers'>>> {
  const about = await engine.read(
    `select current_setting('server_version'), current_user, current_database(), r.rolcreatedb or r.rolsuper,
       has_database_privilege(current_database(), 'create'), pg_is_in_recovery()
     from pg_roles r where r.rolname = current_user`,
    {},
  );
  if (!about.ok) return about;
  const schemas = await engine.read(
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

async function onMariadb(engine: Engine): Promise<Outcome<Omit<Surroundings, 'powers'>>> {
  const about = await engine.read('select version(), current_user(), database(), @@read_only', {});
  if (!about.ok) return about;
  const schemas = await engine.read(
    `select table_schema, count(*) from information_schema.tables
     where table_type in ('BASE TABLE', 'SYSTEM VERSIONED') and table_schema not in ('mysql', 'information_schema', 'performance_schema', 'sys')
     group by table_schema order by table_schema`,
    {},
  );
  if (!schemas.ok) return schemas;
  const grants = await engine.read(
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

function unreadable(schemas: Surroundings['schemas']): string[] {
  const hidden = schemas.filter(({ tables, readable }) => readable < tables);
  return hidden.map(
    ({ name, tables, readable }) =>
      `It may not read ${tables - readable} of the ${tables} tables of ${name}: their columns are seen, their rows are not.`,
  );
}

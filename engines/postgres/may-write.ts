import type { Connection } from '../server/connection.js';

/** Roles of the server's own by which a login does more than read rows (PostgreSQL, 22.5 “Predefined Roles”). */
const POWERFUL = [
  'pg_execute_server_program',
  'pg_read_server_files',
  'pg_write_server_files',
  'pg_write_all_data',
  'pg_signal_backend',
];

/**
 * Every right by which the login could change something, in words (PostgreSQL, 5.8 “Privileges”, 9.27 “Access Privilege Inquiry
 * Functions”). That of making temporary tables, which each login has, is none within a transaction that reads.
 */
const RIGHTS = `
  with me as (select oid, rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls from pg_roles where rolname = current_user),
    own as (
      select c.oid, c.relkind, n.nspname || '.' || c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
      where n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
    )
  select 'is a superuser' from me where rolsuper
  union all select 'may make databases, make logins or replicate' from me where rolcreatedb or rolcreaterole or rolreplication
  union all select 'may act as ' || current_user || ' and as ' || session_user where current_user <> session_user
  union all (select 'has the rights of ' || r.rolname from pg_roles r, me
    where not me.rolsuper and (r.rolname = any($1) or r.rolsuper) and r.oid <> me.oid and pg_has_role(me.oid, r.oid, 'member') limit 1)
  union all (select 'may make things in the schema ' || nspname from pg_namespace
    where nspname !~ '^pg_' and has_schema_privilege(oid, 'create') limit 1)
  union all (select 'may write to ' || name from own
    where relkind in ('r', 'p', 'v', 'f') and has_table_privilege(oid, 'insert, update, delete, truncate, references, trigger') limit 1)
  union all (select 'may write to columns of ' || name from own
    where relkind in ('r', 'p', 'v', 'f') and has_any_column_privilege(oid, 'insert, update') limit 1)
  union all (select 'may count up ' || name from own
    where case when relkind = 'S' then has_sequence_privilege(oid, 'usage, update') else false end limit 1)
  union all (select 'may call ' || p.proname || ', which runs with the rights of who made it' from pg_proc p
    join pg_namespace n on n.oid = p.pronamespace
    where p.prosecdef and n.nspname !~ '^pg_' and n.nspname <> 'information_schema' and has_function_privilege(p.oid, 'execute') limit 1)`;

/** What keeps the login from being one that may only read, in words. */
export async function mayWrite(connection: Connection): Promise<readonly string[]> {
  const rows = await connection.query(RIGHTS, [[...POWERFUL]]);
  return rows.map(([what]) => String(what));
}

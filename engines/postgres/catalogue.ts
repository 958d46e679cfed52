import type { Connection } from '../server/connection.js';

type Text = string | null;

/** Queries of PostgreSQL's system catalogs (PostgreSQL, chapter 53), each for all tables of the wanted schemas at once. */
export interface Catalogue {
  readonly version: string;
  /** The schema that is meant where a name says none. */
  readonly place: string;
  readonly tables: readonly TableRow[];
  readonly columns: readonly ColumnRow[];
  readonly constraints: readonly ConstraintRow[];
  readonly indexes: readonly IndexRow[];
  readonly triggers: readonly { readonly table: string; readonly name: string; readonly sql: string }[];
  readonly enums: readonly { readonly name: string; readonly values: readonly string[] }[];
  /** Statements for what tables stand on, in an order that works. */
  readonly before: readonly string[];
  /** Statements for what stands on tables. */
  readonly after: readonly string[];
  /** What is there and is carried by no statement, in words. */
  readonly unsaid: readonly string[];
}

export interface TableRow {
  readonly id: string;
  readonly schema: string;
  readonly name: string;
  readonly partitioning: Text;
  readonly parents: Text;
  readonly unlogged: boolean;
  readonly settings: Text;
  readonly comment: Text;
}

export interface ColumnRow {
  readonly table: string;
  readonly name: string;
  readonly type: string;
  readonly notNull: boolean;
  readonly value: Text;
  readonly identity: string;
  readonly identityOptions: Text;
  readonly generated: string;
  readonly collation: Text;
  readonly comment: Text;
}

export interface ConstraintRow {
  readonly table: string;
  readonly name: string;
  /** p, u, c, f or x. */
  readonly kind: string;
  readonly definition: string;
  readonly columns: readonly string[];
  readonly targetSchema: Text;
  readonly target: Text;
  readonly targetColumns: readonly string[];
  readonly onDelete: string;
  readonly onUpdate: string;
  readonly deferrable: boolean;
  readonly deferred: boolean;
  /** Whether it says no more than its kind and columns, and rules of a foreign key. */
  readonly plain: boolean;
}

export interface IndexRow {
  readonly table: string;
  readonly name: string;
  readonly unique: boolean;
  readonly columns: readonly string[];
  readonly plain: boolean;
  readonly definition: string;
}

const NO_EXTENSION = (catalogue: string, id: string) =>
  `not exists (select 1 from pg_depend e where e.classid = '${catalogue}'::regclass and e.objid = ${id} and e.deptype = 'e')`;

/** Reads the catalogs in the transaction that is open. */
export async function readCatalogue(connection: Connection, schemas: readonly string[] | null): Promise<Catalogue> {
  const [about] = await connection.query("select current_setting('server_version'), coalesce(current_schema(), 'public')");
  const place = text(about?.[1]);
  // Names are then written without a schema where they stand in this one, and with it elsewhere.
  await connection.query(`set local search_path = "${place.replaceAll('"', '""')}"`);
  const wanted = schemas === null ? "n.nspname !~ '^pg_' and n.nspname <> 'information_schema'" : `n.nspname = any($1::text[])`;
  const ask = async (sql: string) =>
    connection.query(sql.replaceAll('WANTED', wanted), schemas === null || !sql.includes('WANTED') ? [] : [schemas]);

  const tables = await ask(`
    select c.oid, n.nspname, c.relname, case when c.relkind = 'p' then pg_get_partkeydef(c.oid) end,
      (select string_agg(i.inhparent::regclass::text, ', ' order by i.inhseqno) from pg_inherits i where i.inhrelid = c.oid),
      c.relpersistence = 'u', array_to_string(c.reloptions, ', '), obj_description(c.oid, 'pg_class')
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and not c.relispartition and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')}
    order by n.nspname <> current_schema(), n.nspname, c.oid`);
  const columns = await ask(`
    select a.attrelid, a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull, pg_get_expr(d.adbin, d.adrelid), a.attidentity,
      (select concat_ws(' ',
          case when s.seqstart <> case when s.seqincrement > 0 then s.seqmin else s.seqmax end then 'start with ' || s.seqstart end,
          case when s.seqincrement <> 1 then 'increment by ' || s.seqincrement end,
          case when s.seqmin <> 1 and s.seqincrement > 0 then 'minvalue ' || s.seqmin end,
          case when s.seqincrement > 0 and s.seqmax not in (32767, 2147483647, 9223372036854775807) then 'maxvalue ' || s.seqmax end,
          case when s.seqcache <> 1 then 'cache ' || s.seqcache end,
          case when s.seqcycle then 'cycle' end)
        from pg_sequence s join pg_depend p on p.objid = s.seqrelid and p.deptype = 'i' and p.classid = 'pg_class'::regclass
        where p.refobjid = a.attrelid and p.refobjsubid = a.attnum),
      a.attgenerated,
      (select case when l.collname in ('C', 'POSIX', 'ucs_basic') or ln.nspname <> 'pg_catalog' or l.collname <> 'default' then l.collname end
        from pg_collation l join pg_namespace ln on ln.oid = l.collnamespace
        where l.oid = a.attcollation and a.attcollation <> t.typcollation),
      col_description(a.attrelid, a.attnum)
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
      join pg_type t on t.oid = a.atttypid left join pg_attrdef d on d.adrelid = a.attrelid and d.adnum = a.attnum
    where c.relkind in ('r', 'p') and not c.relispartition and a.attnum > 0 and not a.attisdropped and WANTED
    order by a.attrelid, a.attnum`);
  const names = (array: string, table: string) =>
    `(select coalesce(json_agg(x.attname order by k.position), '[]') from unnest(${array}) with ordinality k(number, position)
        join pg_attribute x on x.attrelid = ${table} and x.attnum = k.number)`;
  const constraints = await ask(`
    select o.conrelid, o.conname, o.contype, pg_get_constraintdef(o.oid), ${names('o.conkey', 'o.conrelid')}, fn.nspname, f.relname,
      ${names('o.confkey', 'o.confrelid')}, o.confdeltype, o.confupdtype, o.condeferrable, o.condeferred,
      o.convalidated and (o.contype <> 'c' or not o.connoinherit) and o.confmatchtype in (' ', 's')
        and pg_get_constraintdef(o.oid) !~ '(NOT VALID|NULLS NOT DISTINCT|INCLUDE \\(|WITH \\(|USING INDEX TABLESPACE|NOT ENFORCED|SET (NULL|DEFAULT) \\()'
    from pg_constraint o join pg_class c on c.oid = o.conrelid join pg_namespace n on n.oid = c.relnamespace
      left join pg_class f on f.oid = o.confrelid left join pg_namespace fn on fn.oid = f.relnamespace
    where o.contype in ('p', 'u', 'c', 'f', 'x') and c.relkind in ('r', 'p') and not c.relispartition and o.conislocal and WANTED
    order by o.conrelid, o.oid`);
  const indexes = await ask(`
    select i.indrelid, x.relname, i.indisunique,
      (select coalesce(json_agg(a.attname order by k.position), '[]') from unnest(i.indkey::int2[]) with ordinality k(number, position)
        join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.number where k.position <= i.indnkeyatts),
      m.amname = 'btree' and i.indpred is null and i.indexprs is null and i.indnatts = i.indnkeyatts and i.indisvalid
        and not exists (select 1 from unnest(i.indoption::int2[]) o where o <> 0)
        and not exists (select 1 from unnest(i.indclass::oid[]) k join pg_opclass p on p.oid = k where not p.opcdefault)
        and not exists (select 1 from unnest(i.indkey::int2[]) with ordinality k(number, position)
          join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.number
          where (i.indcollation::oid[])[k.position - 1] is distinct from a.attcollation)
        and x.reloptions is null and pg_get_indexdef(i.indexrelid) !~ 'NULLS NOT DISTINCT',
      pg_get_indexdef(i.indexrelid)
    from pg_index i join pg_class x on x.oid = i.indexrelid join pg_am m on m.oid = x.relam
      join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and not c.relispartition and WANTED
      and not exists (select 1 from pg_constraint o where o.conindid = i.indexrelid and o.contype in ('p', 'u', 'x'))
    order by i.indrelid, i.indexrelid`);
  const triggers = await ask(`
    select t.tgrelid, t.tgname, pg_get_triggerdef(t.oid, true), case t.tgenabled
        when 'D' then 'alter table ' || t.tgrelid::regclass || ' disable trigger ' || quote_ident(t.tgname)
        when 'R' then 'alter table ' || t.tgrelid::regclass || ' enable replica trigger ' || quote_ident(t.tgname)
        when 'A' then 'alter table ' || t.tgrelid::regclass || ' enable always trigger ' || quote_ident(t.tgname) end
    from pg_trigger t join pg_class c on c.oid = t.tgrelid join pg_namespace n on n.oid = c.relnamespace
    where not t.tgisinternal and t.tgparentid = 0 and c.relkind in ('r', 'p') and not c.relispartition and WANTED order by t.tgrelid, t.tgname`);
  const enums = await ask(`
    select format_type(t.oid, null), (select json_agg(e.enumlabel order by e.enumsortorder) from pg_enum e where e.enumtypid = t.oid)
    from pg_type t join pg_namespace n on n.oid = t.typnamespace
    where t.typtype = 'e' and WANTED and ${NO_EXTENSION('pg_type', 't.oid')} order by t.oid`);
  const made = await statements(ask);
  return {
    version: text(about?.[0]),
    place,
    tables: tables.map(([id, schema, name, partitioning, parents, unlogged, settings, comment]) => ({
      id: text(id),
      schema: text(schema),
      name: text(name),
      partitioning: maybe(partitioning),
      parents: maybe(parents),
      unlogged: unlogged === 't',
      settings: maybe(settings),
      comment: maybe(comment),
    })),
    columns: columns.map(([table, name, type, notNull, value, identity, options, generated, collation, comment]) => ({
      table: text(table),
      name: text(name),
      type: text(type),
      notNull: notNull === 't',
      value: maybe(value),
      identity: text(identity),
      identityOptions: maybe(options),
      generated: text(generated),
      collation: maybe(collation),
      comment: maybe(comment),
    })),
    constraints: constraints.map((row) => ({
      table: text(row[0]),
      name: text(row[1]),
      kind: text(row[2]),
      definition: text(row[3]),
      columns: list(row[4]),
      targetSchema: maybe(row[5]),
      target: maybe(row[6]),
      targetColumns: list(row[7]),
      onDelete: text(row[8]),
      onUpdate: text(row[9]),
      deferrable: row[10] === 't',
      deferred: row[11] === 't',
      plain: row[12] === 't',
    })),
    indexes: indexes.map(([table, name, unique, indexed, plain, definition]) => ({
      table: text(table),
      name: text(name),
      unique: unique === 't',
      columns: list(indexed),
      plain: plain === 't',
      definition: text(definition),
    })),
    triggers: triggers.map(([table, name, sql]) => ({ table: text(table), name: text(name), sql: text(sql) })),
    enums: enums.map(([name, values]) => ({ name: text(name), values: list(values) })),
    ...made,
    after: [...made.after, ...triggers.flatMap(([, , , switched]) => maybe(switched) ?? [])],
  };
}

type Asking = (sql: string) => Promise<readonly (readonly unknown[])[]>;

/** The statements that make what is no table, each kind by what the server says of it. */
async function statements(ask: Asking): Promise<Pick<Catalogue, 'before' | 'after' | 'unsaid'>> {
  const one = async (sql: string) => (await ask(sql)).map((row) => text(row[0]));
  const extensions = await one(
    "select 'create extension if not exists ' || quote_ident(extname) from pg_extension where extname <> 'plpgsql' order by extname",
  );
  const schemas = await one(
    "select 'create schema if not exists ' || quote_ident(n.nspname) from pg_namespace n where WANTED and n.nspname not in ('public', current_schema()) order by 1",
  );
  const types = await one(`
    select case t.typtype
        when 'e' then 'create type ' || format_type(t.oid, null) || ' as enum (' ||
          (select string_agg(quote_literal(e.enumlabel), ', ' order by e.enumsortorder) from pg_enum e where e.enumtypid = t.oid) || ')'
        when 'd' then 'create domain ' || format_type(t.oid, null) || ' as ' || format_type(t.typbasetype, t.typtypmod)
          || coalesce((select ' collate ' || l.oid::regcollation from pg_collation l join pg_type b on b.oid = t.typbasetype
              where l.oid = t.typcollation and t.typcollation <> b.typcollation), '')
          || coalesce(' default ' || t.typdefault, '') || case when t.typnotnull then ' not null' else '' end
          || coalesce((select ' ' || string_agg('constraint ' || quote_ident(o.conname) || ' ' || pg_get_constraintdef(o.oid), ' ' order by o.conname)
              from pg_constraint o where o.contypid = t.oid and o.contype = 'c'), '')
        when 'c' then 'create type ' || format_type(t.oid, null) || ' as (' ||
          (select string_agg(quote_ident(a.attname) || ' ' || format_type(a.atttypid, a.atttypmod), ', ' order by a.attnum)
            from pg_attribute a where a.attrelid = t.typrelid and a.attnum > 0 and not a.attisdropped) || ')'
        else 'create type ' || format_type(t.oid, null) || ' as range (subtype = ' ||
          (select format_type(r.rngsubtype, null) from pg_range r where r.rngtypid = t.oid) || ')' end
    from pg_type t join pg_namespace n on n.oid = t.typnamespace left join pg_class k on k.oid = t.typrelid
    where WANTED and (t.typtype in ('e', 'd', 'r') or (t.typtype = 'c' and k.relkind = 'c')) and ${NO_EXTENSION('pg_type', 't.oid')}
    order by format_type(t.oid, null)`);
  const sequences = await one(`
    select 'create sequence ' || c.oid::regclass || case when s.seqtypid <> 'bigint'::regtype then ' as ' || format_type(s.seqtypid, null) else '' end
      || case when s.seqincrement <> 1 then ' increment by ' || s.seqincrement else '' end
      || case when s.seqmin <> 1 then ' minvalue ' || s.seqmin else '' end
      || case when s.seqmax not in (32767, 2147483647, 9223372036854775807) then ' maxvalue ' || s.seqmax else '' end
      || case when s.seqstart <> 1 then ' start with ' || s.seqstart else '' end
      || case when s.seqcache <> 1 then ' cache ' || s.seqcache else '' end || case when s.seqcycle then ' cycle' else '' end
    from pg_sequence s join pg_class c on c.oid = s.seqrelid join pg_namespace n on n.oid = c.relnamespace
    where WANTED and ${NO_EXTENSION('pg_class', 'c.oid')}
      and not exists (select 1 from pg_depend d where d.objid = c.oid and d.classid = 'pg_class'::regclass and d.deptype = 'i')
    order by c.oid::regclass::text`);
  const owned = await one(`
    select 'alter sequence ' || c.oid::regclass || ' owned by ' || d.refobjid::regclass || '.' || quote_ident(a.attname)
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
      join pg_depend d on d.objid = c.oid and d.classid = 'pg_class'::regclass and d.deptype = 'a' and d.refobjsubid > 0
      join pg_attribute a on a.attrelid = d.refobjid and a.attnum = d.refobjsubid
    where c.relkind = 'S' and WANTED order by c.oid::regclass::text`);
  const functions = await one(`
    select rtrim(pg_get_functiondef(p.oid), E' \\n') from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where p.prokind in ('f', 'p') and WANTED and ${NO_EXTENSION('pg_proc', 'p.oid')} order by p.oid::regprocedure::text`);
  const partitions = await one(`
    select 'create table ' || c.oid::regclass || ' partition of ' || i.inhparent::regclass || ' ' || pg_get_expr(c.relpartbound, c.oid)
      || case when c.relkind = 'p' then ' partition by ' || pg_get_partkeydef(c.oid) else '' end
    from pg_class c join pg_namespace n on n.oid = c.relnamespace join pg_inherits i on i.inhrelid = c.oid
    where c.relispartition and c.relkind in ('r', 'p') and WANTED order by c.oid`);
  const views = await one(`
    select 'create ' || case when c.relkind = 'm' then 'materialized ' else '' end || 'view ' || c.oid::regclass
      || coalesce(' with (' || array_to_string(c.reloptions, ', ') || ')', '') || ' as' || chr(10) || rtrim(pg_get_viewdef(c.oid), '; ')
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('v', 'm') and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')} order by c.oid`);
  const statistics = await one(`
    select pg_get_statisticsobjdef(s.oid) from pg_statistic_ext s join pg_namespace n on n.oid = s.stxnamespace
    where WANTED order by s.stxname`);
  const onViews = await one(`
    select pg_get_indexdef(i.indexrelid) from pg_index i join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'm' and WANTED order by i.indexrelid`);
  const viewTriggers = await one(`
    select pg_get_triggerdef(t.oid, true) from pg_trigger t join pg_class c on c.oid = t.tgrelid join pg_namespace n on n.oid = c.relnamespace
    where not t.tgisinternal and c.relkind = 'v' and WANTED order by t.tgrelid, t.tgname`);
  const rules = await one(`
    select rtrim(pg_get_ruledef(r.oid), ';') from pg_rewrite r join pg_class c on c.oid = r.ev_class join pg_namespace n on n.oid = c.relnamespace
    where r.rulename <> '_RETURN' and WANTED order by r.oid`);
  const policies = await one(`
    select 'alter table ' || c.oid::regclass || ' enable row level security' from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relrowsecurity and WANTED
    union all
    select 'alter table ' || c.oid::regclass || ' force row level security' from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relforcerowsecurity and WANTED
    union all
    select 'create policy ' || quote_ident(p.policyname) || ' on ' || format('%I.%I', p.schemaname, p.tablename) || ' as ' || p.permissive
      || ' for ' || p.cmd || coalesce(' using (' || p.qual || ')', '') || coalesce(' with check (' || p.with_check || ')', '')
    from pg_policies p join pg_namespace n on n.nspname = p.schemaname where WANTED`);
  const comments = await one(`
    select 'comment on view ' || c.oid::regclass || ' is ' || quote_literal(d.description)
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass and d.objsubid = 0
      join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'v' and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')} order by c.oid`);
  const unsaid = await one(`
    select 'The foreign table ' || c.oid::regclass || ' is not carried: it stands on a server of its own.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.relkind = 'f' and WANTED
    union all
    select 'The aggregate ' || p.oid::regprocedure || ' is not carried.'
    from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where p.prokind in ('a', 'w') and WANTED and ${NO_EXTENSION('pg_proc', 'p.oid')}
    union all
    select 'The comment on ' || t.conname || ' of ' || t.conrelid::regclass || ' is not carried.'
    from pg_description d join pg_constraint t on t.oid = d.objoid and d.classoid = 'pg_constraint'::regclass
      join pg_class c on c.oid = t.conrelid join pg_namespace n on n.oid = c.relnamespace where WANTED
    union all
    select 'The comment on index ' || c.oid::regclass || ' is not carried.'
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass
      join pg_namespace n on n.oid = c.relnamespace where c.relkind = 'i' and WANTED
    union all
    select 'The table ' || c.oid::regclass || ' is unlogged, and is made logged.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and c.relpersistence = 'u' and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')}
    union all
    select 'Who may do what with ' || count(*) || case when count(*) = 1 then ' thing' else ' things' end || ' is not carried: '
      || string_agg(granted.name, ', ' order by granted.name) filter (where granted.place <= 5) || case when count(*) > 5 then ', …' else '' end || '.'
    from (select name, row_number() over (order by name) as place from (
        select c.oid::regclass::text as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where c.relacl is not null and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')}
        union all
        select c.oid::regclass || '.' || a.attname from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
        where a.attacl is not null and WANTED
        union all
        select p.oid::regprocedure::text from pg_proc p join pg_namespace n on n.oid = p.pronamespace
        where p.proacl is not null and WANTED and ${NO_EXTENSION('pg_proc', 'p.oid')}
        union all
        select t.oid::regtype::text from pg_type t join pg_namespace n on n.oid = t.typnamespace
        where t.typacl is not null and t.typrelid = 0 and WANTED and ${NO_EXTENSION('pg_type', 't.oid')}
        union all
        select 'the schema ' || n.nspname from pg_namespace n where n.nspacl is not null and n.nspname <> 'public' and WANTED
      ) named) granted having count(*) > 0
    union all
    select 'How ' || c.oid::regclass || '.' || a.attname || ' is stored' || case when a.attcompression <> '' then ' and compressed' else '' end || ' is not carried.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace join pg_type t on t.oid = a.atttypid
    where c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped and (a.attstorage <> t.typstorage or a.attcompression <> '') and WANTED
      and ${NO_EXTENSION('pg_class', 'c.oid')}
    union all
    select 'How many values of ' || c.oid::regclass || '.' || a.attname || ' the server keeps count of is not carried.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p', 'm') and a.attnum > 0 and not a.attisdropped and a.attstattarget > 0 and WANTED
    union all
    select 'The settings of ' || c.oid::regclass || '.' || a.attname || ' are not carried: ' || array_to_string(a.attoptions, ', ') || '.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
    where a.attoptions is not null and WANTED
    union all
    select 'What tells the rows of ' || c.oid::regclass || ' apart for a replica is not carried.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and c.relreplident not in ('d', 'n') and WANTED and ${NO_EXTENSION('pg_class', 'c.oid')}
    union all
    select 'The tablespace of ' || c.oid::regclass || ' is not carried.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.reltablespace <> 0 and WANTED
    union all
    select 'That ' || x.relname || ' orders the rows of ' || i.indrelid::regclass || ' is not carried.'
    from pg_index i join pg_class x on x.oid = i.indexrelid join pg_namespace n on n.oid = x.relnamespace where i.indisclustered and WANTED
    union all
    select 'The policy ' || p.policyname || ' of ' || p.tablename || ' is for ' || array_to_string(p.roles, ', ') || ', and is made for all.'
    from pg_policies p join pg_namespace n on n.nspname = p.schemaname where p.roles <> '{public}' and WANTED
    union all
    select 'The rule ' || r.rulename || ' of ' || r.ev_class::regclass || ' is switched off, and is made on.'
    from pg_rewrite r join pg_class c on c.oid = r.ev_class join pg_namespace n on n.oid = c.relnamespace
    where r.ev_enabled <> 'O' and r.rulename <> '_RETURN' and WANTED
    union all
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_proc p on p.oid = d.objoid and d.classoid = 'pg_proc'::regclass
      join pg_namespace n on n.oid = p.pronamespace where WANTED and ${NO_EXTENSION('pg_proc', 'p.oid')}
    union all
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_type p on p.oid = d.objoid and d.classoid = 'pg_type'::regclass
      join pg_namespace n on n.oid = p.typnamespace where WANTED and ${NO_EXTENSION('pg_type', 'p.oid')}
    union all
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_trigger g on g.oid = d.objoid and d.classoid = 'pg_trigger'::regclass
      join pg_class c on c.oid = g.tgrelid join pg_namespace n on n.oid = c.relnamespace where WANTED
    union all
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass
      join pg_namespace n on n.oid = c.relnamespace
    where (c.relkind in ('S', 'm') or (c.relkind in ('v', 'm') and d.objsubid > 0)) and WANTED
    union all
    select 'The collation ' || l.oid::regcollation || ' is not carried.'
    from pg_collation l join pg_namespace n on n.oid = l.collnamespace where WANTED and ${NO_EXTENSION('pg_collation', 'l.oid')}
    union all
    select 'The operator ' || o.oid::regoperator || ' is not carried.'
    from pg_operator o join pg_namespace n on n.oid = o.oprnamespace where WANTED and ${NO_EXTENSION('pg_operator', 'o.oid')}
    union all
    select 'The event trigger ' || e.evtname || ' is not carried.' from pg_event_trigger e
    union all
    select 'The publication ' || p.pubname || ' is not carried.' from pg_publication p`);
  return {
    before: [...schemas, ...extensions, ...types, ...sequences, ...functions],
    after: [...owned, ...partitions, ...views, ...statistics, ...onViews, ...viewTriggers, ...rules, ...policies, ...comments],
    unsaid,
  };
}

function text(value: unknown): string {
  return value === null || value === undefined ? '' : String(value);
}

function maybe(value: unknown): Text {
  return value === null || value === undefined || value === '' ? null : String(value);
}

function list(value: unknown): string[] {
  const parsed: unknown = JSON.parse(text(value) === '' ? '[]' : text(value));
  return Array.isArray(parsed) ? parsed.map(String) : [];
}

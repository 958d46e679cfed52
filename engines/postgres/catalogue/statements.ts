import { type Ask, notOfExtension, text } from './ask.js';

const SCHEMAS =
  "select 'create schema if not exists ' || quote_ident(n.nspname) from pg_namespace n where WANTED and n.nspname not in ('public', current_schema()) order by 1";

const EXTENSIONS =
  "select 'create extension if not exists ' || quote_ident(extname) from pg_extension where extname <> 'plpgsql' order by extname";

const TYPES = `
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
    where WANTED and (t.typtype in ('e', 'd', 'r') or (t.typtype = 'c' and k.relkind = 'c')) and ${notOfExtension('pg_type', 't.oid')}
    order by format_type(t.oid, null)`;

const SEQUENCES = `
    select 'create sequence ' || c.oid::regclass || case when s.seqtypid <> 'bigint'::regtype then ' as ' || format_type(s.seqtypid, null) else '' end
      || case when s.seqincrement <> 1 then ' increment by ' || s.seqincrement else '' end
      || case when s.seqmin <> 1 then ' minvalue ' || s.seqmin else '' end
      || case when s.seqmax not in (32767, 2147483647, 9223372036854775807) then ' maxvalue ' || s.seqmax else '' end
      || case when s.seqstart <> 1 then ' start with ' || s.seqstart else '' end
      || case when s.seqcache <> 1 then ' cache ' || s.seqcache else '' end || case when s.seqcycle then ' cycle' else '' end
    from pg_sequence s join pg_class c on c.oid = s.seqrelid join pg_namespace n on n.oid = c.relnamespace
    where WANTED and ${notOfExtension('pg_class', 'c.oid')}
      and not exists (select 1 from pg_depend d where d.objid = c.oid and d.classid = 'pg_class'::regclass and d.deptype = 'i')
    order by c.oid::regclass::text`;

const FUNCTIONS = `
    select rtrim(replace(pg_get_functiondef(p.oid), case when n.nspname = current_schema() then ' ' || quote_ident(n.nspname) || '.' || quote_ident(p.proname) else '' end, ' ' || quote_ident(p.proname)), E' \\n') from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where p.prokind in ('f', 'p') and WANTED and ${notOfExtension('pg_proc', 'p.oid')} order by p.oid::regprocedure::text`;

const OWNED_SEQUENCES = `
    select 'alter sequence ' || c.oid::regclass || ' owned by ' || d.refobjid::regclass || '.' || quote_ident(a.attname)
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
      join pg_depend d on d.objid = c.oid and d.classid = 'pg_class'::regclass and d.deptype = 'a' and d.refobjsubid > 0
      join pg_attribute a on a.attrelid = d.refobjid and a.attnum = d.refobjsubid
    where c.relkind = 'S' and WANTED order by c.oid::regclass::text`;

const PARTITIONS = `
    select 'create table ' || c.oid::regclass || ' partition of ' || i.inhparent::regclass || ' ' || pg_get_expr(c.relpartbound, c.oid)
      || case when c.relkind = 'p' then ' partition by ' || pg_get_partkeydef(c.oid) else '' end
    from pg_class c join pg_namespace n on n.oid = c.relnamespace join pg_inherits i on i.inhrelid = c.oid
    where c.relispartition and c.relkind in ('r', 'p') and WANTED order by c.oid`;

const VIEWS = `
    select 'create ' || case when c.relkind = 'm' then 'materialized ' else '' end || 'view ' || c.oid::regclass
      || coalesce(' with (' || array_to_string(c.reloptions, ', ') || ')', '') || ' as' || chr(10) || rtrim(pg_get_viewdef(c.oid), '; ')
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('v', 'm') and WANTED and ${notOfExtension('pg_class', 'c.oid')} order by c.oid`;

const STATISTICS = `
    select pg_get_statisticsobjdef(s.oid) from pg_statistic_ext s join pg_namespace n on n.oid = s.stxnamespace
    where WANTED order by s.stxname`;

const INDEXES_OF_VIEWS = `
    select pg_get_indexdef(i.indexrelid) from pg_index i join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'm' and WANTED order by i.indexrelid`;

const TRIGGERS_OF_VIEWS = `
    select pg_get_triggerdef(t.oid, true) from pg_trigger t join pg_class c on c.oid = t.tgrelid join pg_namespace n on n.oid = c.relnamespace
    where not t.tgisinternal and c.relkind = 'v' and WANTED order by t.tgrelid, t.tgname`;

const RULES = `
    select rtrim(pg_get_ruledef(r.oid), ';') from pg_rewrite r join pg_class c on c.oid = r.ev_class join pg_namespace n on n.oid = c.relnamespace
    where r.rulename <> '_RETURN' and WANTED order by r.oid`;

const POLICIES = `
    select 'alter table ' || c.oid::regclass || ' enable row level security' from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relrowsecurity and WANTED
    union all
    select 'alter table ' || c.oid::regclass || ' force row level security' from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relforcerowsecurity and WANTED
    union all
    select 'create policy ' || quote_ident(p.policyname) || ' on ' || format('%I.%I', p.schemaname, p.tablename) || ' as ' || p.permissive
      || ' for ' || p.cmd || coalesce(' using (' || p.qual || ')', '') || coalesce(' with check (' || p.with_check || ')', '')
    from pg_policies p join pg_namespace n on n.nspname = p.schemaname where WANTED`;

const COMMENTS_OF_VIEWS = `
    select 'comment on view ' || c.oid::regclass || ' is ' || quote_literal(d.description)
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass and d.objsubid = 0
      join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'v' and WANTED and ${notOfExtension('pg_class', 'c.oid')} order by c.oid`;

/** What tables stand on, in an order that works. */
const BEFORE = [SCHEMAS, EXTENSIONS, TYPES, SEQUENCES, FUNCTIONS];

/** What stands on tables, in an order that works. */
const AFTER = [
  OWNED_SEQUENCES,
  PARTITIONS,
  VIEWS,
  STATISTICS,
  INDEXES_OF_VIEWS,
  TRIGGERS_OF_VIEWS,
  RULES,
  POLICIES,
  COMMENTS_OF_VIEWS,
];

/** The statements that make what is no table, each kind by what the server says of it. */
export async function readStatements(
  ask: Ask,
): Promise<{ readonly before: readonly string[]; readonly after: readonly string[] }> {
  return { before: await statements(ask, BEFORE), after: await statements(ask, AFTER) };
}

async function statements(ask: Ask, queries: readonly string[]): Promise<string[]> {
  const made: string[] = [];
  for (const query of queries) for (const [statement] of await ask(query)) made.push(text(statement));
  return made;
}

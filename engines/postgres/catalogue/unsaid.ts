import { type Ask, notOfExtension, text } from './ask.js';

/** What a database can have and no statement of ours carries: each a query that says so of what is there. */
const NOT_CARRIED = [
  `
    select 'The foreign table ' || c.oid::regclass || ' is not carried: it stands on a server of its own.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.relkind = 'f' and WANTED`,
  `
    select 'The aggregate ' || p.oid::regprocedure || ' is not carried.'
    from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where p.prokind in ('a', 'w') and WANTED and ${notOfExtension('pg_proc', 'p.oid')}`,
  `
    select 'The comment on ' || t.conname || ' of ' || t.conrelid::regclass || ' is not carried.'
    from pg_description d join pg_constraint t on t.oid = d.objoid and d.classoid = 'pg_constraint'::regclass
      join pg_class c on c.oid = t.conrelid join pg_namespace n on n.oid = c.relnamespace where WANTED`,
  `
    select 'The comment on index ' || c.oid::regclass || ' is not carried.'
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass
      join pg_namespace n on n.oid = c.relnamespace where c.relkind = 'i' and WANTED`,
  `
    select 'The table ' || c.oid::regclass || ' is unlogged, and is made logged.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and c.relpersistence = 'u' and WANTED and ${notOfExtension('pg_class', 'c.oid')}`,
  `
    select 'Who may do what with ' || count(*) || case when count(*) = 1 then ' thing' else ' things' end || ' is not carried: '
      || string_agg(granted.name, ', ' order by granted.name) filter (where granted.place <= 5) || case when count(*) > 5 then ', …' else '' end || '.'
    from (select name, row_number() over (order by name) as place from (
        select c.oid::regclass::text as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where c.relacl is not null and WANTED and ${notOfExtension('pg_class', 'c.oid')}
        union all
        select c.oid::regclass || '.' || a.attname from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
        where a.attacl is not null and WANTED
        union all
        select p.oid::regprocedure::text from pg_proc p join pg_namespace n on n.oid = p.pronamespace
        where p.proacl is not null and WANTED and ${notOfExtension('pg_proc', 'p.oid')}
        union all
        select t.oid::regtype::text from pg_type t join pg_namespace n on n.oid = t.typnamespace
        where t.typacl is not null and t.typrelid = 0 and WANTED and ${notOfExtension('pg_type', 't.oid')}
        union all
        select 'the schema ' || n.nspname from pg_namespace n where n.nspacl is not null and n.nspname <> 'public' and WANTED
      ) named) granted having count(*) > 0`,
  `
    select 'How ' || c.oid::regclass || '.' || a.attname || ' is stored' || case when a.attcompression <> '' then ' and compressed' else '' end || ' is not carried.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace join pg_type t on t.oid = a.atttypid
    where c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped and (a.attstorage <> t.typstorage or a.attcompression <> '') and WANTED
      and ${notOfExtension('pg_class', 'c.oid')}`,
  `
    select 'How many values of ' || c.oid::regclass || '.' || a.attname || ' the server keeps count of is not carried.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p', 'm') and a.attnum > 0 and not a.attisdropped and a.attstattarget > 0 and WANTED`,
  `
    select 'The settings of ' || c.oid::regclass || '.' || a.attname || ' are not carried: ' || array_to_string(a.attoptions, ', ') || '.'
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
    where a.attoptions is not null and WANTED`,
  `
    select 'What tells the rows of ' || c.oid::regclass || ' apart for a replica is not carried.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and c.relreplident not in ('d', 'n') and WANTED and ${notOfExtension('pg_class', 'c.oid')}`,
  `
    select 'The tablespace of ' || c.oid::regclass || ' is not carried.'
    from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.reltablespace <> 0 and WANTED`,
  `
    select 'That ' || x.relname || ' orders the rows of ' || i.indrelid::regclass || ' is not carried.'
    from pg_index i join pg_class x on x.oid = i.indexrelid join pg_namespace n on n.oid = x.relnamespace where i.indisclustered and WANTED`,
  `
    select 'The policy ' || p.policyname || ' of ' || p.tablename || ' is for ' || array_to_string(p.roles, ', ') || ', and is made for all.'
    from pg_policies p join pg_namespace n on n.nspname = p.schemaname where p.roles <> '{public}' and WANTED`,
  `
    select 'The rule ' || r.rulename || ' of ' || r.ev_class::regclass || ' is switched off, and is made on.'
    from pg_rewrite r join pg_class c on c.oid = r.ev_class join pg_namespace n on n.oid = c.relnamespace
    where r.ev_enabled <> 'O' and r.rulename <> '_RETURN' and WANTED`,
  `
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_proc p on p.oid = d.objoid and d.classoid = 'pg_proc'::regclass
      join pg_namespace n on n.oid = p.pronamespace where WANTED and ${notOfExtension('pg_proc', 'p.oid')}`,
  `
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_type p on p.oid = d.objoid and d.classoid = 'pg_type'::regclass
      join pg_namespace n on n.oid = p.typnamespace where WANTED and ${notOfExtension('pg_type', 'p.oid')}`,
  `
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_trigger g on g.oid = d.objoid and d.classoid = 'pg_trigger'::regclass
      join pg_class c on c.oid = g.tgrelid join pg_namespace n on n.oid = c.relnamespace where WANTED`,
  `
    select 'The comment on ' || pg_describe_object(d.classoid, d.objoid, d.objsubid) || ' is not carried.'
    from pg_description d join pg_class c on c.oid = d.objoid and d.classoid = 'pg_class'::regclass
      join pg_namespace n on n.oid = c.relnamespace
    where (c.relkind in ('S', 'm') or (c.relkind in ('v', 'm') and d.objsubid > 0)) and WANTED`,
  `
    select 'The collation ' || l.oid::regcollation || ' is not carried.'
    from pg_collation l join pg_namespace n on n.oid = l.collnamespace where WANTED and ${notOfExtension('pg_collation', 'l.oid')}`,
  `
    select 'The operator ' || o.oid::regoperator || ' is not carried.'
    from pg_operator o join pg_namespace n on n.oid = o.oprnamespace where WANTED and ${notOfExtension('pg_operator', 'o.oid')}`,
  `
    select 'The event trigger ' || e.evtname || ' is not carried.' from pg_event_trigger e`,
  `
    select 'The publication ' || p.pubname || ' is not carried.' from pg_publication p`,
];

/** What is there and is carried by no statement, in words. */
export async function readUnsaid(ask: Ask): Promise<string[]> {
  return (await ask(NOT_CARRIED.join('\nunion all\n'))).map(([said]) => text(said));
}

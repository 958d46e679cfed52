import { type Ask, list, maybe, notOfExtension, type Text, text } from './ask.js';

/** A table, partitioned or not; partitions are none. */
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

/** The tables, those of the schema in use first. */
export async function readTables(ask: Ask): Promise<readonly TableRow[]> {
  const rows = await ask(`
    select c.oid, n.nspname, c.relname, case when c.relkind = 'p' then pg_get_partkeydef(c.oid) end,
      (select string_agg(i.inhparent::regclass::text, ', ' order by i.inhseqno) from pg_inherits i where i.inhrelid = c.oid),
      c.relpersistence = 'u', array_to_string(c.reloptions, ', '), obj_description(c.oid, 'pg_class')
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p') and not c.relispartition and WANTED and ${notOfExtension('pg_class', 'c.oid')}
    order by n.nspname <> current_schema(), n.nspname, c.oid`);
  return rows.map(([id, schema, name, partitioning, parents, unlogged, settings, comment]) => ({
    id: text(id),
    schema: text(schema),
    name: text(name),
    partitioning: maybe(partitioning),
    parents: maybe(parents),
    unlogged: unlogged === 't',
    settings: maybe(settings),
    comment: maybe(comment),
  }));
}

/** A column, in the order of its table. */
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

/** The columns of all tables. */
export async function readColumns(ask: Ask): Promise<readonly ColumnRow[]> {
  const rows = await ask(`
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
  return rows.map(([table, name, type, notNull, value, identity, options, generated, collation, comment]) => ({
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
  }));
}

/** A constraint of a table’s own. */
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

/** The names of columns whose numbers stand in an array. */
const names = (array: string, table: string) =>
  `(select coalesce(json_agg(x.attname order by k.position), '[]') from unnest(${array}) with ordinality k(number, position)
        join pg_attribute x on x.attrelid = ${table} and x.attnum = k.number)`;

/** The constraints of all tables. */
export async function readConstraints(ask: Ask): Promise<readonly ConstraintRow[]> {
  const rows = await ask(`
    select o.conrelid, o.conname, o.contype, pg_get_constraintdef(o.oid), ${names('o.conkey', 'o.conrelid')}, fn.nspname, f.relname,
      ${names('o.confkey', 'o.confrelid')}, o.confdeltype, o.confupdtype, o.condeferrable, o.condeferred,
      o.convalidated and (o.contype <> 'c' or not o.connoinherit) and o.confmatchtype in (' ', 's')
        and pg_get_constraintdef(o.oid) !~ '(NOT VALID|NULLS NOT DISTINCT|INCLUDE \\(|WITH \\(|USING INDEX TABLESPACE|NOT ENFORCED|SET (NULL|DEFAULT) \\()'
    from pg_constraint o join pg_class c on c.oid = o.conrelid join pg_namespace n on n.oid = c.relnamespace
      left join pg_class f on f.oid = o.confrelid left join pg_namespace fn on fn.oid = f.relnamespace
    where o.contype in ('p', 'u', 'c', 'f', 'x') and c.relkind in ('r', 'p') and not c.relispartition and o.conislocal and WANTED
    order by o.conrelid, o.oid`);
  return rows.map((row) => ({
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
  }));
}

/** An index that no constraint stands on. */
export interface IndexRow {
  readonly table: string;
  readonly name: string;
  readonly unique: boolean;
  readonly columns: readonly string[];
  readonly plain: boolean;
  readonly definition: string;
}

/** The indexes of all tables. */
export async function readIndexes(ask: Ask): Promise<readonly IndexRow[]> {
  const rows = await ask(`
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
  return rows.map(([table, name, unique, indexed, plain, definition]) => ({
    table: text(table),
    name: text(name),
    unique: unique === 't',
    columns: list(indexed),
    plain: plain === 't',
    definition: text(definition),
  }));
}

/** A trigger of a table. */
export interface TriggerRow {
  readonly table: string;
  readonly name: string;
  readonly sql: string;
  /** The statement that switches it as it is switched, where a trigger is not so when it is made. */
  readonly switched: Text;
}

/** The triggers of all tables. */
export async function readTriggers(ask: Ask): Promise<readonly TriggerRow[]> {
  const rows = await ask(`
    select t.tgrelid, t.tgname, pg_get_triggerdef(t.oid, true), case t.tgenabled
        when 'D' then 'alter table ' || t.tgrelid::regclass || ' disable trigger ' || quote_ident(t.tgname)
        when 'R' then 'alter table ' || t.tgrelid::regclass || ' enable replica trigger ' || quote_ident(t.tgname)
        when 'A' then 'alter table ' || t.tgrelid::regclass || ' enable always trigger ' || quote_ident(t.tgname) end
    from pg_trigger t join pg_class c on c.oid = t.tgrelid join pg_namespace n on n.oid = c.relnamespace
    where not t.tgisinternal and t.tgparentid = 0 and c.relkind in ('r', 'p') and not c.relispartition and WANTED order by t.tgrelid, t.tgname`);
  return rows.map(([table, name, sql, switched]) => ({
    table: text(table),
    name: text(name),
    sql: text(sql),
    switched: maybe(switched),
  }));
}

/** An enumerated type. */
export interface EnumRow {
  readonly name: string;
  readonly values: readonly string[];
}

/** The enumerated types. */
export async function readEnums(ask: Ask): Promise<readonly EnumRow[]> {
  const rows = await ask(`
    select format_type(t.oid, null), (select json_agg(e.enumlabel order by e.enumsortorder) from pg_enum e where e.enumtypid = t.oid)
    from pg_type t join pg_namespace n on n.oid = t.typnamespace
    where t.typtype = 'e' and WANTED and ${notOfExtension('pg_type', 't.oid')} order by t.oid`);
  return rows.map(([name, values]) => ({ name: text(name), values: list(values) }));
}

import type { Engine } from '../engines/index.js';
import { rawRows } from '../engines/raw-rows.js';

/** A catalogue's table, and what of its columns is not compared, each with the reason. */
interface LeftOut {
  readonly [column: string]: string;
}

const NUMBER = 'a number that the server gives; what it stands for is compared by name';
const COUNTED = 'counted by the server as it runs';
const TOLD_AS_SQL = 'a tree of the parser’s; compared as the SQL that the server makes of it';
const OWNER = 'who made it: no text says who';
const ORDER = 'a place in an order of making, which a text may change';
const REPORTED = 'not carried, and said so in the report';

/** PostgreSQL, chapter “System Catalogs”: every column of these is compared but for those that are named here. */
const POSTGRES: Readonly<Record<string, LeftOut>> = {
  pg_class: {
    oid: NUMBER,
    relfilenode: 'where its file lies',
    relowner: OWNER,
    relpages: COUNTED,
    reltuples: COUNTED,
    relallvisible: COUNTED,
    relallfrozen: COUNTED,
    reltoastrelid: NUMBER,
    relfrozenxid: COUNTED,
    relminmxid: COUNTED,
    relrewrite: COUNTED,
    relacl: REPORTED,
    relhasindex: 'a hint that is taken back late only',
    relhasrules: 'a hint that is taken back late only',
    relhastriggers: 'a hint that is taken back late only',
    relhassubclass: 'a hint that is taken back late only',
    relchecks: 'counted of the checks, which are compared',
    relpersistence: REPORTED,
    relreplident: REPORTED,
    relpartbound: TOLD_AS_SQL,
  },
  pg_attribute: {
    attcacheoff: COUNTED,
    attacl: REPORTED,
    attstattarget: REPORTED,
    attstorage: REPORTED,
    attcompression: REPORTED,
    atthasmissing: COUNTED,
    attmissingval: COUNTED,
    attoptions: REPORTED,
  },
  pg_attrdef: { oid: NUMBER, adbin: TOLD_AS_SQL },
  pg_constraint: { oid: NUMBER, conbin: TOLD_AS_SQL, conindid: NUMBER, conparentid: NUMBER },
  pg_index: {
    indexrelid: NUMBER,
    indexprs: TOLD_AS_SQL,
    indpred: TOLD_AS_SQL,
    indisclustered: REPORTED,
    indcheckxmin: COUNTED,
    indisreplident: REPORTED,
  },
  pg_trigger: { oid: NUMBER, tgparentid: NUMBER, tgqual: TOLD_AS_SQL, tgconstraint: NUMBER, tgconstrindid: NUMBER },
  pg_type: { oid: NUMBER, typowner: OWNER, typacl: REPORTED, typdefaultbin: TOLD_AS_SQL, typarray: NUMBER, typrelid: NUMBER },
  pg_proc: { oid: NUMBER, proowner: OWNER, proacl: REPORTED, prosqlbody: TOLD_AS_SQL, proargdefaults: TOLD_AS_SQL },
  pg_rewrite: { oid: NUMBER, ev_qual: TOLD_AS_SQL, ev_action: TOLD_AS_SQL },
  pg_policy: { oid: NUMBER, polqual: TOLD_AS_SQL, polwithcheck: TOLD_AS_SQL, polroles: REPORTED },
  pg_sequence: {},
  pg_enum: { oid: NUMBER, enumsortorder: 'an order that is compared by the labels’ own' },
  pg_range: {},
  pg_inherits: {},
  pg_partitioned_table: { partexprs: TOLD_AS_SQL },
  pg_statistic_ext: { oid: NUMBER, stxowner: OWNER, stxexprs: TOLD_AS_SQL },
  pg_collation: { oid: NUMBER, collowner: OWNER },
};

/** How an entry of a catalogue is told apart, and its SQL. */
const POSTGRES_ENTRIES: Readonly<Record<string, { readonly where: string; readonly sql: string }>> = {
  pg_class: {
    where: `c.relnamespace = 'public'::regnamespace and c.relkind in ('r','p','v','m','S','i','I','c')`,
    sql: `case when c.relkind in ('v','m') then pg_get_viewdef(c.oid) when c.relkind in ('i','I') then pg_get_indexdef(c.oid) else pg_get_expr(c.relpartbound, c.oid) end`,
  },
  pg_attribute: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.attrelid) = 'public'::regnamespace and c.attnum > 0 and not c.attisdropped and (select k.relkind from pg_class k where k.oid = c.attrelid) in ('r','p','v','m','c')`,
    sql: 'null::text',
  },
  pg_attrdef: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.adrelid) = 'public'::regnamespace`,
    sql: 'pg_get_expr(c.adbin, c.adrelid)',
  },
  pg_constraint: { where: `c.connamespace = 'public'::regnamespace`, sql: 'pg_get_constraintdef(c.oid)' },
  pg_index: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.indrelid) = 'public'::regnamespace`,
    sql: 'pg_get_indexdef(c.indexrelid)',
  },
  pg_trigger: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.tgrelid) = 'public'::regnamespace and not c.tgisinternal`,
    sql: 'pg_get_triggerdef(c.oid)',
  },
  pg_type: { where: `c.typnamespace = 'public'::regnamespace and c.typcategory <> 'A'`, sql: 'null::text' },
  pg_proc: {
    where: `c.pronamespace = 'public'::regnamespace`,
    sql: `case when c.prokind in ('f','p') then pg_get_functiondef(c.oid) end`,
  },
  pg_rewrite: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.ev_class) = 'public'::regnamespace`,
    sql: 'pg_get_ruledef(c.oid)',
  },
  pg_policy: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.polrelid) = 'public'::regnamespace`,
    sql: 'pg_get_expr(c.polqual, c.polrelid) || pg_get_expr(c.polwithcheck, c.polrelid)',
  },
  pg_sequence: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.seqrelid) = 'public'::regnamespace`,
    sql: 'null::text',
  },
  pg_enum: {
    where: `(select k.typnamespace from pg_type k where k.oid = c.enumtypid) = 'public'::regnamespace`,
    sql: `(select count(*)::text from pg_enum o where o.enumtypid = c.enumtypid and o.enumsortorder < c.enumsortorder)`,
  },
  pg_range: {
    where: `(select k.typnamespace from pg_type k where k.oid = c.rngtypid) = 'public'::regnamespace`,
    sql: 'null::text',
  },
  pg_inherits: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.inhrelid) = 'public'::regnamespace`,
    sql: 'null::text',
  },
  pg_partitioned_table: {
    where: `(select k.relnamespace from pg_class k where k.oid = c.partrelid) = 'public'::regnamespace`,
    sql: 'pg_get_partkeydef(c.partrelid)',
  },
  pg_statistic_ext: { where: `c.stxnamespace = 'public'::regnamespace`, sql: 'pg_get_statisticsobjdef(c.oid)' },
  pg_collation: { where: `c.collnamespace = 'public'::regnamespace`, sql: 'null::text' },
};

/** MariaDB, “Information Schema Tables”: likewise. */
const MARIADB: Readonly<Record<string, { readonly schema: string; readonly left: LeftOut }>> = {
  TABLES: {
    schema: 'TABLE_SCHEMA',
    left: {
      TABLE_ROWS: COUNTED,
      AVG_ROW_LENGTH: COUNTED,
      DATA_LENGTH: COUNTED,
      MAX_DATA_LENGTH: COUNTED,
      INDEX_LENGTH: COUNTED,
      DATA_FREE: COUNTED,
      AUTO_INCREMENT: COUNTED,
      CREATE_TIME: COUNTED,
      UPDATE_TIME: COUNTED,
      CHECK_TIME: COUNTED,
      CHECKSUM: COUNTED,
      MAX_INDEX_LENGTH: COUNTED,
      VERSION: COUNTED,
    },
  },
  COLUMNS: { schema: 'TABLE_SCHEMA', left: { PRIVILEGES: REPORTED } },
  STATISTICS: { schema: 'TABLE_SCHEMA', left: { CARDINALITY: COUNTED } },
  REFERENTIAL_CONSTRAINTS: { schema: 'CONSTRAINT_SCHEMA', left: {} },
  KEY_COLUMN_USAGE: { schema: 'TABLE_SCHEMA', left: {} },
  CHECK_CONSTRAINTS: {
    schema: 'CONSTRAINT_SCHEMA',
    left: { LEVEL: 'a check behind its column holds what one by itself does' },
  },
  VIEWS: {
    schema: 'TABLE_SCHEMA',
    left: { DEFINER: OWNER, CHARACTER_SET_CLIENT: 'that of the session', COLLATION_CONNECTION: 'that of the session' },
  },
  TRIGGERS: {
    schema: 'TRIGGER_SCHEMA',
    left: {
      CREATED: COUNTED,
      DEFINER: OWNER,
      SQL_MODE: 'that of the session',
      CHARACTER_SET_CLIENT: 'that of the session',
      COLLATION_CONNECTION: 'that of the session',
      ACTION_ORDER: ORDER,
    },
  },
  ROUTINES: {
    schema: 'ROUTINE_SCHEMA',
    left: {
      CREATED: COUNTED,
      LAST_ALTERED: COUNTED,
      DEFINER: OWNER,
      SQL_MODE: 'that of the session',
      CHARACTER_SET_CLIENT: 'that of the session',
      COLLATION_CONNECTION: 'that of the session',
    },
  },
  PARTITIONS: {
    schema: 'TABLE_SCHEMA',
    left: {
      TABLE_ROWS: COUNTED,
      AVG_ROW_LENGTH: COUNTED,
      DATA_LENGTH: COUNTED,
      MAX_DATA_LENGTH: COUNTED,
      INDEX_LENGTH: COUNTED,
      DATA_FREE: COUNTED,
      CREATE_TIME: COUNTED,
      UPDATE_TIME: COUNTED,
      CHECK_TIME: COUNTED,
      CHECKSUM: COUNTED,
    },
  },
};

/** Everything that the catalogue of PostgreSQL says of the schema `public`, entry by entry, with names in place of numbers. */
export async function wholePostgres(engine: Engine): Promise<string[]> {
  const ask = asking(engine);
  const links = await ask(
    'select fktable::text, fkcols[1], pktable::text, is_array::text from pg_get_catalog_foreign_keys() where cardinality(fkcols) = 1',
  );
  const entries: string[] = [];
  for (const [table, left] of Object.entries(POSTGRES)) {
    const columns = await ask(
      `select attname, atttypid::regtype::text from pg_attribute where attrelid = '${table}'::regclass and attnum > 0 and not attisdropped order by attname`,
    );
    const said = columns.flatMap(([name, type]) => {
      if (left[String(name)] !== undefined) return [];
      const link = links.find(([from, column]) => from === table && column === name);
      const named = (oid: string) => `coalesce(pg_describe_object('${String(link?.[2])}'::regclass, ${oid}, 0), '')`;
      if (link === undefined) return [[String(name), `c.${String(name)}::text`]];
      const isArray = link[3] === 'true' || /\[\]|vector/.test(String(type));
      return [
        [
          String(name),
          isArray
            ? `(select string_agg(${named('o')}, ' ') from unnest(c.${String(name)}::oid[]) o)`
            : named(`c.${String(name)}`),
        ],
      ];
    });
    const { where, sql } = POSTGRES_ENTRIES[table] ?? { where: 'false', sql: 'null' };
    const fields = said.map(([name, expression]) => `'${name}', ${expression}`).join(', ');
    for (const [entry] of await ask(`select json_build_object(${fields}, 'sql', ${sql})::text from ${table} c where ${where}`))
      entries.push(`${table} ${String(entry)}`);
  }
  return entries.sort();
}

const OWN_NAME = "hex(if(level = 'Column', 'CONSTRAINT_1', constraint_name))";
const UNNAMED_CHECK = /CONSTRAINT_NAME CONSTRAINT_\d+(?= \| TABLE_NAME)/;

/** The same of MariaDB, of the database in use. */
export async function wholeMariadb(engine: Engine): Promise<string[]> {
  const ask = asking(engine);
  const [[place] = []] = await ask('select database()');
  const entries: string[] = [];
  for (const [table, { schema, left }] of Object.entries(MARIADB)) {
    const columns = await ask(
      `select column_name from information_schema.columns where table_schema = 'information_schema' and table_name = '${table}' order by 1`,
    );
    const names = columns.map(([name]) => String(name)).filter((name) => left[name] === undefined && !/SCHEMA$/.test(name));
    for (const row of await ask(
      `select ${names.map((name) => (table === 'CHECK_CONSTRAINTS' && name === 'CONSTRAINT_NAME' ? OWN_NAME : `hex(${name})`)).join(', ')} from information_schema.${table} where ${schema} = database()`,
    )) {
      const told = row.map(
        (value, index) => `${names[index]} ${value === null ? '–' : Buffer.from(String(value), 'hex').toString('latin1')}`,
      );
      const entry = `${table} ${told.join(' | ')}`.replaceAll(String(place), '‹here›');
      // The server names a check that has no name after its column, or by a number.
      entries.push(table === 'CHECK_CONSTRAINTS' ? entry.replace(UNNAMED_CHECK, 'CONSTRAINT_NAME ‹none›') : entry);
    }
  }
  return entries.sort();
}

function asking(engine: Engine): (sql: string) => Promise<readonly (readonly unknown[])[]> {
  return async (sql) => {
    const read = await rawRows(engine, sql, {});
    if (!read.ok) throw new Error(`${read.problem.message}\n${sql}`);
    return read.value;
  };
}

import type { DeleteRule } from '../../core/notation/index.js';
import type { Check, Column, ForeignKey, Index, Table, TableTrigger, Unique } from '../../core/schema/index.js';
import { isNumbered } from '../../core/sql/index.js';
import type { Introspection } from '../engine.js';
import type { Connection } from '../server/connection.js';
import { plainStrings } from './plain-strings.js';

const RULES: readonly DeleteRule[] = ['cascade', 'restrict', 'set null', 'set default', 'no action'];

/** A row of a catalogue, by the columns' names. */
type Entry = Readonly<Record<string, string | null>>;

/** Asks a table of `information_schema` for columns of what is in one database; `?` in the rest is its name. */
type Ask = (columns: string, rest: string) => Promise<Entry[]>;

/** What the server says that makes a thing: a table, a trigger, a routine. */
type Show = (what: string, name: string, column: number) => Promise<string>;

/** The tables of the database in use, or of one by its name, as `information_schema` tells them (MariaDB, “Information Schema”). */
export async function introspect(connection: Connection, schemas: readonly string[] | null): Promise<Introspection> {
  const [about] = await connection.query('select version(), database()');
  const place = schemas?.[0] ?? String(about?.[1] ?? '');
  const ask: Ask = async (columns, rest) => {
    const names = columns.split(/,\s*/);
    const rows = await connection.query(`select ${columns} from information_schema.${rest}`, [place]);
    return rows.map((row) =>
      Object.fromEntries(names.map((name, index) => [name, row[index] === null ? null : String(row[index])])),
    );
  };
  const show: Show = async (what, name, column) => {
    const rows = await connection.query(`show create ${what} ${quote(place)}.${quote(name)}`);
    return String(rows[0]?.[column] ?? '').replace(/ DEFINER=`[^`]*`@`[^`]*`/, '');
  };
  const tables = await ask(
    'table_name, table_type, engine, table_collation, table_comment, create_options, row_format',
    'tables where table_schema = ? order by table_name',
  );
  const context = await contextOf(connection, ask, place);
  const triggers = await triggersByTable(ask, show);
  const made: Table[] = [];
  const statements = new Map<string, string>();
  const sequences: string[] = [];
  for (const table of tables) {
    const name = table.table_name ?? '';
    if (table.table_type === 'BASE TABLE' || table.table_type === 'SYSTEM VERSIONED') {
      const statement = await show('table', name, 1);
      statements.set(name, statement);
      made.push(tableOf(table, statement, triggers.get(name) ?? [], context));
    } else if (table.table_type === 'SEQUENCE') sequences.push(withoutSchema(await show('sequence', name, 1), place));
  }
  const routines = await ask('routine_type, routine_name', 'routines where routine_schema = ? order by routine_name');
  const prelude = [...sequences];
  for (const routine of routines)
    prelude.push(await show((routine.routine_type ?? '').toLowerCase(), routine.routine_name ?? '', 2));
  const events = await ask('event_name', 'events where event_schema = ? order by event_name');
  return {
    dialect: 'mariadb',
    schema: { prelude, tables: made, others: await viewsOf(ask, place) },
    statements,
    version: String(about?.[0] ?? ''),
    unreadable: events.map(({ event_name: event }) => `The event ${event} is not carried.`),
    choices: choicesOf(context.columns),
  };
}

/** What the catalogues say of columns, keys, indexes and checks, of all tables at once. */
async function contextOf(connection: Connection, ask: Ask, place: string): Promise<Context> {
  // Only newer servers can leave an index out of account (MariaDB 10.6, “Ignored Indexes”).
  const [ignoring] = await connection.query(
    "select count(*) from information_schema.columns where table_schema = 'information_schema' and table_name = 'STATISTICS' and column_name = 'IGNORED'",
  );
  const bytes = await connection.query(
    "select table_name, column_name, hex(column_default) from information_schema.columns where table_schema = ? and data_type in ('binary', 'varbinary') and column_default like '''%'",
    [place],
  );
  const [defaults] = await connection.query(
    'select default_collation_name from information_schema.schemata where schema_name = ?',
    [place],
  );
  return {
    place,
    columns: await ask(
      'table_name, column_name, column_type, is_nullable, column_default, collation_name, character_set_name, extra, generation_expression, column_comment',
      'columns where table_schema = ? order by table_name, ordinal_position',
    ),
    byteDefaults: new Map(bytes.map(([table, column, hex]) => [`${String(table)}\n${String(column)}`, String(hex)])),
    statistics: await ask(
      `table_name, index_name, non_unique, column_name, sub_part, collation, index_type${Number(ignoring?.[0]) > 0 ? ', ignored' : ''}`,
      'statistics where table_schema = ? order by table_name, index_name, seq_in_index',
    ),
    references: await ask(
      'table_name, constraint_name, delete_rule, update_rule, unique_constraint_schema, referenced_table_name',
      'referential_constraints where constraint_schema = ? order by table_name, constraint_name',
    ),
    keyColumns: await ask(
      'table_name, constraint_name, column_name, referenced_column_name',
      'key_column_usage where table_schema = ? and referenced_table_name is not null order by constraint_name, ordinal_position',
    ),
    checks: await ask(
      'table_name, constraint_name, level, check_clause',
      'check_constraints where constraint_schema = ? order by table_name, constraint_name',
    ),
    collation: String(defaults?.[0] ?? ''),
  };
}

async function triggersByTable(ask: Ask, show: Show): Promise<ReadonlyMap<string, readonly TableTrigger[]>> {
  const triggers = await ask('event_object_table, trigger_name', 'triggers where trigger_schema = ? order by trigger_name');
  const byTable = new Map<string, TableTrigger[]>();
  for (const trigger of triggers) {
    const table = trigger.event_object_table ?? '';
    const name = trigger.trigger_name ?? '';
    const written = { kind: 'written', name, sql: await show('trigger', name, 2) } as const;
    byTable.set(table, [...(byTable.get(table) ?? []), written]);
  }
  return byTable;
}

async function viewsOf(ask: Ask, place: string): Promise<string[]> {
  const views = await ask(
    'table_name, view_definition, algorithm, security_type, check_option',
    'views where table_schema = ? order by table_name',
  );
  return views.map(
    (view) =>
      `${viewHead(view)} ${quote(view.table_name ?? '')} as ${withoutSchema(view.view_definition ?? '', place)}${checkOption(view)}`,
  );
}

/** The lists of values that columns are of, each once. */
function choicesOf(columns: readonly Entry[]): Introspection['choices'] {
  const choices = columns.flatMap((column) => {
    const values = enumValues(column.column_type ?? '');
    return values === null ? [] : [{ name: column.column_type ?? '', values }];
  });
  return choices.filter(({ name }, index) => choices.findIndex((other) => other.name === name) === index);
}

function quote(name: string): string {
  return `\`${name.replaceAll('`', '``')}\``;
}

/** How a view is made, where that is not what the server does of itself (MariaDB, “CREATE VIEW”). */
function viewHead({ algorithm, security_type: security }: Entry): string {
  const by = algorithm === 'UNDEFINED' || algorithm == null ? '' : ` algorithm=${algorithm.toLowerCase()}`;
  return `create${by}${security === 'INVOKER' ? ' sql security invoker' : ''} view`;
}

function checkOption({ check_option: option }: Entry): string {
  return option === 'NONE' || option == null ? '' : ` with ${option.toLowerCase()} check option`;
}

interface Context {
  readonly place: string;
  readonly columns: readonly Entry[];
  /** What stands as the default of columns of bytes, in hexadecimal: its text could not hold it. */
  readonly byteDefaults: ReadonlyMap<string, string>;
  readonly statistics: readonly Entry[];
  readonly references: readonly Entry[];
  readonly keyColumns: readonly Entry[];
  readonly checks: readonly Entry[];
  /** That of the database, which a table has unless it says otherwise. */
  readonly collation: string;
}

function tableOf(table: Entry, statement: string, triggers: readonly TableTrigger[], context: Context): Table {
  const name = table.table_name ?? '';
  const own = (entries: readonly Entry[]) => entries.filter((entry) => entry.table_name === name);
  const columns = own(context.columns).map((entry) => {
    const hex = context.byteDefaults.get(`${name}\n${entry.column_name}`);
    const stated = hex === undefined ? entry : { ...entry, column_default: bytesLiteral(hex) };
    return columnOf(stated, table.table_collation ?? null);
  });
  const groups = new Map<string, Entry[]>();
  for (const entry of own(context.statistics))
    groups.set(entry.index_name ?? '', [...(groups.get(entry.index_name ?? '') ?? []), entry]);
  const uniques: Unique[] = [];
  const indexes: Index[] = [];
  const references = own(context.references);
  const foreignKeys = references.map((entry) => foreignKeyOf(entry, context));
  for (const [index, entries] of groups) {
    if (index === 'PRIMARY') continue;
    const names = entries.map((entry) => entry.column_name ?? '');
    const unique = entries[0]?.non_unique === '0';
    // A unique over a long text is kept by hashes, whatever its statement says; it holds the whole of it all the same.
    const method = (type: string | null | undefined) => type === 'BTREE' || (unique && type === 'HASH');
    // Of a table in memory it is the hash that goes without saying, and a tree that is asked for.
    const usual = (type: string | null | undefined) => (table.engine === 'MEMORY' ? type === 'HASH' : method(type));
    const plain = entries.every(
      (entry) =>
        entry.sub_part === null && entry.collation !== 'D' && usual(entry.index_type) && (entry.ignored ?? 'NO') === 'NO',
    );
    if (plain && !unique && foreignKeys.some((key) => isMadeFor(key, index, names))) continue;
    if (plain && unique) uniques.push({ name: index === names[0] ? null : index, columns: names });
    else indexes.push({ name: index, columns: names, unique, sql: plain ? null : indexSql(name, index, statement) });
  }
  const primary = groups.get('PRIMARY') ?? [];
  // A key over a part of a text tells no rows apart for anybody else.
  const isWhole = primary.every((entry) => entry.sub_part === null);
  // A column that counts must stand first in some key from the start.
  const counting = columns.find(({ type }) => isNumbered(type))?.name;
  const firsts = [primary[0]?.column_name, ...uniques.map((unique) => unique.columns[0])];
  const needed = firsts.includes(counting) ? undefined : indexes.find(({ columns: [first] }) => first === counting);
  const quoted = (names: readonly string[]) => names.map((part) => `\`${part.replaceAll('`', '``')}\``).join(', ');
  return {
    name: { schema: null, name },
    columns,
    primaryKey: {
      columns: isWhole ? primary.map((entry) => entry.column_name ?? '') : [],
      name: null,
      autoincrement: false,
    },
    foreignKeys,
    uniques,
    checks: own(context.checks).map((entry) => checkOf(entry, name)),
    indexes: indexes.filter((index) => index !== needed),
    constraints: needed === undefined ? [] : [`key ${quoted([needed.name])} (${quoted(needed.columns)})`],
    options: optionsOf(table, statement, context.collation),
    triggers,
    statement: null,
    comment: table.table_comment === '' ? null : (table.table_comment ?? null),
  };
}

/** The engine makes an index for each foreign key that has none: under the key's name, or its first column's. */
function isMadeFor({ name, columns }: ForeignKey, index: string, indexed: readonly string[]): boolean {
  return columns.join('\n') === indexed.join('\n') && index === (name ?? columns[0]);
}

function columnOf(entry: Entry, tableCollation: string | null): Column {
  const extra = entry.extra ?? '';
  const generated =
    entry.generation_expression === null
      ? null
      : { sql: plainStrings(entry.generation_expression ?? ''), stored: /STORED/i.test(extra) };
  const onUpdate = /on update (\S+)/i.exec(extra)?.[0];
  const charset = entry.collation_name !== null && entry.collation_name !== tableCollation ? entry.character_set_name : null;
  const value = generated === null ? (entry.column_default ?? null) : null;
  const isNullDefault = value === 'NULL' && onUpdate === undefined;
  return {
    name: entry.column_name ?? '',
    type: [
      entry.column_type ?? '',
      ...(charset === null ? [] : [`character set ${charset}`]),
      ...(/auto_increment/i.test(extra) ? ['auto_increment'] : []),
      ...(/invisible/i.test(extra) ? ['invisible'] : []),
    ].join(' '),
    notNull: entry.is_nullable === 'NO',
    default:
      isNullDefault || value === null
        ? onUpdate === undefined
          ? null
          : `NULL ${onUpdate}`
        : [value, onUpdate ?? ''].join(' ').trim(),
    collation: charset === null ? null : (entry.collation_name ?? null),
    generated,
    comment: entry.column_comment === '' ? null : (entry.column_comment ?? null),
  };
}

/** The bytes of a quoted text as a literal of SQL: what stands between its quotes, and what is escaped in it. */
function bytesLiteral(hex: string): string {
  const inner = Buffer.from(hex, 'hex').toString('latin1').slice(1, -1);
  const ESCAPED: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', '0': '\0', Z: '\x1a', b: '\b' };
  const plain = inner.replace(/\\([\s\S])|''/g, (pair, letter?: string) =>
    pair === "''" ? "'" : (ESCAPED[letter ?? ''] ?? letter ?? ''),
  );
  return `x'${Buffer.from(plain, 'latin1').toString('hex')}'`;
}

function foreignKeyOf(entry: Entry, { keyColumns, place }: Context): ForeignKey {
  const name = entry.constraint_name ?? '';
  const own = keyColumns.filter((key) => key.constraint_name === name && key.table_name === entry.table_name);
  const rule = (written: string | null | undefined) => RULES.find((known) => known === written?.toLowerCase()) ?? 'no action';
  // RESTRICT is what it says where nothing is stated; the two do the same there.
  const plain = (found: DeleteRule) => (found === 'restrict' ? 'no action' : found);
  return {
    name: new RegExp(`^${escaped(entry.table_name ?? '')}_ibfk_\\d+$`).test(name) ? null : name,
    columns: own.map((key) => key.column_name ?? ''),
    table: entry.referenced_table_name ?? '',
    schema: entry.unique_constraint_schema === place ? null : (entry.unique_constraint_schema ?? null),
    references: own.map((key) => key.referenced_column_name ?? ''),
    onDelete: plain(rule(entry.delete_rule)),
    onUpdate: plain(rule(entry.update_rule)),
    deferred: false,
    sql: null,
  };
}

function checkOf(entry: Entry, table: string): Check {
  const name = entry.constraint_name ?? '';
  const unnamed = entry.level === 'Column' || /^CONSTRAINT_\d+$/.test(name) || name === table;
  return { name: unnamed ? null : name, expression: plainStrings(entry.check_clause ?? '') };
}

/** An index that has more to it than columns, as the table's statement has it. */
function indexSql(table: string, index: string, statement: string): string {
  const quoted = `\`${index.replaceAll('`', '``')}\``;
  const line = statement.split('\n').find((candidate) => /KEY `/.test(candidate) && candidate.includes(`KEY ${quoted} `)) ?? '';
  const [, kind = '', rest = ''] = /^\s*(UNIQUE |FULLTEXT |SPATIAL )?KEY `(?:[^`]|``)+` (.*?),?$/.exec(line) ?? [];
  return `create ${kind.toLowerCase()}index ${quoted} on \`${table.replaceAll('`', '``')}\` ${rest}`;
}

/** What stands behind the bracket of a table's statement, but for its count and its comment. */
function optionsOf(table: Entry, statement: string, collation: string): string[] {
  const tail = /\n\) (.*)$/s.exec(statement)?.[1] ?? '';
  const engine = table.engine === 'InnoDB' || table.engine === null ? [] : [`engine=${table.engine}`];
  const own =
    table.table_collation === null || table.table_collation === collation ? [] : [charsetOf(table.table_collation ?? '')];
  const format = /ROW_FORMAT=\w+/.exec(tail)?.[0];
  const partitions = /(?:\/\*!\d+ ?)?\s*(PARTITION BY[\s\S]*?)(?:\*\/)?$/.exec(tail)?.[1]?.trim();
  const versioned = table.table_type === 'SYSTEM VERSIONED' ? ['with system versioning'] : [];
  return [
    ...engine,
    ...own,
    ...(format === undefined ? [] : [format]),
    ...versioned,
    ...(partitions === undefined ? [] : [partitions]),
  ];
}

function charsetOf(collation: string): string {
  return `default character set ${collation.split('_')[0] ?? ''} collate ${collation}`;
}

function withoutSchema(sql: string, place: string): string {
  return sql.replaceAll(`\`${place}\`.`, '');
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}

function enumValues(type: string): string[] | null {
  const inner = /^enum\((.*)\)$/s.exec(type)?.[1];
  return inner === undefined
    ? null
    : Array.from(inner.matchAll(/'((?:[^']|'')*)'/g), (match) => (match[1] ?? '').replaceAll("''", "'"));
}

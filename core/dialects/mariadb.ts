import type { Check, Schema, Table } from '../schema/index.js';
import { call, not, sqlTokens, type Trigger } from '../sql/index.js';
import { mariadbValues } from '../values/index.js';
import { mariadbConversions } from './conversions.js';
import { ddlOf, schemasOf } from './ddl.js';
import type { Dialect } from './dialect.js';
import { mariadbExact } from './exact.js';
import { precedenceOf } from './precedence.js';
import { indented, nested, ordered, printChange, printExpression, printQuery, type Spelling } from './printer.js';
import { rowsInOneInsert } from './rows-in-one-insert.js';
import { type PrintedTrigger, triggerPrinter } from './triggers.js';

/** Words that MariaDB reads as its own (MariaDB, “Reserved Words”). */
const KEYWORDS = new Set(
  `accessible add all alter analyze and as asc asensitive before between bigint binary blob both by call cascade case change char
  character check collate column condition constraint continue convert create cross current_date current_role current_time
  current_timestamp current_user cursor database databases day_hour day_microsecond day_minute day_second dec decimal declare default
  delayed delete desc describe deterministic distinct distinctrow div do_domain_ids double drop dual each else elseif enclosed escaped
  except exists exit explain false fetch float float4 float8 for force foreign from fulltext general grant group having
  high_priority hour_microsecond hour_minute hour_second if ignore ignore_domain_ids ignore_server_ids in index infile inner inout
  insensitive insert int int1 int2 int3 int4 int8 integer intersect interval into is iterate join key keys kill leading leave left
  like limit linear lines load localtime localtimestamp lock long longblob longtext loop low_priority master_heartbeat_period
  master_ssl_verify_server_cert match maxvalue mediumblob mediumint mediumtext middleint minute_microsecond minute_second mod
  modifies natural not no_write_to_binlog null numeric offset on optimize option optionally or order out outer outfile over
  page_checksum parse_vcol_expr partition precision primary procedure purge range read reads read_write real recursive references
  ref_system_id regexp release rename repeat replace require resignal restrict return returning revoke right rlike row_number rows
  schema schemas second_microsecond select sensitive separator set show signal slow smallint spatial specific sql sqlexception
  sqlstate sqlwarning sql_big_result sql_calc_found_rows sql_small_result ssl starting stats_auto_recalc stats_persistent
  stats_sample_pages straight_join table terminated then tinyblob tinyint tinytext to trailing trigger true undo union unique unlock
  unsigned update usage use using utc_date utc_time utc_timestamp values varbinary varchar varcharacter varying when where while
  window with write xor year_month zerofill`.split(/\s+/),
);

/** The one place that quotes names for MariaDB: bare where that reads the same, in back quotes otherwise. */
function quote(name: string): string {
  return /^[a-z_][a-z0-9_]*$/.test(name) && !KEYWORDS.has(name) ? name : `\`${name.replaceAll('`', '``')}\``;
}

/** A backslash escapes in a text there, in the default `sql_mode`. */
function string(value: string): string {
  return `'${value.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`;
}

const spelling: Spelling = {
  quote,
  // The driver writes the list out, value by value.
  inKeys: (operand, parameter) => `${operand} in (${parameter})`,
  inKeyTuples: (operand, types, parameter) => {
    const columns = types.map((type, part) => `k${part} ${type} path '$[${part}]'`).join(', ');
    const names = types.map((_, part) => `k${part}`).join(', ');
    return `${operand} in (select ${names} from json_table(${parameter}, '$[*]' columns (${columns})) k)`;
  },
  keys: (parameter, type, alias) => `json_table(${parameter}, '$[*]' columns (value ${type} path '$')) ${alias}`,
  jsonRows: (lists, orderBy) => `json_arrayagg(${nested('json_array', lists)}${ordered(orderBy)})`,
  keyPart: (parameter, part) => `json_value(${parameter}, '$[${part}]')`,
  string,
  bytes: (hex) => `x'${hex}'`,
  boolean: String,
  concat: 'concat',
  // MariaDB, “Operator Precedence”; `is true` stands above `not` there, below all other comparisons.
  precedence: precedenceOf([
    ['or'],
    ['and'],
    ['not'],
    ['is true'],
    ['between'],
    ['=', '<>', '<', '<=', '>', '>=', 'is null', 'in', 'like'],
    ['+', '-'],
    ['*', '/', '%', 'div'],
    ['||', '->'],
    ['negate'],
  ]),
  countDistinct: (parts) => `count(distinct ${parts.join(', ')})`,
  tuples: (items) => `(${items.join(', ')})`,
  nulls: () => '',
  collate: (operand, collation) => `${operand} collate ${collation}`,
  schemas: true,
  placeholder: () => '?',
  // A plain select sees what stood there when the transaction began (MariaDB, “InnoDB Lock Modes”).
  lock: () => 'lock in share mode',
  emptyRow: '() values ()',
  givenKeys: '',
  noLimit: '18446744073709551615',
};

const triggers = triggerPrinter(spelling, writtenTrigger);

/** How much of a text without a length an index takes. */
const INDEXED = 191;

const ddl = ddlOf({
  quote,
  columnTail: ({ comment }) => (comment === null ? '' : ` comment ${string(cut(comment, 1024))}`),
  tableTail: ({ options, comment }) => {
    const all = [...options, ...(comment === null ? [] : [`comment = ${string(cut(comment, 2048))}`])];
    return all.length === 0 ? '' : ` ${all.join(' ')}`;
  },
  indexColumn: (table, column) => {
    const type = table.columns.find(({ name }) => name === column)?.type ?? '';
    return /^(tiny|medium|long)?(text|blob)$/i.test(type) ? `${quote(column)}(${INDEXED})` : quote(column);
  },
  defers: false,
  checksOf: (table) => table.checks.filter((check) => !touchesMovedColumn(table, check)),
});

export const mariadbDialect: Dialect = {
  name: 'mariadb',
  title: 'MariaDB',
  powers: {
    // MariaDB, “BLOB and TEXT Data Types”.
    indexesText: 'its beginning',
    exactNumbers: true,
    // MariaDB, “Identifier Names”: a longer one is refused.
    longestName: { most: 64, unit: 'characters' },
    keepsKeysForAll: true,
    // MariaDB, “Foreign Keys”: it is taken, and dropped without a word.
    setsDefault: false,
    carriesWithinTable: false,
  },
  values: mariadbValues,
  comments: true,
  correlates: false,
  conversions: mariadbConversions,
  exact: mariadbExact,
  recursesOnce: false,
  doubleQuoted: 'text',
  limitsEach: 'by number',
  defers: false,
  cascadesFireTriggers: false,
  triggersRestOnSession: false,
  tableOptions: ['default character set utf8mb4 collate utf8mb4_nopad_bin'],
  quote,
  trigger: (trigger) => triggers.statements(trigger),
  print: (expression) => printExpression(expression, spelling),
  printQuery: (query) => printQuery(query, spelling),
  // A view cannot ask for a variable, but for what a function gives (MariaDB, “CREATE VIEW”).
  atWork: {
    made: [
      'create function at_work() returns varchar(255) charset utf8mb4 collate utf8mb4_nopad_bin not deterministic no sql return @at_work',
    ],
    asked: 'at_work()',
    said: "set @at_work = '…'",
    says: (key) => [`set @at_work = ${key === null ? 'null' : string(key)}`],
    stays: true,
    view: 'create view',
  },
  policies: null,
  printChange: (change) => printChange(change, spelling),
  countOnAfter: () => null,
  rowsInOneInsert,
  columnParts: ddl.columnParts,
  foreignKey: ddl.foreignKey,
  scriptHead: () => 'set names utf8mb4 collate utf8mb4_nopad_bin;\n',
  // Its shell ends a statement at any semicolon unless it is told of another end.
  ended: (statement) => (/;/.test(statement) ? `delimiter //\n${statement}\n//\ndelimiter ;` : `${statement};`),
  createStatements(schema) {
    const { before, after } = steps(schema);
    return [...before, ...after];
  },
  steps,
};

/** A trigger there is for all columns; what it does looks whether one has changed (MariaDB, “Trigger Overview”). */
function writtenTrigger({ name, table, timing, event, columns, when, actions }: PrintedTrigger): string[] {
  const changed = columns.map((column) => `not new.${quote(column)} <=> old.${quote(column)}`).join(' or ');
  const guards = [...(changed === '' ? [] : [`(${changed})`]), ...(when === null ? [] : [`(${when})`])];
  const body = actions.map((action) =>
    action.kind === 'run'
      ? `  ${action.sql};`
      : `  if ${action.when} then\n    signal sqlstate '23000' set message_text = ${string(cut(action.message, 128))};\n  end if;`,
  );
  const head = `create trigger ${quote(name)} ${timing} ${event} on ${ddl.tableName(table)} for each row`;
  const lines = body.join('\n');
  // A check of somebody else's, in whose texts lines may end, has no guard, and stays as it is.
  const guarded = guards.length === 0 ? lines : `  if ${guards.join(' and ')} then\n${indented(lines)}\n  end if;`;
  return [`${head} begin\n${guarded}\nend`];
}

function steps(schema: Schema): { before: string[]; after: string[] } {
  const { tables, prelude, others } = schema;
  return {
    before: [
      ...schemasOf(schema).map((name) => `create database if not exists ${quote(name)}`),
      ...prelude,
      ...tables.map(ddl.table),
      // A row that breaks one is then refused by itself.
      ...tables.flatMap((table) => ddl.indexes(table, true)),
    ],
    after: [
      ...tables.flatMap((table) => ddl.indexes(table, false)),
      ...tables.flatMap(ddl.lateConstraints),
      ...tables.flatMap((table) => table.foreignKeys.map((key) => ddl.addForeignKey(table, key))),
      ...tables.flatMap(checkTriggers).flatMap(triggers.statements),
      ...others,
      ...triggers.ofSchema(schema),
    ],
  };
}

/** MariaDB refuses a check over a column that a foreign key's rule changes (its error 1901); triggers hold it there. */
function touchesMovedColumn(table: Table, check: Check): boolean {
  const moved = table.foreignKeys
    .filter(({ onDelete, onUpdate }) => onDelete === 'set null' || onUpdate === 'cascade' || onUpdate === 'set null')
    .flatMap(({ columns }) => columns.map(bareName));
  return sqlTokens(check.expression).some((token) => moved.includes(bareName(token.text)));
}

function checkTriggers(table: Table): Trigger[] {
  return table.checks
    .filter((check) => touchesMovedColumn(table, check))
    .flatMap((check, index) => {
      const name = check.name ?? `${table.name.name}_check_${index + 1}`;
      const condition = { kind: 'written', sql: onNewRow(table, check.expression) } as const;
      // A check lets through what is unknown.
      const when = not(call('coalesce', condition, { kind: 'boolean', value: true }));
      return (['insert', 'update'] as const).map(
        (event): Trigger => ({
          name: cut(`${name}_${event}`, 64),
          table: table.name,
          timing: 'before',
          event,
          columns: [],
          when: null,
          actions: [{ kind: 'refuse', when, message: `CONSTRAINT ${quote(name)} failed` }],
        }),
      );
    });
}

/** A condition over a row's columns, as a trigger says it of the row that is coming. */
function onNewRow(table: Table, expression: string): string {
  const columns = new Set(table.columns.map(({ name }) => name));
  let written = '';
  let at = 0;
  for (const token of sqlTokens(expression)) {
    if ((token.kind === 'word' || token.kind === 'quoted') && columns.has(bareName(token.text))) {
      written += `${expression.slice(at, token.start)}new.`;
      at = token.start;
    }
  }
  return written + expression.slice(at);
}

function bareName(text: string): string {
  return text.startsWith('`') ? text.slice(1, -1).replaceAll('``', '`') : text;
}

function cut(text: string, length: number): string {
  return text.length > length ? `${text.slice(0, length - 1)}…` : text;
}

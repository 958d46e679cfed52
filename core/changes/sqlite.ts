import type { Table } from '../schema/index.js';
import { triggerName } from '../schema/index.js';
import { type Select, sqlName, sqlTokens, type TableName } from '../sql/index.js';
import { writtenPlace } from './answers.js';
import type { Aside } from './aside.js';
import { asideKey } from './asides.js';
import type { TableChange } from './compare.js';
import type { Operation } from './operation.js';
import { tableKey } from './pairs.js';
import type { ShapedColumn, TableShape } from './shaping.js';
import type { Merges, Strategy, Working } from './working.js';

/**
 * SQLite alters little: it renames, and adds columns that ask nothing of the rows that are there
 * (https://www.sqlite.org/lang_altertable.html, as 3.40 has it). A table that changes otherwise is made anew, and its rows are
 * copied: the old one is called otherwise first, so that the statement which makes the new one is the design's own.
 *
 * The session has `foreign_keys` off, which a transaction cannot change, and `legacy_alter_table` on but for renames that are to
 * be followed.
 */
export const sqliteStrategy: Strategy = (working) => {
  const { dialect, difference } = working;
  const { made, gone, changed, others } = difference;
  const plain = working.shapes((table) => table);
  const shapeOf = (change: TableChange) => plain.find(({ pair }) => pair.before === change.before);
  const anew = changed.filter((change) => isMadeAnew(working, change, shapeOf(change)));
  const light = changed.filter((change) => !anew.includes(change));
  const nowNamed = new Map(changed.map(({ before, after }) => [tableKey(before.name), after.name]));
  const away = new Map(anew.map(({ before, after }) => [tableKey(before.name), awayName(working, after.name)]));
  const placed = (table: TableName) => away.get(tableKey(table)) ?? nowNamed.get(tableKey(table)) ?? table;
  const shapes = working.shapes(placed);
  const make = (table: Table) =>
    dialect.createStatements({ prelude: [], tables: [{ ...working.stated(table), indexes: [], triggers: [] }], others: [] });
  const parts = (table: Table) => {
    const bare = dialect.createStatements({ prelude: [], tables: [table], others: [] });
    return bare.slice(make(table).length);
  };
  return [
    ...changed.flatMap((change) =>
      change.triggers.gone.map((trigger) =>
        define(`drop trigger ${dialect.quote(triggerName(trigger))}`, change.after.name, 'a trigger goes'),
      ),
    ),
    ...others.gone.toReversed().map((sql) => define(dropOf(working, sql), null, 'what stands beside the tables goes')),
    ...renames(working),
    // All of them before any rows go.
    ...working.merges((table) => nowNamed.get(tableKey(table)) ?? table).flatMap((merges) => merging(working, merges)),
    ...light.flatMap((change) =>
      change.indexes.gone.map(({ name }) => define(`drop index ${dialect.quote(name)}`, change.after.name, 'an index goes')),
    ),
    ...anew.map(({ before, after }) =>
      define(
        `alter table ${quoted(working, after.name)} rename to ${quoted(working, placed(before.name))}`,
        after.name,
        'the table is made anew, beside its rows',
      ),
    ),
    ...[...anew.map(({ after }) => after), ...made.flatMap(({ after }) => after ?? [])].flatMap((table) =>
      make(table).map((sql) => define(sql, table.name, 'the table as it is to be')),
    ),
    ...made.flatMap(({ after }) => (after === null ? [] : filled(working, after, placed))),
    ...working.asides(placed).flatMap((kept) => keptAside(working, kept)),
    ...madeForOthers(working, placed),
    ...anew.flatMap((change) => copied(working, change, shapes, placed)),
    ...[...made.flatMap(({ after }) => after ?? []), ...anew.map(({ after }) => after)].flatMap((table) =>
      returned(working, table),
    ),
    ...anew.map(({ before, after }) =>
      define(`drop table ${quoted(working, placed(before.name))}`, after.name, 'its rows are copied'),
    ),
    ...working.merges(placed).map(({ of, table }) => define(`drop table ${quoted(working, table)}`, of, 'they have become one')),
    ...gone.map(({ name }) => define(`drop table ${quoted(working, name)}`, name, 'the table goes')),
    ...light.flatMap((change) =>
      change.made.map((pair) => define(addColumn(working, change, pair.after?.name ?? ''), change.after.name, 'a column is new')),
    ),
    ...light.flatMap((change) =>
      partsMade(change).flatMap((table) => parts(table).map((sql) => define(sql, table.name, 'what stands on the table'))),
    ),
    ...others.made.map((sql) => define(sql, null, 'what stands beside the tables')),
    ...[...made.flatMap(({ after }) => after ?? []), ...anew.map(({ after }) => after)].flatMap((table) =>
      parts(table).map((sql) => define(sql, table.name, 'what stands on the table')),
    ),
  ];
};

/** What goes is kept in a table of its own. */
function keptAside(working: Working, { aside, select }: { readonly aside: Aside; readonly select: Select }): Operation[] {
  const { dialect } = working;
  const table = quoted(working, aside.aside);
  const key = asideKey(aside);
  return [
    define(`create table ${table} as\n${dialect.printQuery(select)}`, aside.table, 'what goes is kept aside'),
    ...(key.length === 0
      ? []
      : [
          define(
            `create unique index ${dialect.quote(`${aside.aside.name}_key`)} on ${table} (${key.map(dialect.quote).join(', ')})`,
            aside.table,
            'so that it is found',
          ),
        ]),
  ];
}

/** Rows that are made, so that others have something to point at: their values are kept aside, and taken from there. */
function madeForOthers(working: Working, placed: (table: TableName) => TableName): Operation[] {
  const { dialect } = working;
  const kept = working.asides(placed).flatMap(({ aside }) => (aside.kind === 'made' ? [aside] : []));
  return working.madeRows(placed).flatMap(({ of, column, tableAfter }, at): Operation[] => {
    const from = kept[at];
    if (from === undefined) return [];
    const sql = `insert into ${quoted(working, placed(of.name))} (${dialect.quote(column)})\nselect made from ${quoted(working, from.aside)}`;
    return [{ kind: 'rows', table: writtenPlace(tableAfter), what: 'rows that others point at', sql }];
  });
}

/** Rows that went come back. */
function returned(working: Working, table: Table): Operation[] {
  const { dialect } = working;
  return working.returning(table).map(({ columns, select }) => ({
    kind: 'rows',
    table: writtenPlace(table.name),
    what: 'rows that went come back',
    sql: `insert into ${dialect.quote(table.name.name)} (${columns.map(dialect.quote).join(', ')})\n${dialect.printQuery(select)}`,
  }));
}

/** Notes which rows become one with which, before any of them goes. */
function merging(working: Working, { of, table, selects }: Merges): Operation[] {
  const { dialect } = working;
  const name = quoted(working, table);
  const [first, ...more] = selects;
  if (first === undefined) return [];
  const columns = first.columns.flatMap(({ as }) => as ?? []);
  const gone = columns.filter((column) => column.startsWith('gone_'));
  const stays = columns.filter((column) => column.startsWith('stays_'));
  const same = gone.map((column, at) => `next.${column} = ${name}.${stays[at]}`).join(' and ');
  const list = columns.map(dialect.quote).join(', ');
  return [
    define(`create table ${name} as\n${dialect.printQuery(first)}`, of, 'which rows become one with which'),
    define(
      `create unique index ${dialect.quote(`${table.name}_gone`)} on ${name} (${gone.join(', ')})`,
      of,
      'so that they are found',
    ),
    ...more.flatMap((select): Operation[] => [
      {
        kind: 'rows',
        table: writtenPlace(of),
        what: 'which rows become one with which',
        sql: `insert into ${name} (${list})\n${dialect.printQuery(select)}`,
      },
      {
        kind: 'rows',
        table: writtenPlace(of),
        what: 'one that another became goes on to the next',
        sql: `update ${name} set ${stays.map((column) => `${column} = (select next.${column} from ${name} next where ${same})`).join(', ')}\nwhere exists (select 1 from ${name} next where ${same})`,
      },
    ]),
  ];
}

function define(sql: string, table: TableName | null, what: string): Operation {
  return { kind: 'define', sql, what, table: table === null ? null : writtenPlace(table) };
}

function quoted({ dialect }: Working, { name }: TableName): string {
  return dialect.quote(name);
}

/** A name that no table has. */
function awayName({ before, after }: Working, { schema, name }: TableName): TableName {
  const taken = new Set([...before.tables, ...after.tables].map((table) => table.name.name.toLowerCase()));
  let free = `${name}_as_it_was`;
  for (let number = 2; taken.has(free.toLowerCase()); number++) free = `${name}_as_it_was_${number}`;
  return { schema, name: free };
}

/** Whether a change is more than SQLite can do to a table that stands. */
function isMadeAnew(working: Working, change: TableChange, shape: TableShape | undefined): boolean {
  const { after, made } = change;
  const changesRows =
    shape !== undefined && (shape.leftOut.length + shape.mergedAway.length > 0 || shape.columns.some(isGivenValues));
  const parts = [change.uniques, change.foreignKeys, change.constraints];
  return (
    changesRows ||
    working.returning(change.after).length > 0 ||
    change.gone.length > 0 ||
    change.changed.some((column) => column.type || column.notNull || column.default || column.collation || column.generated) ||
    change.primaryKey ||
    change.options ||
    change.statement ||
    parts.some((one) => one.gone.length + one.made.length > 0) ||
    change.checks.gone.length > 0 ||
    renamesInText(change) ||
    made.some(({ after: column }) => column === null || !isAddable(change, column.name)) ||
    change.checks.made.some(
      (check) => made.filter((pair) => speaksOnlyOf(after, check.expression, pair.after?.name ?? '')).length !== 1,
    )
  );
}

/** Whether a column is given values that the engine does not give it by itself. */
function isGivenValues({ carried, pair, value }: ShapedColumn): boolean {
  return !carried && !(pair.before === null && (value.kind === 'null' || value.kind === 'written'));
}

/** A renamed column that SQL speaks of would be written there in another way than the design has it. */
function renamesInText({ changed, after }: TableChange): boolean {
  const named = changed.filter((column) => column.renamed).map((column) => column.after.name.toLowerCase());
  if (named.length === 0) return false;
  const texts = [
    ...after.checks.map(({ expression }) => expression),
    ...after.indexes.flatMap(({ sql }) => sql ?? []),
    ...after.columns.flatMap(({ generated }) => generated?.sql ?? []),
    ...after.constraints,
  ];
  return texts.some((sql) => Array.from(namesOf(sql)).some((name) => named.includes(name)));
}

function namesOf(sql: string): ReadonlySet<string> {
  return new Set(
    sqlTokens(sql).flatMap((token) => (token.kind === 'word' || token.kind === 'quoted' ? [sqlName(token).toLowerCase()] : [])),
  );
}

/** Whether a condition speaks of one column of its table, and of no other. */
function speaksOnlyOf({ columns }: Table, expression: string, name: string): boolean {
  const spoken = namesOf(expression);
  return spoken.has(name.toLowerCase()) && columns.every((other) => other.name === name || !spoken.has(other.name.toLowerCase()));
}

/** A column that asks nothing of the rows that are there: optional without a default, or with one that is a literal. */
function isAddable({ after, made }: TableChange, name: string): boolean {
  const pair = made.find((one) => one.after?.name === name);
  const column = pair?.after;
  if (column == null || pair?.movedFrom !== null) return false;
  if (column.generated !== null || after.primaryKey.columns.includes(name)) return false;
  const literal = column.default !== null && /^(?:[-+]?\d+(?:\.\d+)?|'(?:[^']|'')*')$/.test(column.default);
  return column.notNull ? literal : column.default === null || literal;
}

function addColumn({ dialect }: Working, { after, checks }: TableChange, name: string): string {
  const [line = ''] = dialect.columnParts({ ...after, uniques: [], foreignKeys: [], indexes: [] }, [name]);
  const own = checks.made
    .filter(({ expression }) => speaksOnlyOf(after, expression, name))
    .map((check) => `${check.name === null ? '' : ` constraint ${dialect.quote(check.name)}`} check (${check.expression})`);
  return `alter table ${dialect.quote(after.name.name)} add column ${line}${own.join('')}`;
}

/** Renames are followed by all that speaks of what is renamed, keys of other tables too. */
function renames(working: Working): Operation[] {
  const { dialect, paired } = working;
  const pairs = paired.tables.flatMap(({ before, after, columns }) =>
    before === null || after === null ? [] : [{ before, after, columns }],
  );
  const operations = pairs.flatMap(({ before, after, columns }) => {
    const table = dialect.quote(after.name.name);
    return [
      ...(tableKey(before.name) === tableKey(after.name)
        ? []
        : [
            define(`alter table ${dialect.quote(before.name.name)} rename to ${table}`, after.name, 'the table has another name'),
          ]),
      ...columns.flatMap((pair) =>
        pair.before === null || pair.after === null || pair.before.name === pair.after.name
          ? []
          : [
              define(
                `alter table ${table} rename column ${dialect.quote(pair.before.name)} to ${dialect.quote(pair.after.name)}`,
                after.name,
                'the column has another name',
              ),
            ],
      ),
    ];
  });
  if (operations.length === 0) return [];
  const followed = (state: 'on' | 'off') => define(`pragma legacy_alter_table = ${state}`, null, 'whether renames are followed');
  return [followed('off'), ...operations, followed('on')];
}

/** The rows of a table that was made anew. */
function copied(
  working: Working,
  { before, after }: TableChange,
  shapes: readonly TableShape[],
  placed: (table: TableName) => TableName,
): Operation[] {
  const { dialect } = working;
  const shape = shapes.find(({ pair }) => pair.before === before);
  if (shape === undefined) return [];
  const table = writtenPlace(after.name);
  // Without a key its rows are told apart by their numbers, which they keep.
  const numbered = after.primaryKey.columns.length === 0 && !after.options.some((option) => /^without\s+rowid$/i.test(option));
  const columns = shape.columns.map(({ column }) => dialect.quote(column.name));
  const select = dialect.printQuery(working.rows(shape, placed));
  const into = `insert into ${dialect.quote(after.name.name)}`;
  const rows: Operation = {
    kind: 'rows',
    table,
    what: 'its rows',
    sql: numbered
      ? `${into} (rowid, ${columns.join(', ')})\n${select.replace(/^select /, `select ${dialect.quote(before.name.name)}.rowid, `)}`
      : `${into} (${columns.join(', ')})\n${select}`,
  };
  if (!after.primaryKey.autoincrement || !before.primaryKey.autoincrement) return [rows];
  // A number that was once given is never given again.
  const name = `'${after.name.name.replaceAll("'", "''")}'`;
  const old = `'${placed(before.name).name.replaceAll("'", "''")}'`;
  return [
    rows,
    { kind: 'rows', table, what: 'its numbers go on', sql: `delete from sqlite_sequence where name = ${name}` },
    {
      kind: 'rows',
      table,
      what: 'its numbers go on',
      sql: `insert into sqlite_sequence (name, seq) select ${name}, seq from sqlite_sequence where name = ${old}`,
    },
  ];
}

/** The rows that a new table begins with. */
function filled(working: Working, table: Table, placed: (table: TableName) => TableName): Operation[] {
  const rows = working.firstRows(table, placed);
  if (rows === null) return [];
  const columns = rows.columns.map(working.dialect.quote).join(', ');
  const sql = `insert into ${working.dialect.quote(table.name.name)} (${columns})\n${working.dialect.printQuery(rows.select)}`;
  return [{ kind: 'rows', table: writtenPlace(table.name), what: 'its first rows', sql }];
}

/** What a table that stands is given. */
function partsMade({ after, indexes, triggers }: TableChange): Table[] {
  return indexes.made.length + triggers.made.length === 0 ? [] : [{ ...after, indexes: indexes.made, triggers: triggers.made }];
}

/** The statement that takes away what another has made. */
function dropOf({ dialect }: Working, sql: string): string {
  const [, kind = 'view'] = /^create\s+(?:temp(?:orary)?\s+)?(?:virtual\s+)?(view|table|trigger|index)\b/i.exec(sql) ?? [];
  const tokens = sqlTokens(sql);
  const at = tokens.findIndex(({ text }) => text.toLowerCase() === kind.toLowerCase()) + 1;
  const isGuarded = tokens[at]?.text.toLowerCase() === 'if';
  const name = tokens[isGuarded ? at + 3 : at];
  return `drop ${kind.toLowerCase()} ${dialect.quote(name === undefined ? '' : sqlName(name))}`;
}

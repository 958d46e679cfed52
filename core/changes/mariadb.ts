import { type ForeignKey, type Schema, type Table, triggerName } from '../schema/index.js';
import {
  allOf,
  call,
  column,
  columnsOf,
  equal,
  type SqlExpression,
  selectOf,
  sqlName,
  sqlTokens,
  type TableName,
  tableSource,
} from '../sql/index.js';
import { writtenPlace } from './answers.js';
import { asideKey } from './asides.js';
import type { TableChange } from './compare.js';
import type { Operation } from './operation.js';
import { tableKey } from './pairs.js';
import { referenced } from './shape.js';
import type { ShapedColumn, TableShape } from './shaping.js';
import type { Merges, Strategy, Working } from './working.js';

/**
 * MariaDB commits each definition by itself (“SQL statements that cause an implicit commit”), so that no transaction holds a plan.
 * Its statements stand in two parts. In the first, tables are made beside those in use, with their rows, and whatever can fail for the
 * rows’ sake fails there: each statement says what takes it back. Whoever writes to the tables meanwhile is refused. In the second the
 * new tables take the places of the old ones; from there the plan is finished. Each statement can be carried out once more where nobody
 * knows whether it was.
 */
export const mariadbStrategy: Strategy = (working) => {
  const { difference } = working;
  const shapes = working.shapes(asItStands);
  const shapeOf = (change: TableChange) => shapes.find(({ pair }) => pair.before === change.before);
  const anew = difference.changed.filter((change) => isMadeAnew(working, change, shapeOf(change)));
  const light = difference.changed.filter((change) => !anew.includes(change));
  const made = difference.made.flatMap(({ after }) => after ?? []);
  const places = [
    ...made.map((table) => ({ table, at: table.name })),
    ...anew.map(({ after: table }, at) => ({ table, at: toBe(table.name, at) })),
  ];
  const parts: Parts = { working, anew, light, made, shapes, places };
  return [...beside(parts), ...inPlace(parts)];
};

interface Parts {
  readonly working: Working;
  /** The tables that are made anew, beside their rows. */
  readonly anew: readonly TableChange[];
  /** Those that are changed as they stand. */
  readonly light: readonly TableChange[];
  readonly made: readonly Table[];
  readonly shapes: readonly TableShape[];
  /** The new tables, and where each stands until it has its place. */
  readonly places: readonly { readonly table: Table; readonly at: TableName }[];
}

function placeOf({ places }: Parts, table: Table): TableName {
  return places.find((one) => one.table === table)?.at ?? table.name;
}

/** The former rows stand where they stood until the new tables are whole. */
const asItStands = (table: TableName): TableName => table;

/** What is done beside the tables in use, and can be taken back. */
function beside(parts: Parts): Operation[] {
  const { working, anew, made, shapes, places } = parts;
  const { dialect, difference } = working;
  const asides = working.asides(asItStands);
  const makings = working.madeRows(asItStands);
  const keeping = asides.filter(({ aside }) => aside.kind === 'made');
  return [
    ...difference.prelude.made.map((sql) => ({ ...define(sql, null, 'what tables stand on'), back: dropsOf(sql) })),
    ...keeping.flatMap((kept) => keptAside(working, kept)),
    ...makings.flatMap(({ of, column: name, tableAfter }, at): Operation[] => {
      const from = keeping[at]?.aside.aside;
      if (from === undefined) return [];
      const [table, own] = [named(working, of.name), dialect.quote(name)];
      return [
        {
          ...rows(
            `insert into ${table} (${own})\nselect made from ${named(working, from)}`,
            tableAfter,
            'rows that others point at',
          ),
          back: [`delete from ${table} where ${own} in (select made from ${named(working, from)})`],
        },
      ];
    }),
    ...held(parts).flatMap(({ table, name, event }) => {
      const sql = `create or replace trigger ${name} before ${event} on ${named(working, table)} for each row signal sqlstate '45000' set message_text = 'This table is being changed. Try again in a moment.'`;
      return [{ ...define(sql, table, 'nobody else writes meanwhile'), back: [`drop trigger if exists ${name}`] }];
    }),
    ...working.merges(asItStands).flatMap((merges) => merging(working, merges)),
    ...asides.filter((kept) => !keeping.includes(kept)).flatMap((kept) => keptAside(working, kept)),
    ...places.flatMap(({ table, at }) => tableAt(working, table, at)),
    ...made.flatMap((table) => {
      const first = working.firstRows(table, asItStands);
      return first === null
        ? []
        : [put(working, table.name, table, first.columns, dialect.printQuery(first.select), 'its first rows')];
    }),
    ...anew.flatMap((change) => {
      const shape = shapes.find(({ pair }) => pair.before === change.before);
      if (shape === undefined) return [];
      const columns = shape.columns.map(({ column: own }) => own.name);
      const select = dialect.printQuery(working.rows(shape, asItStands));
      return [put(working, placeOf(parts, change.after), change.after, columns, select, 'its rows')];
    }),
    ...places.flatMap(({ table, at }) =>
      working
        .returning(table, at)
        .map(({ columns, select }) => put(working, at, table, columns, dialect.printQuery(select), 'rows that went come back')),
    ),
    ...places.flatMap(({ table, at }) => indexesAt(working, table, at)),
    ...danglings(parts),
  ];
}

/** What puts the new tables in the places of the old ones, and is finished once it was begun. */
function inPlace(parts: Parts): Operation[] {
  const { working, anew, light, made } = parts;
  const { dialect, difference } = working;
  const away = [...anew.map(({ before }) => before.name), ...difference.gone.map(({ name }) => name)];
  const others = made.concat(anew.map(({ after }) => after)).flatMap((table) => rest(working, table, null));
  return [
    ...light.flatMap((change) => [
      ...change.triggers.gone.map((trigger) =>
        define(`drop trigger if exists ${dialect.quote(triggerName(trigger))}`, change.after.name, 'a trigger goes'),
      ),
      ...change.foreignKeys.gone.map((key) => keyDown(working, change.before.name, key)),
      ...change.indexes.gone.map(({ name }) =>
        define(
          `drop index if exists ${dialect.quote(name)} on ${named(working, change.before.name)}`,
          change.after.name,
          'an index goes',
        ),
      ),
    ]),
    ...misled(parts).map(({ before, key }) => keyDown(working, before.name, key)),
    ...difference.others.gone
      .toReversed()
      .flatMap((sql) => dropsOf(sql).map((drop) => define(drop, null, 'what stands beside the tables goes'))),
    ...(away.length === 0
      ? []
      : [
          define(
            `drop table if exists ${away.map((name) => named(working, name)).join(', ')}`,
            null,
            'their rows are copied, or kept aside',
          ),
        ]),
    ...light.flatMap((change) => renamed(working, change)),
    // Under its former name first: the keys of others follow a rename from there.
    ...anew.map(({ before, after }) =>
      define(
        `rename table if exists ${named(working, placeOf(parts, after))} to ${named(working, before.name)}`,
        after.name,
        'the table takes its place',
      ),
    ),
    ...anew.flatMap((change) => renamed(working, change)),
    ...light.flatMap((change) =>
      change.made.flatMap(({ after: own }) => {
        if (own === null) return [];
        const [line = ''] = dialect.columnParts({ ...change.after, uniques: [], foreignKeys: [], indexes: [] }, [own.name]);
        return [
          define(
            `alter table ${named(working, change.after.name)} add column if not exists ${line}`,
            change.after.name,
            'a column is new',
          ),
        ];
      }),
    ),
    ...light.flatMap((change) =>
      change.indexes.made.length === 0
        ? []
        : indexesAt(working, { ...change.after, indexes: change.indexes.made }, change.after.name).map(
            ({ back: _back, ...one }) => one,
          ),
    ),
    ...others.filter(({ sql }) => isKey(sql)),
    ...misled(parts).flatMap(({ after, key }) =>
      rest(working, { ...after, foreignKeys: [key] }, null).filter(({ sql }) => isKey(sql)),
    ),
    ...light.flatMap((change) =>
      change.foreignKeys.made.length === 0
        ? []
        : rest(working, { ...change.after, foreignKeys: change.foreignKeys.made }, null).filter(({ sql }) => isKey(sql)),
    ),
    ...others.filter(({ sql }) => !isKey(sql)),
    ...difference.others.made.map((sql) => define(again(sql), null, 'what stands beside the tables')),
    ...light.flatMap((change) =>
      rest(working, { ...change.after, triggers: change.triggers.made }, { ...change.after, triggers: [] }),
    ),
    ...held(parts).flatMap(({ table, name }) =>
      away.some((one) => tableKey(one) === tableKey(table))
        ? []
        : [define(`drop trigger if exists ${name}`, table, 'others write again')],
    ),
    ...working
      .merges(asItStands)
      .map(({ of, table }) => define(`drop table if exists ${named(working, table)}`, of, 'they have become one')),
    ...difference.prelude.gone
      .toReversed()
      .flatMap((sql) => dropsOf(sql).map((drop) => define(drop, null, 'what tables stood on goes'))),
  ];
}

function renamed(working: Working, { before, after }: TableChange): Operation[] {
  if (tableKey(before.name) === tableKey(after.name)) return [];
  const sql = `rename table if exists ${named(working, before.name)} to ${named(working, after.name)}`;
  return [define(sql, after.name, 'the table has another name')];
}

/** Takes a key down by what it is: one that was given no name has one that only the server knows. */
function keyDown(working: Working, table: TableName, key: ForeignKey): Operation {
  const sql = `begin not atomic
  declare found varchar(64);
  select max(constraint_name) into found from information_schema.key_column_usage
  where ${keyIs(working, table, key)};
  if found is not null then
    execute immediate concat(${text(working, `alter table ${named(working, table)} drop foreign key `)}, char(96), found, char(96));
  end if;
end`;
  return define(sql, table, 'a key goes');
}

/** Keys of tables that stay as they are, to columns that have another name since. */
function misled({
  working,
  anew,
  light,
}: Parts): readonly { readonly before: Table; readonly after: Table; readonly key: ForeignKey }[] {
  return working.paired.tables.flatMap(({ before, after }) => {
    if (before === null || after === null || anew.some((change) => change.before === before)) return [];
    const change = light.find((one) => one.before === before);
    return after.foreignKeys.flatMap((key) => {
      const target = anew.find((one) => tableKey(one.after.name) === tableKey({ schema: key.schema, name: key.table }));
      const columns = target === undefined ? [] : referenced(key, target.after);
      const isMisled = target?.changed.some((one) => one.renamed && columns.includes(one.after.name)) === true;
      return isMisled && change?.foreignKeys.made.includes(key) !== true ? [{ before, after, key }] : [];
    });
  });
}

/** The tables that nobody else writes to meanwhile: those whose rows are copied, and those whose keys would reach into them. */
function held({ working, anew }: Parts): readonly { readonly table: TableName; readonly name: string; readonly event: string }[] {
  const changing = [...anew.map(({ before }) => before), ...working.difference.gone];
  const reaching = anew.flatMap(({ before }) =>
    before.foreignKeys
      .filter(({ onDelete, onUpdate }) => [onDelete, onUpdate].some((rule) => rule !== 'no action' && rule !== 'restrict'))
      .map((key) => ({ schema: key.schema, name: key.table }))
      // A table of somebody else's is in no statement.
      .filter((name) => working.paired.byBefore.get(tableKey(name))?.after != null),
  );
  const tables = new Map([...reaching, ...changing.map(({ name }) => name)].map((name) => [tableKey(name), name] as const));
  return Array.from(tables.values()).flatMap((table, at) =>
    ['insert', 'update', 'delete'].map((event) => ({ table, event, name: `family_tree_held_${at + 1}_${event}` })),
  );
}

function tableAt(working: Working, table: Table, at: TableName): Operation[] {
  const stated = { ...working.stated(table), name: at, triggers: [] };
  const [statement = ''] = working.dialect
    .createStatements({ prelude: [], tables: [stated], others: [] })
    .filter((sql) => /^create\s+table\b/i.test(sql));
  const renamed = stated.statement === null ? statement : statedAt(statement, named(working, at));
  const sql = renamed.replace(/^create\s+table\s+(?:if\s+not\s+exists\s+)?/i, 'create or replace table ');
  return [{ ...define(sql, table.name, 'the table as it is to be'), back: [`drop table if exists ${named(working, at)}`] }];
}

/** A table that is stated whole, under another name. */
function statedAt(statement: string, name: string): string {
  const tokens = sqlTokens(statement.slice(0, 2000));
  const at = tokens.findIndex(({ text }) => text.toLowerCase() === 'table') + 1;
  const isGuarded = tokens[at]?.text.toLowerCase() === 'if';
  const first = tokens[isGuarded ? at + 3 : at];
  const isPlaced = tokens[(isGuarded ? at + 3 : at) + 1]?.text === '.';
  const last = isPlaced ? tokens[(isGuarded ? at + 3 : at) + 2] : first;
  return first === undefined || last === undefined
    ? statement
    : `${statement.slice(0, first.start)}${name}${statement.slice(last.end)}`;
}

function indexesAt(working: Working, table: Table, at: TableName): Operation[] {
  const plain = table.indexes.filter(({ sql }) => sql === null);
  return working.dialect
    .createStatements({ prelude: [], tables: [{ ...bare(table), name: at, indexes: plain }], others: [] })
    .filter((sql) => /^create\s+(?:unique\s+)?index\b/i.test(sql))
    .map((sql) => ({
      ...define(sql.replace(/\bindex\b/i, 'index if not exists'), table.name, 'an index'),
      back: [],
    }));
}

/** What stands on a table and is made once the table has its place. @param known what of it is there already */
function rest(working: Working, table: Table, known: Table | null): Operation[] {
  const stated = (one: Table) =>
    working.dialect
      .createStatements({ prelude: [], tables: [one], others: [] })
      .filter((sql) => !/^create\s+table\b/i.test(sql))
      .filter((sql) => !/^create\s+(?:unique\s+)?index\b/i.test(sql) || table.indexes.some((index) => index.sql === sql));
  const there = new Set(known === null ? [] : stated(known));
  return stated({ ...working.stated(table), foreignKeys: table.foreignKeys, triggers: table.triggers })
    .filter((sql) => !there.has(sql))
    .map((sql) => {
      const key = table.foreignKeys.find((one) => sql.endsWith(working.dialect.foreignKey(one)));
      const operation = define(again(sql), table.name, key === undefined ? 'what stands on the table' : 'a key is put up');
      return key === undefined ? operation : { ...operation, done: keyIsThere(working, table.name, key) };
    });
}

function isKey(sql: string): boolean {
  return /^alter\s+table\b/i.test(sql);
}

/** A statement that replaces what it makes where that is there already. */
function again(sql: string): string {
  return sql.replace(
    /^create\s+(?!or\s+replace\b)((?:algorithm\s*=\s*\w+\s+|definer\s*=\s*\S+\s+|sql\s+security\s+\w+\s+)*)(trigger|view|function|procedure)\b/i,
    'create or replace $1$2',
  );
}

function keyIsThere(working: Working, table: TableName, key: ForeignKey): string {
  return `select 1 from information_schema.key_column_usage where ${keyIs(working, table, key)} and referenced_table_name = ${text(working, key.table)}`;
}

/** By what a key is told apart: the first of its columns. */
function keyIs(working: Working, { name }: TableName, { columns: [first = ''] }: ForeignKey): string {
  return `table_schema = database() and table_name = ${text(working, name)} and column_name = ${text(working, first)} and referenced_table_name is not null`;
}

function text({ dialect }: Working, value: string): string {
  return dialect.print({ kind: 'string', value });
}

/** Counts the rows that would point at nothing: the keys are put up without looking at them again. */
function danglings({ working, anew, light, made, places }: Parts): Operation[] {
  const { dialect, after } = working;
  const now = new Map([
    ...places.map(({ table, at }) => [tableKey(table.name), at] as const),
    ...light.map(({ before, after: table }) => [tableKey(table.name), before.name] as const),
  ]);
  const standing = (name: TableName) => now.get(tableKey(name)) ?? name;
  const isNew = (name: TableName) =>
    [...anew.map((change) => change.after), ...made].some((table) => tableKey(table.name) === tableKey(name));
  return after.tables.flatMap((table) =>
    table.foreignKeys.flatMap((key) => {
      const target = { schema: key.schema, name: key.table };
      const to = after.tables.find(({ name }) => tableKey(name) === tableKey(target));
      const isFresh = light.some(({ after: own, foreignKeys }) => own === table && foreignKeys.made.includes(key));
      if (!isNew(table.name) && !isNew(target) && !isFresh) return [];
      if (to === undefined && working.before.tables.every(({ name }) => tableKey(name) !== tableKey(target))) return [];
      const columns = to === undefined ? key.references : referenced(key, to);
      if (columns.length !== key.columns.length) return [];
      const isFilled = key.columns.map(
        (name): SqlExpression => ({ kind: 'is null', operand: column('pointing', name), negated: true }),
      );
      const there: SqlExpression = {
        kind: 'exists',
        negated: true,
        select: selectOf(tableSource(standing(target), 'pointed_at'), {
          columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
          where: equal(columnsOf('pointed_at', columns), columnsOf('pointing', key.columns)),
        }),
      };
      const query = selectOf(tableSource(standing(table.name), 'pointing'), {
        columns: [{ expression: call('count', column('pointing', key.columns[0] ?? '')), as: null }],
        where: allOf([...isFilled, there]),
      });
      return [
        {
          kind: 'check' as const,
          sql: dialect.printQuery(query),
          what: `that each ${key.columns.join(', ')} leads somewhere`,
          table: writtenPlace(table.name),
          back: [],
        },
      ];
    }),
  );
}

function keptAside(working: Working, { aside, select }: ReturnType<Working['asides']>[number]): Operation[] {
  const { dialect } = working;
  const table = named(working, aside.aside);
  const key = asideKey(aside);
  return [
    {
      ...define(`create or replace table ${table} as\n${dialect.printQuery(select)}`, aside.table, 'what goes is kept aside'),
      back: [`drop table if exists ${table}`],
    },
    ...(key.length === 0
      ? []
      : [
          {
            ...define(
              `create unique index if not exists ${dialect.quote(`${aside.aside.name}_key`)} on ${table} (${key.map(dialect.quote).join(', ')})`,
              aside.table,
              'so that it is found',
            ),
            back: [],
          },
        ]),
  ];
}

/** Notes which rows become one with which, before any of them goes. */
function merging(working: Working, { of, table, selects }: Merges): Operation[] {
  const { dialect } = working;
  const name = named(working, table);
  const [first, ...more] = selects;
  if (first === undefined) return [];
  const columns = first.columns.flatMap(({ as }) => as ?? []);
  const gone = columns.filter((own) => own.startsWith('gone_'));
  const stays = columns.filter((own) => own.startsWith('stays_'));
  const same = gone.map((own, at) => `next.${own} = earlier.${stays[at]}`).join(' and ');
  return [
    {
      ...define(`create or replace table ${name} as\n${dialect.printQuery(first)}`, of, 'which rows become one with which'),
      back: [`drop table if exists ${name}`],
    },
    {
      ...define(
        `create unique index if not exists ${dialect.quote(`${table.name}_gone`)} on ${name} (${gone.join(', ')})`,
        of,
        'so that they are found',
      ),
      back: [],
    },
    ...more.flatMap((select): Operation[] => [
      {
        ...rows(
          `insert into ${name} (${columns.map(dialect.quote).join(', ')})\n${dialect.printQuery(select)}`,
          of,
          'which rows become one with which',
        ),
        back: [],
      },
      {
        ...rows(
          `update ${name} earlier join ${name} next on ${same} set ${stays.map((own) => `earlier.${own} = next.${own}`).join(', ')}`,
          of,
          'one that another became goes on to the next',
        ),
        back: [],
      },
    ]),
  ];
}

function put(working: Working, at: TableName, table: Table, columns: readonly string[], select: string, what: string): Operation {
  const listed = columns.map(working.dialect.quote).join(', ');
  return { ...rows(`insert into ${named(working, at)} (${listed})\n${select}`, table.name, what), back: [] };
}

/** The statements that take away what another made. */
function dropsOf(sql: string): string[] {
  const [, kind] =
    /^create\s+(?:or\s+replace\s+)?(?:algorithm\s*=\s*\w+\s+|definer\s*=\s*\S+\s+|sql\s+security\s+\w+\s+)*(view|function|procedure|sequence|trigger|event)\b/i.exec(
      sql,
    ) ?? [];
  if (kind === undefined) return [];
  const tokens = sqlTokens(sql.slice(0, 2000));
  const at = tokens.findIndex(({ text }) => text.toLowerCase() === kind.toLowerCase()) + 1;
  const first = tokens[at]?.text.toLowerCase() === 'if' ? at + 3 : at;
  const isPlaced = tokens[first + 1]?.text === '.';
  const name = tokens[isPlaced ? first + 2 : first];
  return name === undefined ? [] : [`drop ${kind.toLowerCase()} if exists \`${sqlName(name).replaceAll('`', '``')}\``];
}

function define(sql: string, table: TableName | null, what: string): Operation {
  return { kind: 'define', sql, what, table: table === null ? null : writtenPlace(table) };
}

function rows(sql: string, table: TableName, what: string): Operation {
  return { kind: 'rows', sql, what, table: writtenPlace(table) };
}

function named({ dialect: { quote } }: Working, { schema, name }: TableName): string {
  return schema === null ? quote(name) : `${quote(schema)}.${quote(name)}`;
}

/** What a table is called until it has its place: the longest name there has 64 letters (“Identifier Names”). */
function toBe({ schema, name }: TableName, number: number): TableName {
  return { schema, name: `family_tree_new_${number + 1}_${name}`.slice(0, 64) };
}

/** A table that nothing stands on but its own columns. */
function bare(table: Table): Schema['tables'][number] {
  return { ...table, triggers: [], foreignKeys: [], constraints: [], statement: null };
}

/** Whether a change is made in a table of its own, with the rows copied. */
function isMadeAnew(working: Working, change: TableChange, shape: TableShape | undefined): boolean {
  const changesRows =
    shape !== undefined && (shape.leftOut.length + shape.mergedAway.length > 0 || shape.columns.some(isGivenValues));
  const parts = [change.uniques, change.checks, change.constraints];
  return (
    changesRows ||
    working.returning(change.after).length > 0 ||
    change.gone.length > 0 ||
    change.changed.length > 0 ||
    change.primaryKey ||
    change.options ||
    change.statement ||
    change.comment ||
    parts.some(({ gone, made }) => gone.length + made.length > 0) ||
    // A check over a column that a key changes is held by triggers there.
    (change.foreignKeys.gone.length + change.foreignKeys.made.length > 0 && change.after.checks.length > 0) ||
    change.indexes.made.some(({ sql }) => sql !== null) ||
    change.made.some((pair) => pair.after === null || pair.movedFrom !== null || !isAddable(change, pair.after.name))
  );
}

function isGivenValues({ carried, pair, value }: ShapedColumn): boolean {
  return !carried && !(pair.before === null && (value.kind === 'null' || value.kind === 'written'));
}

/** A column that asks nothing of the rows that are there. */
function isAddable({ after }: TableChange, name: string): boolean {
  const own = after.columns.find((one) => one.name === name);
  if (own === undefined || own.generated !== null || after.primaryKey.columns.includes(name)) return false;
  if (/auto_increment/i.test(own.type)) return false;
  const isLiteral = own.default !== null && /^(?:[-+]?\d+(?:\.\d+)?|'(?:[^'\\]|'')*')$/.test(own.default);
  return own.notNull ? isLiteral : own.default === null || isLiteral;
}

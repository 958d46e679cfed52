import type { Check, Column, ForeignKey, Table } from '../schema/index.js';
import {
  allOf,
  anyOf,
  call,
  column,
  columnsOf,
  derived,
  equal,
  existsIn,
  isNumbered,
  type Join,
  number,
  type Source,
  type SqlExpression,
  selectOf,
  string,
  type TableName,
  tableSource,
} from '../sql/index.js';
import type { Matching } from './answers.js';
import { restored } from './asides.js';
import { converted, typeOfColumn } from './conversion.js';
import { goneColumn, isMergedAway, keepingsOf, keptKey, keyColumns, mergedRows } from './merging.js';
import { type ColumnPair, columnKey, type FormerColumn, type TablePair, tableKey } from './pairs.js';
import { rowExpression } from './row-expression.js';
import { rowsOf } from './rows-of.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

const NOTHING: SqlExpression = { kind: 'null' };

/** How the rows of each table that stays come to be what they will be. */
export function shapesOf(shaping: Shaping): readonly TableShape[] {
  return shaping.paired.tables.flatMap((pair) => {
    const { before, after } = pair;
    return before === null || after === null ? [] : [shapeOf(shaping, { ...pair, before, after })];
  });
}

function shapeOf(around: Shaping, pair: TableShape['pair']): TableShape {
  const { after } = pair;
  const shaping = { ...around, within: new Set([...around.within, tableKey(pair.before.name)]) };
  const columns = pair.columns.flatMap((one): ShapedColumn[] =>
    one.after === null || one.after.generated !== null || isNumberedAnew(one)
      ? []
      : [shapedColumn(shaping, pair, one, one.after)],
  );
  const leftOut = columns.flatMap(({ column: { name }, value, pair: own }) => {
    if (!shaping.answers.leftOut.has(columnKey(after.name, name))) return [];
    const missing: SqlExpression = { kind: 'is null', operand: value, negated: false };
    const former = own.before === null ? null : formerOf(shaping, pair.before, own.before.name);
    const isNeeded = isRequired(after, name) || former === null;
    return [isNeeded ? missing : (allOf([{ kind: 'is null', operand: former, negated: true }, missing]) ?? missing)];
  });
  const bare: TableShape = { pair, columns, joins: joinsOf(shaping, pair.before), leftOut, mergedAway: [] };
  const breaking = after.checks.filter(
    (check) => check.name !== null && shaping.answers.leftOut.has(columnKey(after.name, check.name)),
  );
  const shape: TableShape = {
    ...bare,
    leftOut: [
      ...leftOut,
      ...madeBefore(shaping, pair.before),
      ...breaking.flatMap((check) => breaks(shaping, bare, check) ?? []),
    ],
  };
  // Of those that one answer lets stay the next lets some go.
  const mergedAway: SqlExpression[] = [];
  for (const keeping of keepingsOf(shaping, after.name)) {
    const away = isMergedAway(shaping, { ...shape, mergedAway }, keeping);
    if (away !== null) mergedAway.push(away);
  }
  return { ...shape, mergedAway };
}

/** The conditions that a row was made by the plan that is taken back. */
function madeBefore({ asides, named }: Shaping, { name }: Table): SqlExpression[] {
  return asides.flatMap((aside): SqlExpression[] => {
    if (aside.kind !== 'made' || tableKey(aside.table) !== tableKey(name)) return [];
    const select = selectOf(tableSource(aside.aside), { columns: [{ expression: column(aside.aside.name, 'made'), as: null }] });
    return [{ kind: 'in select', operand: column(name.name, named(name, aside.column)), select }];
  });
}

/** The condition that a row, as it will be, breaks a check; null where rows cannot be told apart. */
function breaks(shaping: Shaping, shape: TableShape, { expression }: Check): SqlExpression | null {
  const { before } = shape.pair;
  const key = before.primaryKey.columns.map((name, at) => ({
    expression: formerOf(shaping, before, name),
    as: `key_as_it_was_${at + 1}`,
  }));
  if (key.length === 0) return null;
  const rows = rowsOf(shaping, shape);
  const select = selectOf(derived({ ...rows, columns: [...rows.columns, ...key] }, 'rows_to_be'), {
    columns: key.map(({ as }) => ({ expression: column('rows_to_be', as), as: null })),
    where: { kind: 'not', operand: { kind: 'written', sql: `(${expression})` } },
  });
  return { kind: 'in select', operand: tuple(key.map((one) => one.expression)), select };
}

/** Whether a row has to have a value there. */
export function isRequired({ columns, primaryKey }: Table, name: string): boolean {
  return primaryKey.columns.includes(name) || columns.some((one) => one.name === name && one.notNull);
}

/** A new key that the engine numbers. */
function isNumberedAnew({ before, after, movedFrom }: ColumnPair): boolean {
  return before === null && movedFrom === null && after !== null && isNumbered(after.type);
}

function shapedColumn(shaping: Shaping, pair: TableShape['pair'], own: ColumnPair, after: Column): ShapedColumn {
  const { before, after: table } = pair;
  const key = columnKey(table.name, after.name);
  const former = own.before === null ? null : formerOf(shaping, before, own.before.name);
  const base = baseValue(shaping, pair, own, after);
  const value = [comingBack, mapped, cut, filled, matched, pointed].reduce<SqlExpression>(
    (so, step) => step({ shaping, pair, own, after, key, former }, so),
    base,
  );
  const isSame = former !== null && own.before?.type.toLowerCase() === after.type.toLowerCase();
  const carried = isSame && value === base && (base.kind === 'column' || base.kind === 'null');
  return { column: after, pair: own, value, former, base, carried };
}

/** A column of the row as it was. */
function formerOf(shaping: Shaping, { name }: Table, former: string): SqlExpression {
  return column(name.name, shaping.named(name, former));
}

/** A column that is being given its values. */
interface Filling {
  readonly shaping: Shaping;
  readonly pair: TableShape['pair'];
  readonly own: ColumnPair;
  readonly after: Column;
  readonly key: string;
  /** Its value as it was; null where it is new. */
  readonly former: SqlExpression | null;
}

/** What a column has before anybody is asked: its former value in its new type; that of where it stood; its default. */
function baseValue(
  shaping: Shaping,
  { before, after: table }: TableShape['pair'],
  own: ColumnPair,
  after: Column,
): SqlExpression {
  const { asides } = shaping;
  if (own.before !== null) return converted(shaping, own.before, after, standing(shaping, before, own.before));
  const back = restored(asides, shaping, before, after.name, null);
  if (back !== null) return back;
  if (own.movedFrom !== null) return movedValue(shaping, before, table, own.movedFrom, after);
  return after.default === null ? NOTHING : { kind: 'written', sql: after.default };
}

/** A column as it was; of a key to a row that becomes one with another, the key of the one that stays. */
function standing(shaping: Shaping, table: Table, { name }: Column): SqlExpression {
  const own = formerOf(shaping, table, name);
  const merging = mergingOf(shaping, table).find(({ key }) => key.columns.includes(name));
  return merging === undefined ? own : keptKey(merging.alias, own, merging.key.columns.indexOf(name));
}

/** The keys of a table to rows of which some become one with another, and what tells which. */
function mergingOf(
  shaping: Shaping,
  table: Table,
): readonly { readonly key: ForeignKey; readonly alias: string; readonly source: Source }[] {
  if (shaping.answers.keeping.length === 0) return [];
  return table.foreignKeys.flatMap((key, at) => {
    const pair = shaping.paired.byBefore.get(tableKey({ schema: key.schema, name: key.table }));
    const target = pair?.before ?? undefined;
    const merged = target === undefined ? null : shaping.merged(target.name);
    if (target === undefined || merged === null || referenced(key, target).join('\n') !== keyColumns(shaping, target).join('\n'))
      return [];
    const alias = `merged_${at + 1}`;
    if (merged !== 'asked') return [{ key, alias, source: tableSource(merged, alias) }];
    if (pair?.after == null || shaping.within.has(tableKey(target.name))) return [];
    const shape = { ...shapeOf(shaping, { ...pair, before: target, after: pair.after }), mergedAway: [] };
    const [keeping] = keepingsOf(shaping, pair.after.name);
    const select = keeping === undefined ? null : mergedRows(shaping, shape, keeping);
    return select === null ? [] : [{ key, alias, source: derived(select, alias) }];
  });
}

/** Joins to each row what tells which rows that it points at become one with another. */
function joinsOf(shaping: Shaping, table: Table): readonly Join[] {
  return mergingOf(shaping, table).map(({ key, alias, source }) => ({
    kind: 'left',
    source,
    on: equal(
      columnsOf(
        alias,
        key.columns.map((_, at) => goneColumn(at)),
      ),
      tuple(key.columns.map((name) => formerOf(shaping, table, name))),
    ),
  }));
}

/** The value of a row that this one points at, or that points at this one, where the column stood. */
function movedValue(shaping: Shaping, before: Table, table: Table, from: FormerColumn, after: Column): SqlExpression {
  const { placed } = shaping;
  const source = shaping.before.tables.find(({ name }) => tableKey(name) === tableKey(from.table));
  const stood = source?.columns.find(({ name }) => name.toLowerCase() === from.column.toLowerCase());
  if (source === undefined || stood === undefined) return NOTHING;
  const same = joined(shaping, before, source);
  if (same === null) {
    shaping.fault(
      `${table.name.name}.${after.name} was ${from.table.name}.${from.column}, but no foreign key leads from one of the tables to the other, so nothing says which row has which value. Give its value by an answer.`,
    );
    return NOTHING;
  }
  const value = converted(shaping, stood, after, column(FROM, shaping.named(source.name, stood.name)));
  return {
    kind: 'scalar',
    select: selectOf(tableSource(placed(source.name), FROM), { columns: [{ expression: value, as: null }], where: same }),
  };
}

const FROM = 'moved_from';

/** The condition that a row of another table belongs to one: by a key of either; null where none leads there. */
function joined({ named }: Shaping, table: Table, other: Table): SqlExpression | null {
  const of = (one: Table, source: string, columns: readonly string[]) =>
    columnsOf(
      source,
      columns.map((name) => named(one.name, name)),
    );
  const leading = (one: Table, target: Table) =>
    one.foreignKeys.find((key) => tableKey({ schema: key.schema, name: key.table }) === tableKey(target.name));
  const to = leading(table, other);
  if (to !== undefined) return equal(of(other, FROM, referenced(to, other)), of(table, table.name.name, to.columns));
  const back = leading(other, table);
  // Several that point at one would have several values.
  const isUnique =
    back !== undefined &&
    [other.primaryKey, ...other.uniques].some(({ columns }) => columns.join('\n') === back.columns.join('\n'));
  return back === undefined || !isUnique
    ? null
    : equal(of(other, FROM, back.columns), of(table, table.name.name, referenced(back, table)));
}

/** The columns that a foreign key points at. */
export function referenced(key: Pick<ForeignKey, 'references'>, target: Table): readonly string[] {
  return key.references.length > 0 ? key.references : target.primaryKey.columns;
}

/** The former value of a plan that is taken back, where nobody has given another since. */
function comingBack({ shaping, pair: { before }, own, after }: Filling, converted: SqlExpression): SqlExpression {
  if (own.before === null) return converted;
  const { asides, dialect } = shaping;
  const value = standing(shaping, before, own.before);
  const beside = dialect.conversions.beside(converted, typeOfColumn(dialect, after));
  const present = { column: own.before.name, value, converted: beside };
  return restored(asides, shaping, before, after.name, present) ?? converted;
}

/** Values that a person gave others for, one by one. */
function mapped({ shaping, own, after, key, former }: Filling, value: SqlExpression): SqlExpression {
  const pairs = shaping.answers.mapped.get(key);
  if (pairs === undefined || former === null || own.before === null) return value;
  const { dialect } = shaping;
  const type = typeOfColumn(dialect, after);
  const text = dialect.values.asText(typeOfColumn(dialect, own.before), former);
  return {
    kind: 'case',
    branches: pairs.map(({ from, to }) => ({
      when: equal(text, string(from)),
      then: to === null ? NOTHING : dialect.values.fromText(type, string(to)),
    })),
    otherwise: value,
  };
}

function cut({ shaping, own, after, key, former }: Filling, value: SqlExpression): SqlExpression {
  const type = typeOfColumn(shaping.dialect, after);
  if (!shaping.answers.cut.has(key) || former === null || own.before === null || type.kind !== 'text' || type.length === null)
    return value;
  const text = shaping.dialect.values.asText(typeOfColumn(shaping.dialect, own.before), former);
  return call('coalesce', value, call('substr', text, number(1), number(type.length)));
}

/** The value of a person's where there is none, or none that fits. */
function filled({ shaping, pair, after, key, former }: Filling, value: SqlExpression): SqlExpression {
  const given = shaping.answers.values.get(key);
  if (given === undefined) return value;
  const read = rowExpression(shaping, pair.before, given, pair.before.name.name);
  if (!read.ok) {
    shaping.fault(`value ${pair.after.name.name}.${after.name}: ${read.message}`);
    return value;
  }
  if (value === NOTHING) return read.sql;
  const either = call('coalesce', value, read.sql);
  if (former === null || isRequired(pair.after, after.name)) return either;
  return {
    kind: 'case',
    branches: [{ when: { kind: 'is null', operand: former, negated: true }, then: either }],
    otherwise: null,
  };
}

/** A key in the place of a text: that of the row which the text names. */
function matched({ shaping, pair, after, key }: Filling, value: SqlExpression): SqlExpression {
  const matching = shaping.answers.matching.get(key);
  if (matching === undefined) return value;
  const found = matchOf(shaping, pair, after, matching);
  if (found === null) return value;
  const select = selectOf(tableSource(shaping.placed(found.parent.name), MATCHED), {
    columns: [{ expression: column(MATCHED, found.key), as: null }],
    where: found.same,
    orderBy: [{ expression: column(MATCHED, found.key), descending: false, nulls: false }],
    limit: number(1),
  });
  const one: SqlExpression = { kind: 'scalar', select };
  return value === NOTHING ? one : call('coalesce', value, one);
}

const MATCHED = 'matched';

/** Where a matching seeks a row. */
export interface Match {
  /** The table, as it was, and what it is called in the conditions. */
  readonly parent: Table;
  readonly alias: string;
  /** The column that is taken of the row. */
  readonly key: string;
  /** What is sought, over the row that points. */
  readonly by: SqlExpression;
  /** What it is held against, over a row of the table. */
  readonly equals: SqlExpression;
  readonly same: SqlExpression;
}

/** Where a matching seeks; null where it does not stand, which is told. */
export function matchOf(
  shaping: Shaping,
  { before, after }: TableShape['pair'],
  { name }: Column,
  { by, equals }: Matching,
): Match | null {
  const foreign = after.foreignKeys.find(({ columns }) => columns.length === 1 && columns[0] === name);
  const target = foreign === undefined ? undefined : pairOf(shaping, { schema: foreign.schema, name: foreign.table });
  if (foreign === undefined || target?.after == null) {
    shaping.fault(`match ${after.name.name}.${name}: no foreign key of this one column leads anywhere.`);
    return null;
  }
  const parent = target.before;
  const [wanted] = referenced(foreign, target.after);
  const own = target.columns.find((pair) => pair.after?.name === wanted)?.before;
  if (parent === null || own == null) return null;
  const left = rowExpression(shaping, before, by, before.name.name);
  const right = rowExpression(shaping, parent, equals, MATCHED);
  for (const side of [left, right]) if (!side.ok) shaping.fault(`match ${after.name.name}.${name}: ${side.message}`);
  if (!left.ok || !right.ok) return null;
  return {
    parent,
    key: shaping.named(parent.name, own.name),
    by: left.sql,
    equals: right.sql,
    same: equal(right.sql, left.sql),
    alias: MATCHED,
  };
}

/** The pair of a table that will be. */
export function pairOf({ paired }: Pick<Shaping, 'paired'>, name: TableName): TablePair | undefined {
  return paired.byAfter.get(tableKey(name));
}

/** A key whose row is not there is emptied, where that was said. */
function pointed({ shaping, pair, after }: Filling, value: SqlExpression): SqlExpression {
  const foreign = pair.after.foreignKeys.find(({ columns }) => columns.includes(after.name));
  if (foreign === undefined) return value;
  const isAsked = [after.name, ...foreign.columns].some((name) => {
    const place = columnKey(pair.after.name, name);
    return shaping.answers.emptied.has(place) || shaping.answers.leftOut.has(place);
  });
  if (!isAsked) return value;
  const values = foreign.columns.map((name) => {
    const own = pair.columns.find((one) => one.after?.name === name);
    return name === after.name || own?.after == null ? value : baseValue(shaping, pair, own, own.after);
  });
  const there = isThere(shaping, foreign, values);
  return there === null ? value : { kind: 'case', branches: [{ when: there, then: value }], otherwise: null };
}

/** The condition that a key's row is there, and stays; null where the table that it points at is new. */
export function isThere(shaping: Shaping, key: ForeignKey, values: readonly SqlExpression[]): SqlExpression | null {
  const there = standsThere(shaping, key, values);
  const after = pairOf(shaping, { schema: key.schema, name: key.table })?.after;
  if (there === null || after == null) return there;
  // Rows that come back are there too.
  const names = referenced(key, after);
  const back = shaping.asides.flatMap((aside, at): SqlExpression[] => {
    if (aside.kind !== 'rows' || tableKey(aside.table) !== tableKey(after.name)) return [];
    const alias = `back_${at + 1}`;
    return [existsIn(aside.aside, equal(columnsOf(alias, names), tuple(values)), { alias })];
  });
  return anyOf([there, ...back]);
}

function standsThere(shaping: Shaping, key: ForeignKey, values: readonly SqlExpression[]): SqlExpression | null {
  const target = { schema: key.schema, name: key.table };
  const pair = pairOf(shaping, target);
  // One may stand within another.
  const alias = `${THERE}_${shaping.within.size + 1}`;
  if (pair === undefined) {
    const columns = key.references.length > 0 ? key.references : key.columns;
    return existsIn(target, equal(columnsOf(alias, columns), tuple(values)), { alias });
  }
  const { before, after } = pair;
  if (before === null || after === null) return null;
  const names = referenced(key, after);
  if (names.some((name) => pair.columns.find((one) => one.after?.name === name)?.before == null)) return null;
  const shape = shaping.within.has(tableKey(before.name)) ? null : shapeOf(shaping, { ...pair, before, after });
  const same = equal(columnsOf(alias, names), tuple(values));
  // One that becomes one with another is pointed at as that one.
  const rows = shape === null ? null : rowsOf(shaping, { ...shape, mergedAway: [] }, names);
  const isPlain = rows === null || (rows.where === null && rows.columns.every(({ expression }) => expression.kind === 'column'));
  if (!isPlain) {
    const columns = [{ expression: number(1), as: null }];
    return { kind: 'exists', negated: false, select: selectOf(derived(rows, alias), { columns, where: same }) };
  }
  const former = names.map((name) => pair.columns.find((one) => one.after?.name === name)?.before?.name ?? name);
  const there = former.map((name) => shaping.named(before.name, name));
  return existsIn(shaping.placed(before.name), equal(columnsOf(alias, there), tuple(values)), { alias });
}

const THERE = 'there';

function tuple(values: readonly SqlExpression[]): SqlExpression {
  const [only, ...more] = values;
  return only !== undefined && more.length === 0 ? only : { kind: 'tuple', items: values };
}

import {
  type Check,
  type Column,
  type ForeignKey,
  type Index,
  type PrimaryKey,
  type Schema,
  type Table,
  type TableTrigger,
  triggerName,
  type Unique,
} from '../schema/index.js';
import { sqlTokens } from '../sql/index.js';
import { type EnumeratedTypes, enumeratedTypes, enumeratedValues } from './enumerated.js';
import { type ColumnPair, type Paired, type TablePair, tableKey } from './pairs.js';
import { renamesOf, withNewNames } from './renamed-schema.js';

/** What goes, and what comes, of one sort of a table's parts. What stays is in neither list. */
export interface Parts<Part> {
  readonly gone: readonly Part[];
  readonly made: readonly Part[];
}

/** How a column that stays differs from what it was. */
export interface ColumnChange {
  readonly before: Column;
  readonly after: Column;
  readonly renamed: boolean;
  /** Whether its type has another name, or lists other values under the same. */
  readonly type: boolean;
  readonly notNull: boolean;
  readonly default: boolean;
  readonly collation: boolean;
  readonly generated: boolean;
  readonly comment: boolean;
}

/** A table that stays, and how it differs from what it was. Its parts bear the names that they will have. */
export interface TableChange {
  readonly before: Table;
  readonly after: Table;
  /** The table as it was, in the names that it will have. */
  readonly renamed: Table;
  readonly columns: readonly ColumnPair[];
  readonly made: readonly ColumnPair[];
  readonly gone: readonly Column[];
  readonly changed: readonly ColumnChange[];
  readonly primaryKey: boolean;
  readonly uniques: Parts<Unique>;
  readonly checks: Parts<Check>;
  readonly foreignKeys: Parts<ForeignKey>;
  readonly indexes: Parts<Index>;
  readonly constraints: Parts<string>;
  readonly triggers: Parts<TableTrigger>;
  readonly options: boolean;
  readonly comment: boolean;
  readonly statement: boolean;
}

/** All that differs between a database and its design. */
export interface Difference {
  readonly made: readonly TablePair[];
  readonly gone: readonly Table[];
  /** Tables that stay and differ. */
  readonly changed: readonly TableChange[];
  /** What tables stand on, and what stands on them. */
  readonly prelude: Parts<string>;
  readonly others: Parts<string>;
}

/**
 * Compares part by part. Both sides are as an engine reads them back, so that what it only writes otherwise is no difference.
 * The order of columns is none either: SQL speaks of them by name.
 *
 * @param changesRows whether rows of a table change though the table does not
 */
export function compare(
  before: Schema,
  after: Schema,
  paired: Paired,
  quote: (name: string) => string,
  changesRows: (pair: TablePair) => boolean = () => false,
): Difference {
  const renamed = withNewNames(before, renamesOf(paired), quote);
  const renamedBy = new Map(before.tables.map((table, at) => [table, renamed.tables[at] ?? table]));
  const enumerated = { before: enumeratedTypes(before.prelude), after: enumeratedTypes(after.prelude) };
  const changed: TableChange[] = [];
  const made: TablePair[] = [];
  const gone: Table[] = [];
  for (const pair of paired.tables) {
    if (pair.before === null) made.push(pair);
    else if (pair.after === null) gone.push(pair.before);
    else {
      const change = changeOf(pair.before, pair.after, renamedBy.get(pair.before) ?? pair.before, pair.columns, enumerated);
      if (differs(change) || changesRows(pair)) changed.push(change);
    }
  }
  return {
    made,
    gone,
    changed,
    prelude: partsOf(before.prelude, after.prelude, String),
    others: partsOf(before.others, after.others, String),
  };
}

/** Whether nothing differs. */
export function isSame({ made, gone, changed, prelude, others }: Difference): boolean {
  return [made, gone, changed, prelude.gone, prelude.made, others.gone, others.made].every(({ length }) => length === 0);
}

/** The enumerated types of a database as it is and as it will be. */
interface Enumerated {
  readonly before: EnumeratedTypes;
  readonly after: EnumeratedTypes;
}

function changeOf(
  before: Table,
  after: Table,
  renamed: Table,
  columns: readonly ColumnPair[],
  enumerated: Enumerated,
): TableChange {
  const pairs = columns.flatMap((pair) =>
    pair.before !== null && pair.after !== null ? [{ ...pair, before: pair.before, after: pair.after }] : [],
  );
  const was = new Map(before.columns.map((column, at) => [column, renamed.columns[at] ?? column]));
  return {
    before,
    after,
    renamed,
    columns,
    made: columns.filter((pair) => pair.before === null && pair.after !== null),
    gone: columns.flatMap((pair) => (pair.after === null && pair.before !== null ? [pair.before] : [])),
    changed: pairs
      .map((pair) => columnChange(pair.before, was.get(pair.before) ?? pair.before, pair.after, enumerated))
      .filter(columnDiffers),
    primaryKey: keyText(renamed.primaryKey) !== keyText(after.primaryKey),
    uniques: partsOf(renamed.uniques, after.uniques, ({ name, columns: of }) => JSON.stringify([name, of])),
    checks: partsOf(renamed.checks, after.checks, ({ name, expression }) => JSON.stringify([name, plain(expression)])),
    foreignKeys: partsOf(renamed.foreignKeys, after.foreignKeys, (key) => JSON.stringify(foreignText(key))),
    indexes: partsOf(renamed.indexes, after.indexes, ({ name, columns: of, unique, sql }) =>
      JSON.stringify([name, of, unique, sql]),
    ),
    constraints: partsOf(renamed.constraints, after.constraints, plain),
    triggers: partsOf(renamed.triggers, after.triggers, (trigger) =>
      JSON.stringify([triggerName(trigger), trigger.kind === 'written' ? trigger.sql : trigger.trigger]),
    ),
    options: JSON.stringify(lower(renamed.options)) !== JSON.stringify(lower(after.options)),
    comment: renamed.comment !== after.comment,
    // What stands whole says all of itself: in other words it is another table.
    statement: (renamed.statement ?? '') !== (after.statement ?? ''),
  };
}

function columnChange(before: Column, renamed: Column, after: Column, enumerated: Enumerated): ColumnChange {
  const generated = (column: Column) =>
    column.generated === null ? null : JSON.stringify([plain(column.generated.sql), column.generated.stored]);
  const listed = (types: EnumeratedTypes, { type }: Column) => JSON.stringify(enumeratedValues(types, type));
  return {
    before,
    after,
    renamed: before.name !== after.name,
    type:
      before.type.toLowerCase() !== after.type.toLowerCase() ||
      listed(enumerated.before, before) !== listed(enumerated.after, after),
    notNull: before.notNull !== after.notNull,
    default: before.default !== after.default,
    collation: before.collation !== after.collation,
    generated: generated(renamed) !== generated(after),
    comment: before.comment !== after.comment,
  };
}

function columnDiffers({ before: _before, after: _after, ...how }: ColumnChange): boolean {
  return Object.values(how).includes(true);
}

function differs(change: TableChange): boolean {
  const parts = [change.uniques, change.checks, change.foreignKeys, change.indexes, change.constraints, change.triggers];
  return (
    tableKey(change.before.name) !== tableKey(change.after.name) ||
    change.made.length + change.gone.length + change.changed.length > 0 ||
    parts.some(({ gone, made }) => gone.length + made.length > 0) ||
    change.primaryKey ||
    change.options ||
    change.comment ||
    change.statement
  );
}

/** Parts of equal meaning are one, whatever their order; of two that say the same each is one. */
function partsOf<Part>(before: readonly Part[], after: readonly Part[], meaning: (part: Part) => string): Parts<Part> {
  const left = new Map<string, Part[]>();
  for (const part of before) left.set(meaning(part), [...(left.get(meaning(part)) ?? []), part]);
  const made = after.filter((part) => left.get(meaning(part))?.pop() === undefined);
  const rest = new Set(Array.from(left.values()).flat());
  return { gone: before.filter((part) => rest.has(part)), made };
}

function keyText({ columns, name, autoincrement }: PrimaryKey): string {
  return JSON.stringify([columns, name, autoincrement]);
}

function foreignText(key: ForeignKey): readonly unknown[] {
  return [
    key.name,
    key.columns,
    key.schema,
    key.table.toLowerCase(),
    key.references,
    key.onDelete,
    key.onUpdate,
    key.deferred,
    key.sql,
  ];
}

/** SQL token by token, so that spaces between them are no difference. */
function plain(sql: string): string {
  return sqlTokens(sql)
    .map(({ text }) => text)
    .join(' ');
}

function lower(options: readonly string[]): readonly string[] {
  return options.map((option) => option.toLowerCase()).sort();
}

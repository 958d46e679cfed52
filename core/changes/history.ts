import type { Dialect } from '../dialects/index.js';
import { OWN_PREFIX, type Schema } from '../schema/index.js';
import { column, equal, insertOf, type SqlExpression, string, type TableName } from '../sql/index.js';
import type { Aside } from './aside.js';
import type { HandStep } from './by-hand.js';
import type { Change } from './changes.js';

/** Where it is kept what was changed. */
export const HISTORY_TABLE = `${OWN_PREFIX}changes`;

/** A plan that was carried out, or is to be. */
export interface AppliedPlan {
  /** What a person called it. */
  readonly name: string;
  /** When, as a timestamp in wire form. */
  readonly at: string;
  readonly textBefore: string | null;
  readonly textAfter: string;
  readonly changes: readonly Pick<Change, 'id' | 'sentence'>[];
  /** What of the database is the design's, as it was and as it is since. */
  readonly before: Schema;
  readonly after: Schema;
  /** Tables and columns that have another name since. */
  readonly renames: readonly Rename[];
  /** What is kept of what went. */
  readonly asides: readonly Aside[];
  /** What was done by hand among it. */
  readonly byHand: readonly HandStep[];
  /** The number of the plan that this one took back; null where it is none of that sort. */
  readonly undoes: number | null;
}

/** A table, or a column of one, and what it is called since. */
export interface Rename {
  readonly table: TableName;
  readonly column: string | null;
  readonly now: { readonly table: TableName; readonly column: string | null };
}

/** An entry of a database's history. */
export interface HistoryEntry extends AppliedPlan {
  readonly number: number;
  readonly milliseconds: number;
  /** How many rows were written. */
  readonly rows: number;
  readonly state: 'applied' | 'undone';
}

/** The columns of that table, in the order in which they are read. */
export const HISTORY_COLUMNS = [
  'number',
  'name',
  'applied_at',
  'milliseconds',
  'rows_written',
  'state',
  'text_before',
  'text_after',
  'plan',
] as const;

/** The statement that makes the table of a database's history, where it is not there. */
export function historyTable({ quote, values, tableOptions }: Dialect): string {
  const text = values.columnType({ kind: 'text', length: null });
  const whole = values.columnType({ kind: 'bigint' });
  const types: Readonly<Record<(typeof HISTORY_COLUMNS)[number], string>> = {
    number: `${whole} not null primary key`,
    name: `${text} not null`,
    applied_at: `${text} not null`,
    milliseconds: `${whole} not null`,
    rows_written: `${whole} not null`,
    state: `${text} not null`,
    text_before: text,
    text_after: `${text} not null`,
    plan: `${text} not null`,
  };
  const columns = HISTORY_COLUMNS.map((column) => `${quote(column)} ${types[column]}`);
  return `create table if not exists ${HISTORY_TABLE} (\n  ${columns.join(',\n  ')}\n) ${tableOptions.join(' ')}`.trimEnd();
}

const TABLE: TableName = { schema: null, name: HISTORY_TABLE };

/** A statement, and the values of its placeholders. */
interface Noting {
  readonly sql: string;
  readonly values: readonly (string | number | null)[];
}

/** The statement that notes a plan. */
export function noting({ printChange }: Dialect, entry: HistoryEntry): Noting {
  const { changes, before, after, renames, asides, byHand, undoes } = entry;
  return {
    sql: printChange(insertOf(TABLE, HISTORY_COLUMNS, 1)),
    values: [
      entry.number,
      entry.name,
      entry.at,
      Math.round(entry.milliseconds),
      entry.rows,
      entry.state,
      entry.textBefore,
      entry.textAfter,
      JSON.stringify({ changes, before, after, renames, asides, byHand, undoes }),
    ],
  };
}

/** The statements that note a plan, as a script says them: the table where it is not there, and the note itself, which can stand once. */
export function notingInScript(dialect: Dialect, entry: HistoryEntry): readonly string[] {
  const row = noting(dialect, entry).values.map((value): SqlExpression => {
    if (value === null) return { kind: 'null' };
    return typeof value === 'number' ? { kind: 'number', text: String(value) } : string(value);
  });
  const note = dialect.printChange({ kind: 'insert', into: TABLE, columns: HISTORY_COLUMNS, rows: [row] });
  if (entry.undoes === null) return [historyTable(dialect), note];
  const where = equal(column(null, 'number'), { kind: 'number', text: String(entry.undoes) });
  const set = [{ column: 'state', value: string('undone') }];
  return [historyTable(dialect), note, dialect.printChange({ kind: 'update', table: TABLE, set, where })];
}

/** The statement that notes of a plan that it was taken back. */
export function notingUndone({ printChange }: Dialect, number: number): Noting {
  const where = equal(column(null, 'number'), { kind: 'placeholder', number: 1 });
  const set = [{ column: 'state', value: string('undone') }];
  return { sql: printChange({ kind: 'update', table: TABLE, set, where }), values: [number] };
}

/**
 * The statements that let go of what is kept aside of a plan. It is noted first: a table that nothing speaks of does no harm, and an
 * undo that rests on one which is gone would.
 */
export function lettingGo({ printChange, quote }: Dialect, entry: HistoryEntry): readonly string[] {
  const { number, changes, before, after, renames, asides, byHand, undoes } = entry;
  const plan = string(JSON.stringify({ changes, before, after, renames, asides: [], byHand, undoes }));
  const where = equal(column(null, 'number'), { kind: 'number', text: String(number) });
  return [
    printChange({ kind: 'update', table: TABLE, set: [{ column: 'plan', value: plan }], where }),
    ...asides.map(
      ({ aside: { schema, name } }) => `drop table if exists ${schema === null ? '' : `${quote(schema)}.`}${quote(name)}`,
    ),
  ];
}

/** The statement that reads a database's history, the newest first. */
export function historyQuery({ quote }: Dialect): string {
  return `select ${HISTORY_COLUMNS.map(quote).join(', ')} from ${HISTORY_TABLE} order by ${quote('number')} desc`;
}

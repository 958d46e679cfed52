import type { Dialect } from '../dialects/index.js';
import { OWN_PREFIX, type Schema } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import type { Aside } from './aside.js';
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

const COLUMNS = [
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
export function historyTable({ name, quote }: Dialect): string {
  const text = name === 'mariadb' ? 'longtext' : 'text';
  const types: Readonly<Record<(typeof COLUMNS)[number], string>> = {
    number: 'integer not null primary key',
    name: `${text} not null`,
    applied_at: `${text} not null`,
    milliseconds: 'bigint not null',
    rows_written: 'bigint not null',
    state: `${text} not null`,
    text_before: text,
    text_after: `${text} not null`,
    plan: `${text} not null`,
  };
  const charset = name === 'mariadb' ? ' engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin' : '';
  return `create table if not exists ${HISTORY_TABLE} (\n  ${COLUMNS.map((column) => `${quote(column)} ${types[column]}`).join(',\n  ')}\n)${charset}`;
}

/** A statement that notes a plan, and the values of its placeholders. */
export function noting(
  { name, quote }: Dialect,
  entry: HistoryEntry,
): { readonly sql: string; readonly values: readonly (string | number | null)[] } {
  const { changes, before, after, renames, asides, undoes } = entry;
  const placeholder = (at: number) => (name === 'postgres' ? `$${at + 1}` : '?');
  return {
    sql: `insert into ${HISTORY_TABLE} (${COLUMNS.map(quote).join(', ')}) values (${COLUMNS.map((_, at) => placeholder(at)).join(', ')})`,
    values: [
      entry.number,
      entry.name,
      entry.at,
      Math.round(entry.milliseconds),
      entry.rows,
      entry.state,
      entry.textBefore,
      entry.textAfter,
      JSON.stringify({ changes, before, after, renames, asides, undoes }),
    ],
  };
}

/** The statement that reads a database's history, the newest first. */
export function historyQuery({ quote }: Dialect): string {
  return `select ${COLUMNS.map(quote).join(', ')} from ${HISTORY_TABLE} order by ${quote('number')} desc`;
}

/** A row of the history as it was noted. */
export function historyEntry(row: readonly unknown[]): HistoryEntry {
  const [number, name, at, milliseconds, rows, state, textBefore, textAfter, plan] = row;
  // It is a text that this program wrote itself, within the transaction of the plan.
  const noted = JSON.parse(String(plan)) as Noted;
  return {
    number: Number(number),
    name: String(name),
    at: String(at),
    milliseconds: Number(milliseconds),
    rows: Number(rows),
    state: state === 'undone' ? 'undone' : 'applied',
    textBefore: textBefore === null ? null : String(textBefore),
    textAfter: String(textAfter),
    ...noted,
  };
}

type Noted = Pick<HistoryEntry, 'changes' | 'before' | 'after' | 'renames' | 'asides' | 'undoes'>;

/** The statement that notes of a plan that it was taken back, and the values of its placeholders. */
export function notingUndone(
  { name, quote }: Dialect,
  number: number,
): { readonly sql: string; readonly values: readonly number[] } {
  return {
    sql: `update ${HISTORY_TABLE} set ${quote('state')} = 'undone' where ${quote('number')} = ${name === 'postgres' ? '$1' : '?'}`,
    values: [number],
  };
}

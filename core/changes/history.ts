import type { Dialect } from '../dialects/index.js';
import type { Schema } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import type { Change } from './changes.js';

/** How the names of the tables begin that this program keeps in a database for itself. No plan and no text has them. */
export const OWN_PREFIX = 'family_tree_';

/** Where it is kept what was changed. */
export const HISTORY_TABLE = `${OWN_PREFIX}changes`;

/** Whether a table is one of this program's own. */
export function isOwnTable({ name }: TableName): boolean {
  return name.toLowerCase().startsWith(OWN_PREFIX);
}

/** A schema without the tables that this program keeps for itself. */
export function withoutOwnTables(schema: Schema): Schema {
  return { ...schema, tables: schema.tables.filter(({ name }) => !isOwnTable(name)) };
}

/** A plan that was carried out, or is to be. */
export interface AppliedPlan {
  /** What a person called it. */
  readonly name: string;
  /** When, as a timestamp in wire form. */
  readonly at: string;
  readonly textBefore: string | null;
  readonly textAfter: string;
  readonly changes: readonly Pick<Change, 'id' | 'sentence'>[];
  /** The tables that the text names, as they were and as they are since. */
  readonly before: Schema;
  readonly after: Schema;
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
  const { changes, before, after } = entry;
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
      JSON.stringify({ changes, before, after }),
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
  const { changes, before, after } = JSON.parse(String(plan)) as Pick<HistoryEntry, 'changes' | 'before' | 'after'>;
  return {
    number: Number(number),
    name: String(name),
    at: String(at),
    milliseconds: Number(milliseconds),
    rows: Number(rows),
    state: state === 'undone' ? 'undone' : 'applied',
    textBefore: textBefore === null ? null : String(textBefore),
    textAfter: String(textAfter),
    changes,
    before,
    after,
  };
}

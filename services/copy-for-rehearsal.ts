import type { Design } from '../core/design/index.js';
import { type Dialect, dialects } from '../core/dialects/index.js';
import type { Column, Schema, Table } from '../core/schema/index.js';
import {
  allOf,
  anyOf,
  type Change,
  column,
  equal,
  type Query,
  type SqlExpression,
  selectOf,
  string,
  tableSource,
} from '../core/sql/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import type { OpenScratch, ScratchDatabase } from './wished-schema.js';

/** A copy of a server's database to rehearse on. */
export interface RehearsalCopy {
  readonly scratch: ScratchDatabase;
  /** What of the rows is in it, in words; null for all of them. */
  readonly part: string | null;
}

export interface CopyOptions {
  /** The text that says what the database is to become: what is made has to stay within the scratch database. */
  readonly design: Design;
  /** So many rows are copied at most, and of a larger database a part that keeps its relations. */
  readonly most: number;
  readonly signal?: AbortSignal;
  /** Is told how many rows are there. */
  readonly progress?: (rows: number) => void;
}

/** A row by its columns, each value as a text from which it can be made again. */
type ExactRow = readonly (string | null)[];

/** So many rows are read, and put in, by one statement. */
const AT_ONCE = 1000;
const PUT_AT_ONCE = 200;
/** So many rows a part begins with. */
const LARGEST_PART = 100_000;

const STOPPED: Outcome<never> = { ok: false, problem: { code: 'ended', message: 'Stopped.' } };

/**
 * Copies a database of a server into a scratch database beside it: its tables as they were read, and its rows, each value to the
 * last bit. The database itself is only read.
 */
export async function copyForRehearsal(
  engine: Engine,
  seen: Schema,
  openScratch: OpenScratch,
  options: CopyOptions,
): Promise<Outcome<RehearsalCopy>> {
  const dialect = dialects[engine.dialect];
  const scratch = await openScratch(options.design);
  if (!scratch.ok) return scratch;
  const { engine: copy, remove } = scratch.value;
  const fail = async (outcome: Outcome<never>): Promise<Outcome<never>> => {
    await remove();
    return outcome;
  };
  const { before, after } = dialect.steps(seen);
  const made = await copy.execute(before);
  if (!made.ok) return fail(made);
  const counted = await rowsIn(engine, dialect, seen.tables);
  if (!counted.ok) return fail(counted);
  const total = Array.from(counted.value.values()).reduce((sum, rows) => sum + rows, 0);
  const isPart = total > options.most;
  // Which rows of a part are there is kept in memory, so that a part is no larger than that.
  const each = Math.max(1, Math.floor(Math.min(options.most, LARGEST_PART) / Math.max(1, seen.tables.length)));
  let copied = 0;
  const known = new Map<Table, Set<string>>();
  const put = async (table: Table, rows: readonly ExactRow[]): Promise<Outcome<null>> => {
    if (isPart) for (const row of rows) remember(known, table, row);
    for (let at = 0; at < rows.length; at += PUT_AT_ONCE) {
      if (options.signal?.aborted === true) return STOPPED;
      const written = await copy.execute([insertText(dialect, table, rows.slice(at, at + PUT_AT_ONCE))]);
      if (!written.ok) return written;
    }
    copied += rows.length;
    options.progress?.(copied);
    return { ok: true, value: null };
  };
  for (const table of seen.tables) {
    const most = isPart ? each : Number.POSITIVE_INFINITY;
    for (let from = 0; from < most; from += AT_ONCE) {
      if (options.signal?.aborted === true) return fail(STOPPED);
      const rows = await read(engine, dialect, table, null, { from, most: Math.min(AT_ONCE, most - from) });
      if (!rows.ok) return fail(rows);
      const done = await put(table, rows.value);
      if (!done.ok) return fail(done);
      if (rows.value.length < AT_ONCE) break;
    }
  }
  if (isPart) {
    const completed = await withParents(engine, dialect, seen, known, put);
    if (!completed.ok) return fail(completed);
  }
  const kept = await copy.execute(after);
  if (!kept.ok) return fail(kept);
  const part = isPart
    ? `Rehearsed on ${copied.toLocaleString('en')} of ${total.toLocaleString('en')} rows: the first of each table, with all that they point at.`
    : null;
  return { ok: true, value: { scratch: scratch.value, part } };
}

/** The columns of a table that are written, and not computed. */
function written({ columns }: Table) {
  return columns.filter(({ generated }) => generated === null);
}

async function rowsIn(engine: Engine, dialect: Dialect, tables: readonly Table[]): Promise<Outcome<ReadonlyMap<Table, number>>> {
  const counted = new Map<Table, number>();
  for (const table of tables) {
    const query: Query = selectOf(tableSource(table.name), { columns: [{ expression: { kind: 'count rows' }, as: null }] });
    const rows = await engine.ask(dialect.printQuery(query));
    if (!rows.ok) return rows;
    counted.set(table, Number(rows.value[0]?.[0] ?? 0));
  }
  return { ok: true, value: counted };
}

async function read(
  engine: Engine,
  dialect: Dialect,
  table: Table,
  where: SqlExpression | null,
  { from, most }: { readonly from: number; readonly most: number },
): Promise<Outcome<readonly ExactRow[]>> {
  const { name } = table.name;
  const exact = (own: Column) => dialect.exact.read(column(name, own.name), own.type);
  // Without a key rows are in an order by all that they have, as texts: not every type has an order.
  const order =
    table.primaryKey.columns.length > 0 ? table.primaryKey.columns.map((of) => column(name, of)) : written(table).map(exact);
  const query: Query = selectOf(tableSource(table.name), {
    columns: written(table).map((own) => ({ expression: exact(own), as: own.name })),
    where,
    orderBy: order.map((expression) => ({ expression, descending: false, nulls: false })),
    limit: { kind: 'number', text: String(most) },
    offset: from === 0 ? null : { kind: 'number', text: String(from) },
  });
  const rows = await engine.ask(dialect.printQuery(query));
  if (!rows.ok) return rows;
  return { ok: true, value: rows.value.map((row) => row.map((value) => (value === null ? null : String(value)))) };
}

/** A statement that puts rows in, with their values in it. */
function insertText(dialect: Dialect, table: Table, rows: readonly ExactRow[]): string {
  const columns = written(table);
  const change: Change = {
    kind: 'insert',
    into: table.name,
    columns: columns.map(({ name }) => name),
    rows: rows.map((row) =>
      columns.map(({ type }, at): SqlExpression => {
        const text = row[at] ?? null;
        return text === null ? { kind: 'null' } : dialect.exact.write(text, type, string(text)).as;
      }),
    ),
  };
  return dialect.printChange(change);
}

/** By what a row is pointed at over some columns. */
function keyOf(table: Table, row: ExactRow, columns: readonly string[]): string | null {
  const own = written(table);
  const values = columns.map((of) => row[own.findIndex(({ name }) => name === of)] ?? null);
  return values.includes(null) ? null : JSON.stringify([columns, values]);
}

function remember(known: Map<Table, Set<string>>, table: Table, row: ExactRow): void {
  const there = known.get(table) ?? new Set<string>();
  known.set(table, there);
  there.add(JSON.stringify(row));
}

/** Copies what the rows that were copied point at, and what that points at. */
async function withParents(
  engine: Engine,
  dialect: Dialect,
  { tables }: Schema,
  known: Map<Table, Set<string>>,
  put: (table: Table, rows: readonly ExactRow[]) => Promise<Outcome<null>>,
): Promise<Outcome<null>> {
  let fresh = new Map(Array.from(known, ([table, rows]) => [table, Array.from(rows)]));
  while (fresh.size > 0) {
    const missing = new Map<Table, Map<string, { columns: readonly string[]; values: ExactRow }>>();
    for (const [table, rows] of fresh)
      for (const key of table.foreignKeys) {
        const to = tables.find(({ name }) => name.name === key.table && name.schema === key.schema);
        if (to === undefined) continue;
        const columns = key.references.length > 0 ? key.references : to.primaryKey.columns;
        const there = new Set(Array.from(known.get(to) ?? [], (row) => keyOf(to, JSON.parse(row) as ExactRow, columns)));
        const wanted = missing.get(to) ?? new Map<string, { columns: readonly string[]; values: ExactRow }>();
        missing.set(to, wanted);
        for (const row of rows) {
          const own = written(table);
          const from = JSON.parse(row) as ExactRow;
          const values = key.columns.map((of) => from[own.findIndex(({ name }) => name === of)] ?? null);
          const sought = JSON.stringify([columns, values]);
          if (!values.includes(null) && !there.has(sought)) wanted.set(sought, { columns, values });
        }
      }
    fresh = new Map();
    for (const [table, wanted] of missing) {
      const all = Array.from(wanted.values());
      for (let at = 0; at < all.length; at += PUT_AT_ONCE) {
        const rows = await read(engine, dialect, table, isOneOf(dialect, table, all.slice(at, at + PUT_AT_ONCE)), {
          from: 0,
          most: PUT_AT_ONCE * 2,
        });
        if (!rows.ok) return rows;
        const news = rows.value.filter((row) => known.get(table)?.has(JSON.stringify(row)) !== true);
        const done = await put(table, news);
        if (!done.ok) return done;
        if (news.length > 0) fresh.set(table, [...(fresh.get(table) ?? []), ...news.map((row) => JSON.stringify(row))]);
      }
    }
  }
  return { ok: true, value: null };
}

/** That a row is one of those that are sought. */
function isOneOf(
  dialect: Dialect,
  table: Table,
  sought: readonly { readonly columns: readonly string[]; readonly values: ExactRow }[],
): SqlExpression | null {
  const one = ({ columns, values }: (typeof sought)[number]) =>
    allOf(
      columns.map((of, at) => {
        const type = table.columns.find(({ name }) => name === of)?.type ?? '';
        const text = values[at] ?? '';
        return equal(column(table.name.name, of), dialect.exact.write(text, type, string(text)).as);
      }),
    );
  return anyOf(sought.flatMap((row) => one(row) ?? []));
}

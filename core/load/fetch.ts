import type { Dialect } from '../dialects/index.js';
import type { Query } from '../sql/index.js';
import { type BoundParameter, joinKey, type Wire } from '../values/index.js';
import { bytesOf, markBroken, suspects } from './broken-text.js';
import { byColumns, readColumns } from './by-columns.js';
import { byRows, readRows } from './by-rows.js';
import type { Output } from './compile/index.js';
import {
  type Computation,
  type Explained,
  type FetchOptions,
  type LogEntry,
  type Refusal,
  type Statement,
  type StatementResult,
  shownParameters,
} from './statement.js';

/** A select, what becomes of its columns, and the values of its parameters. */
export interface FetchRequest {
  readonly query: Query;
  readonly outputs: readonly Output[];
  readonly parameters: Readonly<Record<string, BoundParameter>>;
  readonly options: FetchOptions;
}

/** The purpose of a statement: the path of the load, and what the log says of it. */
export interface FetchPurpose {
  /** The keys of a batch, for the log; null where there are none. */
  readonly keys: readonly Wire[] | null;
  readonly path: string;
  readonly span: Statement['span'];
  readonly explained: Explained;
  readonly mayFail: boolean;
}

const VALUES_ALONE: FetchPurpose = { keys: null, path: '', span: null, explained: 'not', mayFail: false };

export interface Fetched {
  /** The values of each output, row by row. */
  readonly cells: readonly (readonly Wire[])[];
  readonly rows: number;
  /** There are more rows than were asked for. */
  readonly cut: boolean;
  readonly entry: LogEntry;
  /** Why there are none, for a statement that may fail. */
  readonly refused: Refusal | null;
}

/** Runs one select and gives its values in wire form: by columns where the engine hands them over so, else row by row. */
export function* fetch(
  dialect: Dialect,
  { query, outputs, parameters, options }: FetchRequest,
  { keys, path, span, explained, mayFail }: FetchPurpose = VALUES_ALONE,
): Computation<Fetched> {
  const { json } = dialect.values;
  const { plain, sent, selected, named } = printed(dialect, query, outputs, options);
  const used = Object.fromEntries(Object.entries(parameters).filter(([name]) => named.has(name)));
  const statement: Statement = { plain, sent, parameters: used, path, span, explained, mayFail };
  const { rows, milliseconds, steps, refused } = yield statement;
  const columns = json === null ? readRows(dialect, selected, rows) : readColumns(dialect, selected, rows[0] ?? [], options);
  const broken = json === null || options.madeHere ? [] : suspects(columns);
  if (broken.length > 0) {
    const again = yield { ...statement, sent: bytesOf(dialect, query, selected, broken, options), explained: 'not' };
    broken.forEach((column, index) => {
      markBroken(columns[column] ?? [], JSON.parse(String(again.rows[0]?.[index] ?? '[]')) as unknown[]);
    });
  }
  const found = columns[0]?.length ?? 0;
  const count = Math.min(found, options.rowLimit);
  for (const cells of columns) cells.length = count;
  return {
    cells: withComposites(outputs, selected, columns),
    rows: count,
    cut: found > options.rowLimit,
    entry: {
      path,
      plain,
      sent,
      byColumns: json !== null,
      parameters: shownParameters(used, keys),
      times: 1,
      rows: count,
      cells: count * selected.length,
      bytes: bytesIn(rows),
      milliseconds,
      steps,
      span,
    },
    refused,
  };
}

/** The bytes of values as they come from an engine: a text as UTF-8 mostly has it, a number as eight. */
function bytesIn(rows: StatementResult['rows']): number {
  let bytes = 0;
  for (const row of rows)
    for (const cell of row)
      bytes += typeof cell === 'string' ? cell.length : cell instanceof Uint8Array ? cell.byteLength : cell === null ? 0 : 8;
  return bytes;
}

/** The values of all outputs: those of composite keys are put together from the columns of their parts. */
export function withComposites(
  outputs: readonly Output[],
  selected: readonly Output[],
  columns: readonly Wire[][],
): readonly Wire[][] {
  if (selected.length === outputs.length) return columns;
  const byName = new Map(selected.map((output, index) => [output.as, columns[index] ?? []]));
  return outputs.map(({ as, type, parts }) => {
    if (parts === null) return byName.get(as) ?? [];
    const [first = [], ...others] = parts.map((part) => byName.get(part) ?? []);
    return first.map((part, row) => joinKey(type, [part, ...others.map((cells) => cells[row] ?? null)]));
  });
}

/** A select as it is sent and shown. */
interface Printed {
  readonly dialect: Dialect;
  readonly outputs: readonly Output[];
  readonly options: FetchOptions;
  readonly plain: string;
  readonly sent: string;
  /** The outputs that have a column of their own. */
  readonly selected: readonly Output[];
  /** The names of the parameters in it. */
  readonly named: ReadonlySet<string>;
}

/** What was printed of a select; whoever lets go of the select lets go of it. */
const prints = new WeakMap<Query, Printed[]>();

/** A select is printed once for a dialect, its outputs and options: a plan that is run again costs its rows alone. */
function printed(dialect: Dialect, query: Query, outputs: readonly Output[], options: FetchOptions): Printed {
  const known = prints.get(query) ?? [];
  const before = known.find(
    (one) =>
      one.dialect === dialect &&
      one.outputs === outputs &&
      one.options.madeHere === options.madeHere &&
      one.options.rowLimit === options.rowLimit,
  );
  if (before !== undefined) return before;
  const { json } = dialect.values;
  const selected = outputs.filter(({ parts }) => parts === null);
  const plain = dialect.printQuery(query);
  const sent = json === null ? byRows(dialect, query, selected, options) : byColumns(dialect, json, query, selected, options);
  const named = new Set(Array.from(plain.matchAll(/:(\w+)/g), ([, name = '']) => name));
  const fresh = { dialect, outputs, options, plain, sent, selected, named };
  prints.set(query, [...known, fresh]);
  return fresh;
}

import type { Dialect } from '../dialects/index.js';
import type { LoadPlan, Output } from '../plan/index.js';
import { type BoundValue, joinKey, type Wire } from '../values/index.js';
import type { Woven } from '../walls/index.js';
import { bytesOf, markBroken, suspects } from './broken-text.js';
import { byColumns, type FetchOptions, readColumns } from './by-columns.js';
import { type Computation, type LogEntry, type Statement, shownParameters } from './statement.js';

/** A row of the answer. */
export type Row = Record<string, unknown>;

/** A place where the row limit cut an answer. */
export interface Cut {
  /** The load, as a path from the root; empty for the root rows. */
  readonly path: string;
  readonly limit: number;
}

export interface LoadAnswer {
  readonly rows: readonly Row[];
  readonly log: readonly LogEntry[];
  readonly cuts: readonly Cut[];
}

export interface LoadRequest {
  readonly woven: Woven;
  readonly parameters: Readonly<Record<string, BoundValue>>;
  readonly options: FetchOptions;
}

interface Fetched {
  readonly rows: Row[];
  readonly columns: ReadonlyMap<string, readonly Wire[]>;
}

/**
 * Runs a load by batch: one statement for the root rows and one for each loaded relation, with the owners' keys as
 * one parameter; none where there are no owners.
 */
export function* loadByBatch(dialect: Dialect, { woven, parameters, options }: LoadRequest): Computation<LoadAnswer> {
  const log: LogEntry[] = [];
  const cuts: Cut[] = [];

  function* fetch(
    query: LoadPlan['select'],
    outputs: readonly Output[],
    keys: readonly Wire[] | null,
    bound: string,
    path: string,
    span: Statement['span'],
  ): Computation<Fetched> {
    const plain = dialect.printQuery(query);
    const used = usedParameters(plain, keys === null ? parameters : { ...parameters, keys: bound });
    const statement: Statement = { plain, sent: byColumns(dialect, query, outputs, options), parameters: used, path, span };
    const { rows, milliseconds } = yield statement;
    const columns = readColumns(dialect, outputs, rows[0] ?? [], options);
    const broken = options.typesHold ? [] : suspects(columns);
    if (broken.length > 0) {
      const again = yield { ...statement, sent: bytesOf(dialect, query, outputs, broken, options) };
      broken.forEach((column, index) => {
        markBroken(columns[column] ?? [], JSON.parse(String(again.rows[0]?.[index] ?? '[]')) as unknown[]);
      });
    }
    const found = columns[0]?.length ?? 0;
    if (found > options.rowLimit) {
      cuts.push({ path, limit: options.rowLimit });
      for (const cells of columns) cells.length = options.rowLimit;
    }
    log.push({
      path,
      plain,
      sent: statement.sent,
      parameters: shownParameters(used, keys),
      rows: Math.min(found, options.rowLimit),
      milliseconds,
      span,
    });
    return {
      rows: makeRows(outputs, columns),
      columns: new Map(outputs.map((output, index) => [output.as, columns[index] ?? []])),
    };
  }

  function* attach(owners: Fetched, load: LoadPlan): Computation<void> {
    const ownerKeys = keysIn(owners, load.ownerColumns, load.keyType);
    const keys = load.ownersDistinct ? ownerKeys.filter(isKey) : distinct(ownerKeys);
    const children: Fetched =
      keys.length === 0
        ? { rows: [], columns: new Map() }
        : yield* fetch(load.select, load.outputs, keys, keyList(load.keyType, keys), load.path, load.span);
    const stitch = keysIn(children, load.stitchColumns, load.keyType);
    if (load.many) stitchMany(owners.rows, ownerKeys, children.rows, stitch, load.role);
    else stitchOne(owners.rows, ownerKeys, children.rows, stitch, load.role);
    for (const deeper of load.loads) yield* attach(children, deeper);
  }

  const root = yield* fetch(woven.select, woven.outputs, null, '', '', null);
  for (const load of woven.loads) yield* attach(root, load);
  return { rows: root.rows, log, cuts };
}

function usedParameters(sql: string, parameters: Readonly<Record<string, BoundValue>>): Record<string, BoundValue> {
  return Object.fromEntries(Object.entries(parameters).filter(([name]) => new RegExp(`:${name}\\b`).test(sql)));
}

/** Keys as one JSON list. Whole numbers of 64 bits are text on the wire and numbers to the engine; composite keys are lists. */
export function keyList(type: LoadPlan['keyType'], keys: readonly Wire[]): string {
  return type.kind === 'bigint' || type.kind === 'decimal' || type.kind === 'composite'
    ? `[${keys.join(',')}]`
    : JSON.stringify(keys);
}

/** The keys that stand in these columns, row by row; of several columns, as one list each. */
function keysIn({ columns }: Fetched, names: readonly string[], type: LoadPlan['keyType']): readonly Wire[] {
  const [first = [], ...others] = names.map((name) => columns.get(name) ?? []);
  if (others.length === 0) return first;
  return first.map((part, row) => {
    const parts = [part, ...others.map((cells) => cells[row] ?? null)];
    return parts.every(isKey) ? joinKey(type, parts) : null;
  });
}

/** A value that does not fit its type points at nothing. */
function isKey(key: Wire): boolean {
  return key !== null && typeof key !== 'object';
}

function distinct(keys: readonly Wire[]): Wire[] {
  const seen = new Set<Wire>();
  for (const key of keys) if (isKey(key)) seen.add(key);
  return Array.from(seen);
}

function makeRows(outputs: readonly Output[], columns: readonly (readonly Wire[])[]): Row[] {
  const count = columns[0]?.length ?? 0;
  // A field of this name would set an ordinary object's prototype.
  const bare = outputs.some(({ name, pivot }) => name === '__proto__' || pivot === '__proto__');
  const empty = (): Row[] => {
    const made: Row[] = [];
    for (let index = 0; index < count; index++) made.push(bare ? (Object.create(null) as Row) : {});
    return made;
  };
  const rows = empty();
  const pivots = new Map<string, Row[]>();
  outputs.forEach(({ name, pivot }, index) => {
    if (name === null) return;
    if (pivot === null) {
      fill(rows, name, columns[index] ?? []);
      return;
    }
    const parts = pivots.get(pivot) ?? empty();
    pivots.set(pivot, parts);
    fill(parts, name, columns[index] ?? []);
  });
  for (const [pivot, parts] of pivots) fill(rows, pivot, parts);
  return rows;
}

/** Column by column, so that each turn of the loop writes the same property of objects of the same shape. */
function fill(rows: readonly Row[], name: string, cells: readonly unknown[]): void {
  for (let index = 0; index < rows.length; index++) {
    const row = rows[index];
    if (row !== undefined) row[name] = cells[index];
  }
}

/** Children arrive owner by owner, so each owner's are one run; only the runs are looked up. */
function stitchMany(
  owners: readonly Row[],
  ownerKeys: readonly Wire[],
  children: readonly Row[],
  stitch: readonly Wire[],
  role: string,
): void {
  const runs = new Map<Wire, Row[]>();
  let from = 0;
  for (let at = 1; at <= children.length; at++) {
    if (at < children.length && stitch[at] === stitch[from]) continue;
    if (children.length > 0) runs.set(stitch[from] ?? null, children.slice(from, at));
    from = at;
  }
  owners.forEach((owner, index) => {
    owner[role] = runs.get(ownerKeys[index] ?? null) ?? [];
  });
}

function stitchOne(
  owners: readonly Row[],
  ownerKeys: readonly Wire[],
  children: readonly Row[],
  stitch: readonly Wire[],
  role: string,
): void {
  const byKey = new Map<Wire, Row>();
  for (let at = 0; at < children.length; at++) {
    const child = children[at];
    if (child !== undefined) byKey.set(stitch[at] ?? null, child);
  }
  owners.forEach((owner, index) => {
    owner[role] = byKey.get(ownerKeys[index] ?? null) ?? null;
  });
}

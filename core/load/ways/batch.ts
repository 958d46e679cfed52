import type { Dialect } from '../../dialects/index.js';
import { KIND_NAME } from '../../model/index.js';
import { type BoundParameter, joinKey, parseWire, type Wire } from '../../values/index.js';
import type { CompiledLoad, CompiledRead, KindOutput, Output } from '../compile/index.js';
import { fetch } from '../fetch.js';
import type { Computation, LogEntry } from '../statement.js';
import type { AnswerRow, Cut, LoadAnswer, LoadRequest } from '../way.js';

interface Loaded {
  readonly rows: AnswerRow[];
  readonly columns: ReadonlyMap<string, readonly Wire[]>;
}

/**
 * Runs a load by batch: one statement for the root rows and one for each loaded relation, with the owners' keys as
 * one parameter; none where there are no owners.
 */
export function* loadByBatch(dialect: Dialect, { prepared, rowLimit }: LoadRequest): Computation<LoadAnswer> {
  const { values } = dialect;
  const { compiled, parameters, madeHere } = prepared;
  const options = { madeHere, rowLimit };
  const log: LogEntry[] = [];
  const cuts: Cut[] = [];

  function* rowsOf(
    { select: query, outputs, kind }: CompiledRead,
    keys: readonly Wire[] | null,
    bound: BoundParameter,
    path: string,
    span: CompiledLoad['span'],
  ): Computation<Loaded> {
    const all = keys === null ? parameters : { ...parameters, keys: bound };
    const purpose = { keys, path, span, explained: true, mayFail: false };
    const fetched = yield* fetch(dialect, { query, outputs, parameters: all, options }, purpose);
    if (fetched.cut) cuts.push({ path, limit: rowLimit, size: null });
    log.push(fetched.entry);
    return {
      rows: makeRows(outputs, fetched.cells, kind),
      columns: new Map(outputs.map((output, index) => [output.as, fetched.cells[index] ?? []])),
    };
  }

  function* attach(all: Loaded, load: CompiledLoad): Computation<void> {
    const owners = ownersOf(all, load);
    const ownerKeys = ownerKeysOf(owners, load);
    const keys = load.ownersDistinct ? ownerKeys.filter(isKey) : distinct(ownerKeys);
    const children: Loaded =
      keys.length === 0
        ? { rows: [], columns: new Map() }
        : yield* rowsOf(load, keys, values.bindKeys(load.keyType, keysAsBound(load, keys)), load.path, load.span);
    const stitch = compared(load, keysIn(children, load.stitchColumns, load.keyType));
    if (load.many) stitchMany(owners.rows, ownerKeys, children.rows, stitch, load);
    else stitchOne(owners.rows, ownerKeys, children.rows, stitch, load);
    for (const deeper of load.loads) yield* attach(children, deeper);
  }

  const root = yield* rowsOf(compiled, null, null, '', null);
  for (const load of compiled.loads) yield* attach(root, load);
  return { rows: root.rows, log, cuts };
}

/** The keys that stand in these columns, row by row; of several columns, as one list each. */
function keysIn({ columns }: Loaded, names: readonly string[], type: CompiledLoad['keyType']): readonly Wire[] {
  const [first = [], ...others] = names.map((name) => columns.get(name) ?? []);
  if (others.length === 0) return first;
  return first.map((part, row) => {
    const parts = [part, ...others.map((cells) => cells[row] ?? null)];
    return parts.every(isKey) ? joinKey(type, parts) : null;
  });
}

/** The rows that have the role at all: where it is one of a kind, those of that kind. */
function ownersOf(all: Loaded, { owners }: CompiledLoad): Loaded {
  if (owners === null || !owners.ofKind) return all;
  const marks = all.columns.get(owners.as) ?? [];
  const has = (_: unknown, row: number) => owners.values.includes(String(marks[row]));
  const columns = Array.from(all.columns, ([name, cells]) => [name, cells.filter(has)] as const);
  return { rows: all.rows.filter(has), columns: new Map(columns) };
}

/** The keys by which each owner's rows are sought; null for owners that have none behind this role. */
function ownerKeysOf(owners: Loaded, load: CompiledLoad): readonly Wire[] {
  const keys = compared(load, keysIn(owners, load.ownerColumns, load.keyType));
  if (load.owners === null || load.owners.ofKind) return keys;
  const { as, values } = load.owners;
  const marks = owners.columns.get(as) ?? [];
  return keys.map((key, row) => (values.includes(String(marks[row])) ? key : null));
}

/** Keys as both sides have them: as texts where the column between holds keys of several types. */
function compared({ asText }: CompiledLoad, keys: readonly Wire[]): readonly Wire[] {
  return asText ? keys.map((key) => (isKey(key) ? String(key) : null)) : keys;
}

/** Keys that were compared as texts, as the type that they are bound as. */
function keysAsBound({ asText, keyType }: CompiledLoad, keys: readonly Wire[]): readonly Wire[] {
  if (!asText) return keys;
  return keys.flatMap((key) => {
    const parsed = parseWire(keyType, String(key));
    return parsed.ok ? [parsed.value] : [];
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

function makeRows(outputs: readonly Output[], columns: readonly (readonly Wire[])[], kind: KindOutput | null): AnswerRow[] {
  const count = columns[0]?.length ?? 0;
  // A field of this name would set an ordinary object's prototype.
  const bare = outputs.some(({ name, pivot }) => name === '__proto__' || pivot === '__proto__');
  const empty = (): AnswerRow[] => {
    const made: AnswerRow[] = [];
    for (let index = 0; index < count; index++) made.push(bare ? (Object.create(null) as AnswerRow) : {});
    return made;
  };
  const rows = empty();
  const pivots = new Map<string, AnswerRow[]>();
  const kinds = kind === null ? null : kindsOf(outputs, columns, kind, count);
  if (kinds !== null) fill(rows, KIND_NAME, kinds);
  outputs.forEach(({ name, pivot, kinds: only, hidden }, index) => {
    if (name === null) return;
    if (hidden === true) {
      fillHidden(rows, name, kinds, only);
      return;
    }
    if (only !== null && kinds !== null) {
      fillKinds(rows, name, columns[index] ?? [], kinds, only);
      return;
    }
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

/** What stands in an answer in place of a value that may not be seen. */
const HIDDEN = Object.freeze({ hidden: true });

/** Says of rows, all or those of some kinds, that they have a value which may not be seen. */
function fillHidden(
  rows: readonly AnswerRow[],
  name: string,
  kinds: readonly string[] | null,
  only: readonly string[] | null,
): void {
  const told = rows.map(() => HIDDEN);
  if (only !== null && kinds !== null) fillKinds(rows, name, told, kinds, only);
  else fill(rows, name, told);
}

/** What kind each row is. */
function kindsOf(
  outputs: readonly Output[],
  columns: readonly (readonly Wire[])[],
  { as, marks, otherwise }: KindOutput,
  count: number,
): string[] {
  const held = columns[outputs.findIndex((output) => output.as === as)] ?? [];
  return Array.from({ length: count }, (_, row) => {
    const mark = String(held[row] ?? '');
    return as !== null && Object.hasOwn(marks, mark) ? (marks[mark] ?? otherwise) : otherwise;
  });
}

/** What rows of some kinds only have. */
function fillKinds(
  rows: readonly AnswerRow[],
  name: string,
  cells: readonly unknown[],
  kinds: readonly string[],
  only: readonly string[],
): void {
  for (let index = 0; index < rows.length; index++) {
    const row = rows[index];
    if (row !== undefined && only.includes(kinds[index] ?? '')) row[name] = cells[index];
  }
}

/** Column by column, so that each turn of the loop writes the same property of objects of the same shape. */
function fill(rows: readonly AnswerRow[], name: string, cells: readonly unknown[]): void {
  for (let index = 0; index < rows.length; index++) {
    const row = rows[index];
    if (row !== undefined) row[name] = cells[index];
  }
}

/** Children arrive owner by owner, so each owner's are one run; only the runs are looked up. */
function stitchMany(
  owners: readonly AnswerRow[],
  ownerKeys: readonly Wire[],
  children: readonly AnswerRow[],
  stitch: readonly Wire[],
  { role, branch }: CompiledLoad,
): void {
  const runs = new Map<Wire, AnswerRow[]>();
  let from = 0;
  for (let at = 1; at <= children.length; at++) {
    if (at < children.length && stitch[at] === stitch[from]) continue;
    if (children.length > 0) runs.set(stitch[from] ?? null, children.slice(from, at));
    from = at;
  }
  owners.forEach((owner, index) => {
    const own = runs.get(ownerKeys[index] ?? null) ?? [];
    const others = branch ? owner[role] : undefined;
    owner[role] = Array.isArray(others) ? [...others, ...own] : own;
  });
}

function stitchOne(
  owners: readonly AnswerRow[],
  ownerKeys: readonly Wire[],
  children: readonly AnswerRow[],
  stitch: readonly Wire[],
  { role, branch }: CompiledLoad,
): void {
  const byKey = new Map<Wire, AnswerRow>();
  for (let at = 0; at < children.length; at++) {
    const child = children[at];
    if (child !== undefined) byKey.set(stitch[at] ?? null, child);
  }
  owners.forEach((owner, index) => {
    const other = branch ? (owner[role] ?? null) : null;
    owner[role] = byKey.get(ownerKeys[index] ?? null) ?? other;
  });
}

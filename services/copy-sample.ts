import type { Design } from '../core/design/index.js';
import type { Field } from '../core/model/index.js';
import { lookAtTable } from '../core/plan/index.js';
import { heldBy, pivotColumns } from '../core/samples/index.js';
import { type Schema, schemaOf, type Table } from '../core/schema/index.js';
import { joinKey, type ValueType, type Wire } from '../core/values/index.js';
import type { Engine, Insert, Outcome, RefusedRows } from '../engines/index.js';
import { type Pointer, pointersOf } from './copy-pointers.js';
import { preparedFor } from './looked-at.js';

/** The copied rows, by table. */
export interface CopiedSample {
  readonly rows: Readonly<Record<string, number>>;
  /** Rows of the database that do not hold to the text, and so cannot stand in the copy. */
  readonly refused: readonly RefusedRows[];
}

type Row = ReadonlyMap<string, Wire>;

/** A database, with the text that says what stands in it. */
interface Source {
  readonly design: Design;
  readonly engine: Engine;
}

/** A table on its way: its rows by their key, as text. */
interface Sampled {
  readonly table: Table;
  readonly types: ReadonlyMap<string, ValueType>;
  readonly rows: Map<string, Row>;
  /** What of it is there already, by the columns that others point at. */
  readonly known: Map<string, Set<string>>;
}

/**
 * Copies some rows of each table of a database into an empty one of another engine, in such a way that every relation
 * holds: with a row come the rows that it points at, and those that they point at.
 *
 * @param from the text read for the engine that is copied from, and `to` the same read for the other
 * @param perTable how many rows of each table to begin with, in the order of its key
 */
export async function copySample(from: Source, to: Source, perTable: number): Promise<Outcome<CopiedSample>> {
  // A table that is somebody else's is copied too: what points at it has to find it.
  const { schema } = schemaOf(from.design.model, from.design.dialect, { standIns: true });
  const target = schemaOf(to.design.model, to.design.dialect, { standIns: true }).schema;
  const pointers = pointersOf(from.design.model);
  const sampled = new Map(
    schema.tables.map((table) => [
      table.name.name,
      { table, types: typesOf(from.design, table), rows: new Map<string, Row>(), known: new Map<string, Set<string>>() },
    ]),
  );
  let wanted: { readonly into: Sampled; readonly rows: readonly Row[] }[] = [];
  for (const into of sampled.values()) {
    const found = await rowsOf(from, into, null, perTable);
    if (!found.ok) return found;
    wanted.push({ into, rows: found.value });
  }
  while (wanted.length > 0) {
    const missing = new Map<string, { into: Sampled; columns: readonly string[]; keys: Map<string, readonly Wire[]> }>();
    for (const { into, rows } of wanted) for (const row of rows) take(row, into, sampled, missing, pointers);
    wanted = [];
    for (const { into, columns, keys } of missing.values()) {
      const found = await rowsOf(from, into, { columns, keys: Array.from(keys.values()) }, keys.size);
      if (!found.ok) return found;
      wanted.push({ into, rows: found.value });
    }
  }
  const { before, after } = to.design.dialect.steps(target);
  const inserts = inOrder(schema).flatMap((table) => insertOf(to.design, target, sampled.get(table.name.name)));
  // Triggers would look for rows that come later: what points at what is there when all is.
  const made = await to.engine.make({ before, inserts, keys: [], after: [], marked: false });
  if (!made.ok) return made;
  const kept = await to.engine.execute(after);
  return kept.ok ? { ok: true, value: { rows: made.value.rows, refused: made.value.refused } } : kept;
}

/** Takes a row in, and notes the rows that it points at and that are not there yet. */
function take(
  row: Row,
  { table, rows, known: ownKnown }: Sampled,
  all: ReadonlyMap<string, Sampled>,
  missing: Map<string, { into: Sampled; columns: readonly string[]; keys: Map<string, readonly Wire[]> }>,
  pointers: readonly Pointer[],
): void {
  rows.set(identity(table, row), row);
  for (const [columns, there] of ownKnown) there.add(valuesIn(row, columns.split('\n')));
  const need = (into: string, columns: readonly string[] | null, values: readonly Wire[]) => {
    const target = all.get(into);
    if (target === undefined || values.includes(null)) return;
    const wanted = columns ?? target.table.primaryKey.columns;
    const sought = JSON.stringify(values);
    if (knownBy(target, wanted).has(sought)) return;
    const place = `${into}\n${wanted.join('\n')}`;
    const known = missing.get(place) ?? { into: target, columns: wanted, keys: new Map<string, readonly Wire[]>() };
    known.keys.set(sought, values);
    missing.set(place, known);
  };
  for (const key of table.foreignKeys)
    need(
      key.table,
      key.references.length > 0 ? key.references : null,
      key.columns.map((name) => row.get(name) ?? null),
    );
  for (const { from, columns, when, to, keyOf } of pointers) {
    if (from !== table.name.name || (when !== null && !when.values.includes(String(row.get(when.column))))) continue;
    const values = columns.map((name) => row.get(name) ?? null);
    if (!values.includes(null)) for (const place of to) need(place.table, place.columns, keyOf(values));
  }
}

/** The values by which rows of a table are pointed at over some columns: of all rows that are there. */
function knownBy({ rows, known }: Sampled, columns: readonly string[]): Set<string> {
  const place = columns.join('\n');
  const before = known.get(place);
  if (before !== undefined) return before;
  const there = new Set(Array.from(rows.values(), (row) => valuesIn(row, columns)));
  known.set(place, there);
  return there;
}

function valuesIn(row: Row, columns: readonly string[]): string {
  return JSON.stringify(columns.map((name) => row.get(name) ?? null));
}

/** What tells a row apart: its key, or all that it has. */
function identity({ primaryKey, columns }: Table, row: Row): string {
  const names = primaryKey.columns.length > 0 ? primaryKey.columns : columns.map(({ name }) => name);
  return valuesIn(row, names);
}

async function rowsOf(
  { design, engine }: Source,
  { table, types }: Sampled,
  by: { readonly columns: readonly string[]; readonly keys: readonly (readonly Wire[])[] } | null,
  rowLimit: number,
): Promise<Outcome<readonly Row[]>> {
  const typeOf = (name: string): ValueType => types.get(name) ?? { kind: 'text', length: null };
  const names = table.columns.map(({ name }) => name);
  const columns = names.map((name) => ({ as: name, column: name, type: typeOf(name) }));
  const look = lookAtTable(design.model, table.name);
  const keyTypes = by?.columns.map(typeOf) ?? [];
  const where = by === null ? null : look.asks({ kind: 'given', columns: by.columns, types: keyTypes });
  const plan = look.plan(where, { kind: 'stored', columns, key: null }, table.primaryKey.columns);
  const ready = preparedFor({ design, madeHere: false, sampleKeys: {} }, plan);
  if (!ready.ok) return { ok: false, problem: { code: 'statement', message: ready.problems.join(' ') } };
  const [only] = keyTypes;
  const type: ValueType = keyTypes.length === 1 && only !== undefined ? only : { kind: 'composite', parts: keyTypes };
  const keys = by === null ? null : { type, list: by.keys.map((parts) => joinKey(type, parts)) };
  const found = await engine.run('stored rows', [{ prepared: ready.prepared, keys, rowLimit }]);
  if (!found.ok) return found;
  const [cells = []] = found.value;
  const rows = Array.from(
    { length: cells[0]?.length ?? 0 },
    (_, row): Row => new Map(names.map((name, at) => [name, cells[at]?.[row] ?? null])),
  );
  return { ok: true, value: rows };
}

/** Tables after those that they point at, as far as there is such an order. */
function inOrder({ tables }: Schema): Table[] {
  const done = new Set<string>();
  const ordered: Table[] = [];
  const visit = (table: Table, above: ReadonlySet<string>): void => {
    if (done.has(table.name.name) || above.has(table.name.name)) return;
    for (const key of table.foreignKeys) {
      const target = tables.find(({ name }) => name.name === key.table);
      if (target !== undefined) visit(target, new Set([...above, table.name.name]));
    }
    if (done.has(table.name.name)) return;
    done.add(table.name.name);
    ordered.push(table);
  };
  for (const table of tables) visit(table, new Set());
  return ordered;
}

function insertOf({ dialect }: Design, schema: Schema, sampled: Sampled | undefined): Insert[] {
  if (sampled === undefined || sampled.rows.size === 0) return [];
  const { name } = sampled.table.name;
  const target = schema.tables.find((table) => table.name.name === name);
  if (target === undefined) return [];
  const names = target.columns.filter(({ generated }) => generated === null).map((own) => own.name);
  const rows = Array.from(sampled.rows.values(), (row) =>
    names.map((own) => dialect.values.bind(sampled.types.get(own) ?? { kind: 'text', length: null }, row.get(own) ?? null)),
  );
  return [{ table: target.name, columns: names, rows }];
}

/** The type of each column of a table, as the text has it: of its fields, and of the keys that its relations hold. */
function typesOf({ model }: Design, { name }: Table): ReadonlyMap<string, ValueType> {
  const types = new Map<string, ValueType>();
  const add = (fields: readonly Field[]) => {
    for (const field of fields) types.set(field.column.value, field.type);
  };
  for (const entity of model.entities.values()) {
    if (entity.table.value.name !== name.name) continue;
    add(entity.fields);
    for (const relation of model.relations.values())
      for (const { name: held, type } of heldBy(model, relation, entity.name)) if (!types.has(held)) types.set(held, type);
  }
  for (const relation of model.relations.values()) {
    const isPivot = relation.kind === 'pivot' || relation.kind === 'polymorphic pivot';
    if (!isPivot || relation.table.value.name !== name.name) continue;
    for (const { name: held, type } of pivotColumns(model, relation)) if (!types.has(held)) types.set(held, type);
  }
  return types;
}

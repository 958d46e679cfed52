import { type DeleteGraph, goingFrom, meantBy } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import {
  allOf,
  anyOf,
  type Change,
  column,
  type Delete,
  equal,
  placeOf,
  type Query,
  renumbered,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
} from '../sql/index.js';
import type { BoundValue } from '../values/index.js';
import type { CommandWork, WriteResult } from './steps.js';

/** A table whose rows can be put back as they were. */
export interface KeptTable {
  readonly table: TableName;
  /** The columns that tell its rows apart; none where it has no key. */
  readonly key: readonly string[];
  /** Those that hold something, rather than compute it. */
  readonly columns: readonly { readonly name: string; readonly declared: string }[];
  /** Triggers that others wrote on it, of which nobody can tell what else they change. */
  readonly triggers: readonly string[];
}

/** What it takes to keep how rows were: the tables of a database, and what its deletes reach. */
export interface KeptTables {
  readonly tables: readonly KeptTable[];
  readonly graph: DeleteGraph;
}

/** A row that was touched: its values before and after, each as a text from which it can be made again; null where there was none. */
export interface KeptRow {
  /** The table, by its place in the list. */
  readonly at: number;
  readonly key: readonly string[];
  readonly before: readonly (string | null)[] | null;
  readonly after: readonly (string | null)[] | null;
}

/** All that commands touched, as it was and as they left it. */
export interface Undo {
  readonly tables: readonly KeptTable[];
  readonly rows: readonly KeptRow[];
  /** Why not all of it can be put back, in words; none where it can. */
  readonly lacks: readonly string[];
}

/** So many rows are kept as they were; of more nothing is put back. */
const MOST_KEPT = 20_000;

interface Seen {
  readonly table: KeptTable;
  readonly key: readonly string[];
  readonly before: readonly (string | null)[] | null;
}

/** Keeps how rows were before commands touch them, also those that a delete takes along or empties. */
export class Journal {
  private readonly seen = new Map<string, Seen>();
  private readonly lacks = new Set<string>();
  private readonly byPlace: ReadonlyMap<string, KeptTable>;

  constructor(
    private readonly dialect: Dialect,
    private readonly kept: KeptTables,
  ) {
    this.byPlace = new Map(kept.tables.map((table) => [placeOf(table.table), table]));
  }

  /** Keeps the rows that a change is about to touch. */
  *before(change: Change, values: readonly BoundValue[]): CommandWork<void> {
    const table = this.tableOf(change.kind === 'insert' ? change.into : change.kind === 'update' ? change.table : change.from);
    if (table === null || change.kind === 'insert') return;
    if (change.kind === 'delete') {
      yield* this.keepReached(table, change, values);
      return;
    }
    const set = change.set.length;
    const where = change.where === null ? null : renumbered(change.where, set);
    yield* this.keep(table, { where, values: values.slice(set) });
  }

  /** Notes a row that was put in. */
  *after(change: Change, values: readonly BoundValue[], { rows }: WriteResult): CommandWork<void> {
    if (change.kind !== 'insert') return;
    const table = this.tableOf(change.into);
    if (table === null) return;
    const [row = []] = change.rows;
    const bound: BoundValue[] = [];
    const same = table.key.map((name) => {
      const at = change.columns.indexOf(name);
      const given = row[at];
      const returned = (change.returning ?? []).indexOf(name);
      bound.push(
        given?.kind === 'placeholder' ? (values[given.number - 1] ?? null) : ((rows[0]?.[returned] ?? null) as BoundValue),
      );
      return equal(column(null, name), { kind: 'placeholder', number: bound.length });
    });
    if (bound.includes(null)) this.lacks.add(`the key of a row that was put into ${table.table.name} is not known`);
    else yield* this.keep(table, { where: allOf(same), values: bound, isNew: true });
  }

  /** All that was touched, with how it is now. */
  *finish(): CommandWork<Undo> {
    const rows: KeptRow[] = [];
    for (const { table, key, before } of this.seen.values()) {
      const after = yield* imageOf(this.dialect, table, key);
      if (JSON.stringify(before) !== JSON.stringify(after))
        rows.push({ at: this.kept.tables.indexOf(table), key, before, after });
    }
    const used = Array.from(new Set(rows.map(({ at }) => at)));
    return {
      tables: used.flatMap((at) => this.kept.tables[at] ?? []),
      rows: rows.map((row) => ({ ...row, at: used.indexOf(row.at) })),
      lacks: Array.from(this.lacks),
    };
  }

  /** The table of a change; null, and why, where its rows cannot be put back. */
  private tableOf(name: TableName): KeptTable | null {
    const table = this.byPlace.get(placeOf(name)) ?? null;
    if (table === null || table.key.length === 0)
      this.lacks.add(`${name.name} has no key by which its rows could be found again`);
    for (const trigger of table?.triggers ?? []) this.lacks.add(`the trigger ${trigger} of ${name.name} was written by others`);
    return table === null || table.key.length === 0 ? null : table;
  }

  /** The rows of a delete, and all that the database takes along or empties with them. */
  private *keepReached(table: KeptTable, change: Delete, values: readonly BoundValue[]): CommandWork<void> {
    yield* this.keep(table, { where: change.where, values });
    const { graph } = this.kept;
    const where = change.where ?? { kind: 'boolean', value: true };
    const going = goingFrom(graph, [{ table: change.from, where }], this.dialect.recursesOnce);
    const reached = new Map<string, SqlExpression[]>();
    for (const edge of graph.edges) {
      const gone = going.names.get(placeOf(edge.parent));
      if (gone === undefined || !CHANGES.includes(edge.effect)) continue;
      const child = placeOf(edge.child);
      reached.set(child, [...(reached.get(child) ?? []), meantBy(edge, gone)]);
    }
    for (const [place, conditions] of reached) {
      const child = this.byPlace.get(place);
      const kept = child === undefined ? null : this.tableOf(child.table);
      if (kept !== null) yield* this.keep(kept, { where: anyOf(conditions), values, tables: going.tables });
    }
  }

  private *keep(
    table: KeptTable,
    {
      where,
      values,
      tables = [],
      isNew = false,
    }: {
      readonly where: SqlExpression | null;
      readonly values: readonly BoundValue[];
      readonly tables?: Extract<Query, { kind: 'with' }>['tables'];
      readonly isNew?: boolean;
    },
  ): CommandWork<void> {
    const select = selectOf(tableSource(table.table), { columns: imageColumns(this.dialect, table), where });
    const query: Query = tables.length === 0 ? select : { kind: 'with', tables, query: select };
    const answer = yield { kind: 'read', sql: this.dialect.printQuery(query), values };
    const rows = answer.kind === 'written' ? answer.result.rows : [];
    for (const row of rows) {
      const image = row.map((value) => (value === null ? null : String(value)));
      const key = table.key.map((name) => image[table.columns.findIndex((one) => one.name === name)] ?? '');
      const name = JSON.stringify([placeOf(table.table), key]);
      if (this.seen.has(name)) continue;
      if (this.seen.size >= MOST_KEPT) this.lacks.add(`more than ${MOST_KEPT.toLocaleString('en')} rows were touched`);
      else this.seen.set(name, { table, key, before: isNew ? null : image });
    }
  }
}

const CHANGES: readonly string[] = ['goes along', 'is emptied', 'gets its default'];

function imageColumns({ exact }: Dialect, { columns }: KeptTable) {
  return columns.map(({ name, declared }) => ({ expression: exact.read(column(null, name), declared), as: null }));
}

/** The condition that a row has a key, and what is bound for it. */
export function withKey(
  { exact }: Dialect,
  { key, columns }: KeptTable,
  texts: readonly string[],
  behind = 0,
): { readonly where: SqlExpression | null; readonly values: readonly BoundValue[] } {
  const values: BoundValue[] = [];
  const same = key.map((name, at) => {
    const declared = columns.find((one) => one.name === name)?.declared ?? '';
    const { bound, as } = exact.write(texts[at] ?? '', declared, { kind: 'placeholder', number: behind + values.length + 1 });
    values.push(bound);
    return equal(column(null, name), as);
  });
  return { where: allOf(same), values };
}

/** A row as it stands, each value as a text; null where it is not there. */
export function* imageOf(
  dialect: Dialect,
  table: KeptTable,
  key: readonly string[],
): CommandWork<readonly (string | null)[] | null> {
  const { where, values } = withKey(dialect, table, key);
  const select = selectOf(tableSource(table.table), { columns: imageColumns(dialect, table), where });
  const answer = yield { kind: 'read', sql: dialect.printQuery(select), values };
  const row = answer.kind === 'written' ? answer.result.rows[0] : undefined;
  return row === undefined ? null : row.map((value) => (value === null ? null : String(value)));
}

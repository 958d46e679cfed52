import type { Column, Schema, Table } from '../schema/index.js';
import type { TableName } from '../sql/index.js';

/** A table as a key of a map: engines take two names that differ in case for one. */
export function tableKey({ schema, name }: TableName): string {
  return `${schema ?? ''}.${name}`.toLowerCase();
}

/** A column of a table as a key of a map. */
export function columnKey(table: TableName, column: string): string {
  return `${tableKey(table)}\n${column.toLowerCase()}`;
}

/** Where the values of a column come from: a column that was there before, of the same table or of another. */
export interface FormerColumn {
  readonly table: TableName;
  readonly column: string;
}

/**
 * What tables and columns were called before, as the text (`was`) and the answers say it, by what they are called now. *new*
 * says of one that it was nothing.
 */
export interface FormerNames {
  readonly tables: ReadonlyMap<string, TableName | 'new'>;
  readonly columns: ReadonlyMap<string, FormerColumn | 'new'>;
}

export const NO_FORMER_NAMES: FormerNames = { tables: new Map(), columns: new Map() };

/** A column before and after; null where it was not there, or will not be. */
export interface ColumnPair {
  readonly before: Column | null;
  readonly after: Column | null;
  /** Where its values come from, if they stood in another table. */
  readonly movedFrom: FormerColumn | null;
}

/** A table before and after; null where it was not there, or will not be. */
export interface TablePair {
  readonly before: Table | null;
  readonly after: Table | null;
  readonly columns: readonly ColumnPair[];
}

/** Something that is gone and something that is new, which could be one; a person says whether they are. */
export interface MaybeRenamed {
  readonly kind: 'table' | 'column';
  /** The table as it will be; of a column, the table that it stands in. */
  readonly table: TableName;
  readonly column: string | null;
  /** What it could have been, the likeliest first. */
  readonly candidates: readonly { readonly table: TableName; readonly column: string | null; readonly likeness: number }[];
}

export interface Paired {
  readonly tables: readonly TablePair[];
  /** The pairs by what their tables are called, before and after. */
  readonly byBefore: ReadonlyMap<string, TablePair>;
  readonly byAfter: ReadonlyMap<string, TablePair>;
  readonly maybe: readonly MaybeRenamed[];
}

/** What is not to be told from names. */
export interface Strangers {
  /** Whether a table that only the database has was one of the design's; others are nobody's, and stay out of everything. */
  mine(table: TableName): boolean;
  /** Whether values of one column could be those of another. */
  alike(one: Column, other: Column): boolean;
}

/** How alike two have to be, from 0 to 1, to be asked about. */
const LEAST_LIKENESS = 0.5;

/**
 * Which table and column of a database is which of the design: by name, by what the text or an answer says that it was.
 *
 */
export function pairUp(before: Schema, after: Schema, former: FormerNames, { mine, alike }: Strangers): Paired {
  const byKey = new Map(before.tables.map((table) => [tableKey(table.name), table]));
  const taken = new Set<string>();
  const found = new Map<Table, Table>();
  for (const table of after.tables) {
    const same = byKey.get(tableKey(table.name));
    if (same === undefined) continue;
    found.set(table, same);
    taken.add(tableKey(same.name));
  }
  for (const table of after.tables) {
    const said = former.tables.get(tableKey(table.name));
    if (found.has(table) || said === undefined || said === 'new') continue;
    const was = byKey.get(tableKey(said));
    if (was === undefined || taken.has(tableKey(was.name))) continue;
    found.set(table, was);
    taken.add(tableKey(was.name));
  }
  const left = before.tables.filter(({ name }) => !taken.has(tableKey(name)));
  const maybe: MaybeRenamed[] = [];
  const pairs: TablePair[] = [];
  for (const table of after.tables) {
    const was = found.get(table) ?? null;
    if (was === null && !former.tables.has(tableKey(table.name))) {
      const asked = likeTables(table, left, mine);
      if (asked !== null) maybe.push(asked);
    }
    pairs.push(columnsOf(was, table, { former, before: byKey, maybe, alike }));
  }
  const gone = left.filter(({ name }) => mine(name));
  for (const table of gone)
    pairs.push({
      before: table,
      after: null,
      columns: table.columns.map((column) => ({ before: column, after: null, movedFrom: null })),
    });
  const keyed = (side: 'before' | 'after') =>
    new Map(
      pairs.flatMap((pair) => {
        const table = pair[side];
        return table === null ? [] : [[tableKey(table.name), pair] as const];
      }),
    );
  return { tables: pairs, byBefore: keyed('before'), byAfter: keyed('after'), maybe };
}

interface Around {
  readonly former: FormerNames;
  readonly before: ReadonlyMap<string, Table>;
  readonly maybe: MaybeRenamed[];
  readonly alike: Strangers['alike'];
}

function columnsOf(was: Table | null, table: Table, { former, before, maybe, alike }: Around): TablePair {
  const own = new Map(was?.columns.map((column) => [column.name.toLowerCase(), column]));
  const taken = new Set<Column>();
  const found = new Map<Column, Column>();
  for (const column of table.columns) {
    const same = own.get(column.name.toLowerCase());
    if (same === undefined) continue;
    found.set(column, same);
    taken.add(same);
  }
  const moved = new Map<Column, FormerColumn>();
  for (const column of table.columns) {
    const said = former.columns.get(columnKey(table.name, column.name));
    if (found.has(column) || said === undefined || said === 'new') continue;
    const isHere = tableKey(said.table) === tableKey(was?.name ?? table.name) || tableKey(said.table) === tableKey(table.name);
    const here = isHere ? own.get(said.column.toLowerCase()) : undefined;
    if (here !== undefined && !taken.has(here)) {
      found.set(column, here);
      taken.add(here);
    } else if (!isHere && hasColumn(before.get(tableKey(said.table)), said.column)) moved.set(column, said);
  }
  const left = was === null ? [] : was.columns.filter((column) => !taken.has(column));
  const pairs = table.columns.map((column): ColumnPair => {
    const same = found.get(column) ?? null;
    const isAsked = same === null && was !== null && !former.columns.has(columnKey(table.name, column.name));
    const asked = isAsked
      ? likeColumns(
          was,
          table,
          column,
          left.filter((other) => alike(other, column)),
        )
      : null;
    if (asked !== null) maybe.push(asked);
    return { before: same, after: column, movedFrom: moved.get(column) ?? null };
  });
  const gone = left.map((column): ColumnPair => ({ before: column, after: null, movedFrom: null }));
  return { before: was, after: table, columns: [...pairs, ...gone] };
}

function hasColumn(table: Table | undefined, name: string): boolean {
  return table?.columns.some((column) => column.name.toLowerCase() === name.toLowerCase()) === true;
}

/**
 * Tables that a new one could have been. One that was the design's is asked about where it is half like it; one of somebody
 * else's only where it is nearly the same, so that each new table beside ten others is no question.
 */
function likeTables(table: Table, left: readonly Table[], mine: (table: TableName) => boolean): MaybeRenamed | null {
  const candidates = left.flatMap((other) => {
    const likeness = likenessOfTables(other, table);
    return likeness >= (mine(other.name) ? LEAST_LIKENESS : NEARLY) ? [{ table: other.name, column: null, likeness }] : [];
  });
  return candidates.length === 0
    ? null
    : { kind: 'table', table: table.name, column: null, candidates: candidates.sort((a, b) => b.likeness - a.likeness) };
}

const NEARLY = 0.8;

/** The share of the columns of both that the other has too, by name and type. */
function likenessOfTables(one: Table, other: Table): number {
  const said = new Set(other.columns.map(({ name, type }) => `${name} ${type}`.toLowerCase()));
  const shared = one.columns.filter(({ name, type }) => said.has(`${name} ${type}`.toLowerCase())).length;
  const most = Math.max(one.columns.length, other.columns.length);
  return most === 0 ? 0 : shared / most;
}

/** Columns that a new one could have been, whatever it is called. */
function likeColumns(was: Table, table: Table, column: Column, left: readonly Column[]): MaybeRenamed | null {
  const candidates = left.flatMap((other) => {
    if (isKeyOf(was, other) !== isKeyOf(table, column)) return [];
    const same = [other.notNull === column.notNull, other.type.toLowerCase() === column.type.toLowerCase()].filter(
      Boolean,
    ).length;
    const likeness = LEAST_LIKENESS + (likenessOfNames(other.name, column.name) + same) / 6;
    return [{ table: was.name, column: other.name, likeness }];
  });
  return candidates.length === 0
    ? null
    : { kind: 'column', table: table.name, column: column.name, candidates: candidates.sort((a, b) => b.likeness - a.likeness) };
}

function isKeyOf({ primaryKey }: Table, { name }: Column): boolean {
  return primaryKey.columns.includes(name);
}

/** The share of pairs of letters that two names have in common. */
function likenessOfNames(one: string, other: string): number {
  const pairs = (name: string) =>
    new Set(Array.from({ length: Math.max(0, name.length - 1) }, (_, at) => name.slice(at, at + 2)));
  const first = pairs(one.toLowerCase());
  const second = pairs(other.toLowerCase());
  const shared = Array.from(first).filter((pair) => second.has(pair)).length;
  const all = first.size + second.size;
  return all === 0 ? 0 : (2 * shared) / all;
}

import type { Load } from '../model/index.js';
import type { Fix } from '../notation/index.js';

type Rows = readonly Readonly<Record<string, unknown>>[];

/** Loads to many that come joined with rows of one level, and those rows. */
export interface JoinedLevel {
  /** The path of the rows that they are joined to. */
  readonly path: string;
  readonly owners: Rows;
  readonly loads: readonly Load[];
}

/** Every level of an answer to which related rows are joined that can be many. */
export function joinedLevels(loads: readonly Load[], rowsOf: () => Rows, path = ''): JoinedLevel[] {
  if (!loads.some(joinsAny)) return [];
  const rows = rowsOf();
  const joined = loads.filter(({ by, role }) => by === 'join' && role.knows === 'many');
  const here = joined.length === 0 ? [] : [{ path, owners: rows, loads: joined }];
  const below = loads.flatMap((load) => {
    const { name } = load.role;
    return joinedLevels(load.loads, () => relatedOf(rows, name), path === '' ? name : `${path}.${name}`);
  });
  return [...here, ...below];
}

function joinsAny({ by, loads }: Load): boolean {
  return by === 'join' || loads.some(joinsAny);
}

/** The rows that stand under a name in other rows. */
function relatedOf(rows: Rows, name: string): Rows {
  return rows.flatMap((row) => {
    const value = row[name];
    return (Array.isArray(value) ? value : [value]).filter((one) => typeof one === 'object' && one !== null);
  });
}

/** How many rows stand under a role of one row. */
export function countUnder(row: Readonly<Record<string, unknown>>, { role }: Load): number {
  const value = row[role.name];
  return Array.isArray(value) ? value.length : 0;
}

/** In how many lines a row comes to which these loads are joined. */
export function linesOf(row: Readonly<Record<string, unknown>>, loads: readonly Load[]): number {
  return loads.reduce((product, load) => product * (countUnder(row, load) || 1), 1);
}

/** Takes the way out of a line `load`, so that its rows come by a statement of their own; null where it says it elsewhere. */
export function byBatch({ role, span }: Load, text: string): (Fix & { readonly of: 'query' }) | null {
  const [line = ''] = text.slice(span.start, span.end).split('\n');
  const way = /\s+by\s+(?:join|row|json)(?=\s*(?:--.*)?$)/.exec(line);
  if (way === null) return null;
  const start = span.start + way.index;
  const edits = [{ span: { start, end: start + way[0].length }, text: '' }];
  return { of: 'query', title: `Load ${role.name} by batch`, edits };
}

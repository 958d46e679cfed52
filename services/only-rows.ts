import type { Load } from '../core/model/index.js';

type Row = Record<string, unknown>;

/** Rows of which some loads are one row instead of a list; or which owner has none, or several. */
export type OnlyRows = { readonly ok: true; readonly rows: readonly Row[] } | { readonly ok: false; readonly problem: string };

/** Does any of these loads ask for one row of each owner? */
export function asksForOne(loads: readonly Load[]): boolean {
  return loads.some(({ only, loads: below }) => only !== null || asksForOne(below));
}

/** Puts the one row of each owner in the place of its list, where a load asks for the first or for the only one. */
export function withOnlyRows(rows: readonly Row[], loads: readonly Load[], path = ''): OnlyRows {
  for (const load of loads) {
    const { name, entity } = load.role;
    const own = path === '' ? name : `${path}.${name}`;
    const below = withOnlyRows(
      rows.flatMap((row) => rowsUnder(row[name])),
      load.loads,
      own,
    );
    if (!below.ok) return below;
    if (load.only === null) continue;
    for (const row of rows) {
      const list = row[name];
      if (!Array.isArray(list)) continue;
      if (load.only === 'one' && list.length !== 1)
        return {
          ok: false,
          problem: `load ${own} asks for one row, and ${entity} ${keyIn(row)} has ${list.length === 0 ? 'none' : 'several'}. Write “first” where none will do, or leave it out for all.`,
        };
      row[name] = list[0] ?? null;
    }
  }
  return { ok: true, rows };
}

function rowsUnder(value: unknown): Row[] {
  const all: readonly unknown[] = Array.isArray(value) ? value : [value];
  return all.filter((one): one is Row => typeof one === 'object' && one !== null);
}

/** What a person knows an owner by: its first value, which is its key where it shows one. */
function keyIn(row: Row): string {
  const [first] = Object.values(row).filter((value) => typeof value === 'number' || typeof value === 'string');
  return String(first ?? '');
}

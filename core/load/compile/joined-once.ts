import { type Join, renamed } from '../../sql/index.js';
import type { Compiling } from './compiling.js';
import type { JoinedRows } from './owners.js';

/**
 * Joined rows without the joins that their owners' select has already, since an order or a condition walks the same role. What a
 * select of owners joins is one row for each of them at most, so it is the same row.
 */
export function joinedOnce(compiling: Compiling, known: readonly Join[], joined: readonly JoinedRows[]): JoinedRows[] {
  return joined.map((rows) => {
    let once: JoinedRows = { ...rows, joins: [] };
    let others = rows.joins;
    while (others.length > 0) {
      const [join, ...rest] = others;
      if (join === undefined) break;
      const same = known.find((one) => isSame(compiling, one, join));
      if (same === undefined) {
        once = { ...once, joins: [...once.joins, join] };
        others = rest;
        continue;
      }
      const from = join.source.alias;
      const to = same.source.alias;
      once = { ...once, columns: renamed(once.columns, from, to), orderBy: renamed(once.orderBy, from, to) };
      others = renamed(rest, from, to);
    }
    return once;
  });
}

/** Do two joins bring the same rows of one table? */
function isSame({ print }: Compiling, one: Join, other: Join): boolean {
  const [table, repeated] = [one.source.from, other.source.from];
  if (table.kind !== 'table' || repeated.kind !== 'table') return false;
  const { schema, name } = table.table;
  if (name !== repeated.table.name || schema !== repeated.table.schema) return false;
  return print(one.on) === print(renamed(other.on, other.source.alias, one.source.alias));
}

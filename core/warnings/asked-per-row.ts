import type { Load } from '../model/index.js';
import { byBatch } from './joined-loads.js';
import { counted, type Warning } from './warning.js';

/** A load that says `by row` asks once for each owner. */
export const askedPerRow: Warning = {
  code: 'asked-per-row',
  find: ({ query, log, text }) =>
    byPath(query.loads).flatMap(({ path, load }) => {
      const entry = log.find((one) => one.path === path);
      if (load.by !== 'row' || entry === undefined || entry.times < 2) return [];
      return [
        {
          weight: 'warning' as const,
          code: askedPerRow.code,
          message: `${path} is asked for once for each row. By batch it is one statement, whatever the number of rows.`,
          evidence: `${counted(entry.times, 'statement')} for ${counted(entry.rows, 'row')}.`,
          span: load.span,
          fix: byBatch(load, text),
        },
      ];
    }),
};

/** Every load of a query with its path. */
function byPath(loads: readonly Load[], above = ''): { readonly path: string; readonly load: Load }[] {
  return loads.flatMap((load) => {
    const path = above === '' ? load.role.name : `${above}.${load.role.name}`;
    return [{ path, load }, ...byPath(load.loads, path)];
  });
}

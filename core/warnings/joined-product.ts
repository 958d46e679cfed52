import { byBatch, countUnder, joinedLevels, linesOf } from './joined-loads.js';
import { counted, type Warning } from './warning.js';

/** Two loads to many are joined to the same rows: each row of the one comes with each of the other. */
export const joinedProduct: Warning = {
  code: 'joined-product',
  find: ({ query, rows, text }) =>
    joinedLevels(query.loads, rows).flatMap(({ path, owners, loads }) => {
      const last = loads.at(-1);
      if (last === undefined || loads.length < 2) return [];
      const lines = owners.reduce((sum, row) => sum + linesOf(row, loads), 0);
      const sizes = loads.map((load) => owners.reduce((sum, row) => sum + countUnder(row, load), 0));
      const wanted = sizes.reduce((sum, size) => sum + size, owners.length);
      if (lines <= wanted) return [];
      const names = loads.map(({ role }) => role.name);
      const related = names.map((name, index) => `${(sizes[index] ?? 0).toLocaleString('en')} ${name}`);
      return [
        {
          weight: 'warning' as const,
          code: joinedProduct.code,
          message: `${names.join(' and ')} are both joined${path === '' ? '' : ` to ${path}`}, so each of the one comes with each of the other. Load ${last.role.name} by batch.`,
          evidence: `${counted(lines, 'line')} for ${counted(owners.length, 'row')} with ${related.join(' and ')}.`,
          span: last.span,
          fix: byBatch(last, text),
        },
      ];
    }),
};

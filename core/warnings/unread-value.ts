import { entityOf } from '../model/index.js';
import type { Warning } from './warning.js';

/** Shorter values are not worth a line, in characters of the answer. */
const LONG = 200;

/** The root rows bring bytes or long texts that the page does not read. */
export const unreadValue: Warning = {
  code: 'unread-value',
  find: ({ model, query, count, rows: rowsOf }) => {
    if (query.reads.length === 0 || query.show !== null) return [];
    const read = new Set(query.reads.flatMap(({ steps, field }) => (steps.length === 0 && field !== null ? [field] : [])));
    return entityOf(model, query.entity).fields.flatMap(({ name, type }) => {
      const isLong = type.kind === 'bytes' || type.kind === 'json' || (type.kind === 'text' && type.length === null);
      if (!isLong || read.has(name)) return [];
      const rows = rowsOf();
      const size = rows.reduce((sum, row) => sum + lengthOf(row[name]), 0);
      if (size < LONG * Math.max(1, count)) return [];
      return [
        {
          weight: 'warning' as const,
          code: unreadValue.code,
          message: `${query.entity}.${name} comes with every row, and the page does not read it. Name what it reads with “show”, or make the field hidden.`,
          evidence: `${Math.round(size / 1000).toLocaleString('en')} kB of ${count.toLocaleString('en')} rows.`,
          span: query.reads[0]?.span ?? null,
          fix: null,
        },
      ];
    });
  },
};

function lengthOf(value: unknown): number {
  if (typeof value === 'string') return value.length;
  return value === null || value === undefined ? 0 : JSON.stringify(value).length;
}

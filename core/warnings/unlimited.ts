import { counted, type Warning } from './warning.js';

/** As many rows as a page hardly shows. */
const MANY = 1000;

/** A root without a limit, and so many rows that nobody looks at them all. */
export const unlimited: Warning = {
  code: 'unlimited',
  find: ({ query, count, log, text }) => {
    const { limit, cardinality, groupBy, entity, span } = query;
    if (limit !== null || cardinality !== 'many' || groupBy !== null || count < MANY) return [];
    const bytes = log.reduce((sum, entry) => sum + entry.bytes, 0);
    const start = span.end;
    const isOneLine = text.includes(';') && !text.trimEnd().includes('\n');
    const line = isOneLine ? '; limit 50' : `${text.slice(0, span.end).endsWith('\n') ? '' : '\n'}limit 50`;
    return [
      {
        weight: 'warning' as const,
        code: unlimited.code,
        message: `All rows of ${entity} that fit are answered: with no limit there are more of them each year. Add “limit 50”.`,
        evidence: `${counted(count, 'row')}, ${Math.round(bytes / 1000).toLocaleString('en')} kB.`,
        span: null,
        fix: { of: 'query' as const, title: 'Add limit 50', edits: [{ span: { start, end: start }, text: line }] },
      },
    ];
  },
};

import { byBatch, joinedLevels, linesOf } from './joined-loads.js';
import type { Warning } from './warning.js';

/** A limit stands where rows are joined to many: behind the join it would count lines. */
export const joinedLimit: Warning = {
  code: 'joined-limit',
  find: ({ query, rows, text }) => {
    const isLimited = query.limit !== null || query.offset !== null || query.cardinality === 'first';
    const [level] = joinedLevels(query.loads, rows).filter(({ path }) => path === '');
    const [load] = level?.loads ?? [];
    if (!isLimited || level === undefined || load === undefined) return [];
    let lines = 0;
    let kept = 0;
    for (const row of level.owners) {
      if (lines >= level.owners.length) break;
      kept += 1;
      lines += linesOf(row, level.loads);
    }
    if (kept === level.owners.length) return [];
    return [
      {
        weight: 'note' as const,
        code: joinedLimit.code,
        message: `${load.role.name} is joined to rows of ${query.entity} that are limited. The limit stands here in a select of its own, before the join; behind the join it would count lines.`,
        evidence: `Behind the join, the limit would keep ${kept} of these ${level.owners.length} rows.`,
        span: load.span,
        fix: byBatch(load, text),
      },
    ];
  },
};

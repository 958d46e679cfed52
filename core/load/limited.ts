import type { Output } from '../plan/index.js';
import { column, number, type Query } from '../sql/index.js';

/** A query that gives so many rows at most: with a limit of its own, or as a select around it. */
export function limited(query: Query, outputs: readonly Output[], most: number): Query {
  if (query.kind === 'select' && query.limit === null) return { ...query, limit: number(most) };
  if (query.kind === 'select' && query.limit?.kind === 'number' && Number(query.limit.text) <= most) return query;
  return {
    kind: 'select',
    columns: outputs.map(({ as }) => ({ expression: column('asked', as), as })),
    from: { from: { kind: 'select', select: query }, alias: 'asked', entity: null },
    joins: [],
    where: null,
    orderBy: [],
    limit: number(most),
    offset: null,
  };
}

import { column, derived, number, type Query, selectOf } from '../sql/index.js';
import type { Output } from './compile/index.js';

/** A query that gives so many rows at most: with a limit of its own, or as a select around it. */
export function limited(query: Query, outputs: readonly Output[], most: number): Query {
  if (query.kind === 'select' && query.limit === null) return { ...query, limit: number(most) };
  if (query.kind === 'select' && query.limit?.kind === 'number' && Number(query.limit.text) <= most) return query;
  return selectOf(derived(query, 'asked'), {
    columns: outputs.map(({ as }) => ({ expression: column('asked', as), as })),
    limit: number(most),
  });
}

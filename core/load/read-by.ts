import type { Select } from '../sql/index.js';
import type { Prepared } from './prepare.js';

/** The cost of an answer: its joins, and the tables that are read one after the other. */
export interface ReadBy {
  readonly joins: number;
  readonly tables: number;
}

/** By how many joins and tables a prepared plan reads its rows. */
export function readBy({ compiled: { select } }: Prepared): ReadBy {
  return { joins: joinsIn(select), tables: selectsIn(select).reduce((sum, { joins }) => sum + 1 + joins.length, 0) };
}

/** The selects in which tables are read: the select itself, or those of a union in its place. */
function selectsIn(select: Select): readonly Select[] {
  const { from } = select.from;
  if (from.kind !== 'select') return [select];
  if (from.select.kind === 'union all') return from.select.selects;
  return from.select.kind === 'select' ? [select, ...selectsIn(from.select)] : [select];
}

function joinsIn(select: Select): number {
  return select.joins.length + selectsIn(select).reduce((sum, inner) => sum + (inner === select ? 0 : inner.joins.length), 0);
}

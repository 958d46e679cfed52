/** What a person should know of a query that was run, with what shows it. One file for each, and one line in the table. */
import { askedPerRow } from './asked-per-row.js';
import { countForExists } from './count-for-exists.js';
import { joinedLimit } from './joined-limit.js';
import { joinedProduct } from './joined-product.js';
import { looseOrder } from './loose-order.js';
import { noIndex } from './no-index.js';
import { notLoaded } from './not-loaded.js';
import { unlimited } from './unlimited.js';
import { unreadValue } from './unread-value.js';
import type { QueryWarning, RanQuery, Warning } from './warning.js';

export { looseOrderOf } from './loose-order.js';
export { unindexedOf } from './no-index.js';
export type { QueryWarning, RanQuery } from './warning.js';

const warnings: readonly Warning[] = [
  notLoaded,
  askedPerRow,
  joinedProduct,
  joinedLimit,
  noIndex,
  unlimited,
  unreadValue,
  looseOrder,
  countForExists,
];

/** The warnings on a query that was run, the weightiest first. */
export function warningsOn(ran: RanQuery): QueryWarning[] {
  const all = warnings.flatMap((warning) => warning.find(ran));
  return [...all.filter(({ weight }) => weight === 'warning'), ...all.filter(({ weight }) => weight === 'note')];
}

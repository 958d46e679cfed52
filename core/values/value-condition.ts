import type { ValueCondition } from './engine-values.js';

/** A condition that stands beside others as it is. */
export function single(sql: string): ValueCondition {
  return { sql, joined: false };
}

/** A condition of several, or of a range, which parentheses keep together. */
export function joined(sql: string): ValueCondition {
  return { sql, joined: true };
}

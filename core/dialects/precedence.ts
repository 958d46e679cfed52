import type { SqlOperator } from '../sql/index.js';

/** An operator, of whatever position: infix, prefix or postfix. */
export type Binder = SqlOperator | 'not' | 'negate' | 'is null' | 'is true' | 'in' | 'between' | 'like';

/** How tightly each binds its operands: more is tighter. */
export type Precedence = Readonly<Record<Binder, number>>;

/** An expression that no operator can reach into: a column, a call, what stands in brackets. */
export const TIGHTEST = 100;

/** A dialect's table of precedence, as its manual has it: from the loosest line to the tightest. */
export function precedenceOf(levels: readonly (readonly Binder[])[]): Precedence {
  const entries = levels.flatMap((binders, level) => binders.map((binder) => [binder, level + 1] as const));
  return Object.fromEntries(entries) as Precedence;
}

const COMPARISONS: readonly Binder[] = ['=', '<>', '<', '<=', '>', '>=', 'is null', 'is true', 'in', 'between', 'like'];

/**
 * How tightly an operand of a comparison has to bind. A comparison in a comparison always stands in brackets: one manual
 * ranks them, the next lets them not chain, and few readers know which.
 */
export function withinComparison(precedence: Precedence): number {
  return Math.max(...COMPARISONS.map((binder) => precedence[binder])) + 1;
}

/** Whether an operator compares, so that it stands in brackets within another comparison. */
export function isComparison(binder: Binder): boolean {
  return COMPARISONS.includes(binder);
}

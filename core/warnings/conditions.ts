import type { Expression } from '../model/index.js';

/** The conditions that all hold of each row: what `and` joins, scopes and derived conditions of the row itself written out. */
export function heldTogether(conditions: readonly Expression[]): readonly Expression[] {
  return conditions.flatMap((condition) => {
    if (condition.kind === 'binary' && condition.operator === 'and') return heldTogether([condition.left, condition.right]);
    if (condition.kind === 'named' && condition.hops.length === 0)
      return heldTogether([condition.expression]).map((part) => ({ ...part, span: condition.span }));
    return [condition];
  });
}

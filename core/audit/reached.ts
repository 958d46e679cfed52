import { type Expression, type Model, someExpression, type Wall } from '../model/index.js';
import type { Wire } from '../values/index.js';

/** Somebody as whom ways are tried: what the walls ask of them, looked up for this alone. */
export interface Audited {
  /** As a text names them: `Player(3)`, or `nobody`. */
  readonly as: string;
  readonly isNobody: boolean;
  /** The walls that nothing frees them from. */
  readonly walls: readonly Wall[];
  /** Their values by name, as in `me.branch`. */
  readonly me: ReadonlyMap<string, Wire>;
}

/** What rows are reached for: to be read, or to be changed, which asks for more. */
export type ReachedFor = 'read' | 'change';

const BOOLEAN = { kind: 'boolean' } as const;
const NOWHERE = { start: 0, end: 0 };

/**
 * What has to be true of a row of an entity so that somebody reaches it: the lines of the walls as they stand in the text, joined
 * with `and`. It is asked of all rows, and knows nothing of where walls are laid on queries. Null where all rows are reached.
 *
 * @param lifts the walls that a query sees over
 */
export function reachedWhere(
  { walls, isNobody }: Pick<Audited, 'walls' | 'isNobody'>,
  entity: string,
  wanted: ReachedFor,
  lifts: readonly string[] = [],
): Expression | null {
  let all: Expression | null = null;
  for (const { name, reads, writes, conditions } of walls) {
    const asked = wanted === 'change' ? reads || writes : reads && !lifts.includes(name);
    for (const { kinds, holds } of asked ? (conditions.get(entity) ?? []) : []) {
      const known = isNobody && someExpression(holds, ({ kind }) => kind === 'me') ? constant(false) : holds;
      const line = kinds === null ? known : either(isNoneOf(kinds), known);
      all = all === null ? line : both(all, line);
    }
  }
  return all;
}

/** That a condition is not true of a row: it is false, or unknown. */
export function isNotTrue(condition: Expression): Expression {
  const branches = [{ when: condition, then: constant(true) }];
  const known: Expression = { kind: 'case', branches, otherwise: constant(false), type: BOOLEAN, span: condition.span };
  return { kind: 'binary', operator: '=', left: known, right: constant(false), type: BOOLEAN, span: condition.span };
}

/** Both conditions. */
export function both(left: Expression, right: Expression): Expression {
  return { kind: 'binary', operator: 'and', left, right, type: BOOLEAN, span: left.span };
}

function either(left: Expression, right: Expression): Expression {
  return { kind: 'binary', operator: 'or', left, right, type: BOOLEAN, span: right.span };
}

function constant(value: boolean): Expression {
  return { kind: 'value', value, type: BOOLEAN, span: NOWHERE };
}

function isNoneOf(kinds: readonly string[]): Expression {
  return { kind: 'is kind', hops: [], kinds, negated: true, type: BOOLEAN, span: NOWHERE };
}

/** What the lines of walls, and what frees from each, ask of whoever is audited: expressions over the row of the actor. */
export function askedOf({ walls }: Pick<Model, 'walls'>): {
  readonly values: ReadonlyMap<string, Expression>;
  readonly unless: readonly { readonly wall: string; readonly condition: Expression }[];
} {
  const values = new Map<string, Expression>();
  for (const { conditions } of walls.values())
    for (const line of Array.from(conditions.values()).flat())
      someExpression(line.holds, (part) => {
        if (part.kind === 'me') values.set(part.name, part.value);
        return false;
      });
  const unless = Array.from(walls.values()).flatMap(({ name, unless: own }) =>
    own.map((condition) => ({ wall: name, condition })),
  );
  return { values, unless };
}

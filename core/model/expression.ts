import type { BinaryOperator, IntervalUnit, Span } from '../notation/index.js';
import type { ValueType, Wire } from '../values/index.js';
import type { Role } from './model.js';

/** What an expression gives: a value, a row (by its key), an interval, a condition, or nothing known yet. */
export type ExpressionType =
  | ValueType
  | { readonly kind: 'row'; readonly entity: string }
  | { readonly kind: 'interval' }
  | { readonly kind: 'null' };

export type Quantifier = 'any' | 'none' | 'all' | 'count';

/** A hop of a path over a relation; in a to-many path it may be filtered. */
export interface Hop {
  readonly role: Role;
  readonly filter: Expression | null;
}

/**
 * An expression with every name resolved. `hops` are the to-one relations walked from the row at hand; what stands
 * behind them belongs to the row that they lead to.
 */
export type Expression =
  | { readonly kind: 'value'; readonly value: Wire; readonly type: ExpressionType; readonly span: Span }
  | { readonly kind: 'clock'; readonly which: 'today' | 'now'; readonly type: ExpressionType; readonly span: Span }
  | {
      readonly kind: 'interval';
      readonly amount: string;
      readonly unit: IntervalUnit;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | { readonly kind: 'parameter'; readonly name: string; readonly type: ExpressionType; readonly span: Span }
  /** A sample row by its name; its key is known once the rows are made. */
  | {
      readonly kind: 'sample row';
      readonly entity: string;
      readonly row: string;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'field';
      readonly hops: readonly Role[];
      readonly entity: string;
      readonly field: string;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /** A field that stands on the pivot over which the row at hand was reached. */
  | {
      readonly kind: 'pivot field';
      readonly relation: string;
      readonly field: string;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /** The key of the row that the last hop leads to. */
  | { readonly kind: 'role'; readonly hops: readonly Role[]; readonly type: ExpressionType; readonly span: Span }
  /** A derived field or a scope: the expression holds for the row behind the hops, and is null where there is none. */
  | {
      readonly kind: 'named';
      readonly name: string;
      readonly hops: readonly Role[];
      readonly expression: Expression;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /** Is the row behind the hops of one of these kinds? Where there is no row, it is not. */
  | {
      readonly kind: 'is kind';
      readonly hops: readonly Role[];
      readonly kinds: readonly string[];
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /** Does the row behind the hops point at something over one of these branches of a polymorphic role? */
  | {
      readonly kind: 'points at';
      readonly hops: readonly Role[];
      readonly branches: readonly Role[];
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /**
   * Does a polymorphic role lead to this row? True or false wherever it leads to any, unknown where it leads to none.
   * `branch` is the one over which the row would be reached; narrowed, where the row is of a kind of its target.
   */
  | {
      readonly kind: 'same row';
      readonly hops: readonly Role[];
      readonly branches: readonly Role[];
      readonly branch: Role;
      readonly row: Expression;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  /** `test` is the last bracket of `all`. */
  | {
      readonly kind: 'quantified';
      readonly quantifier: Quantifier;
      readonly hops: readonly Hop[];
      readonly test: Expression | null;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Expression;
      readonly right: Expression;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | { readonly kind: 'not' | 'negate'; readonly operand: Expression; readonly type: ExpressionType; readonly span: Span }
  | {
      readonly kind: 'is null';
      readonly operand: Expression;
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'in';
      readonly operand: Expression;
      readonly items: readonly Expression[];
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'between';
      readonly operand: Expression;
      readonly low: Expression;
      readonly high: Expression;
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'like';
      readonly operand: Expression;
      readonly pattern: Expression;
      readonly negated: boolean;
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'function';
      readonly name: FunctionName;
      readonly args: readonly Expression[];
      readonly type: ExpressionType;
      readonly span: Span;
    }
  | {
      readonly kind: 'case';
      readonly branches: readonly { readonly when: Expression; readonly then: Expression }[];
      readonly otherwise: Expression | null;
      readonly type: ExpressionType;
      readonly span: Span;
    };

export const FUNCTIONS = [
  'lower',
  'upper',
  'length',
  'trim',
  'coalesce',
  'abs',
  'round',
  'least',
  'greatest',
  'substr',
  'replace',
] as const;

export type FunctionName = (typeof FUNCTIONS)[number];

/** The expressions that stand directly below one. */
export function operandsOf(expression: Expression): readonly Expression[] {
  switch (expression.kind) {
    case 'value':
    case 'clock':
    case 'interval':
    case 'parameter':
    case 'sample row':
    case 'field':
    case 'pivot field':
    case 'role':
    case 'is kind':
    case 'points at':
      return [];
    case 'named':
      return [expression.expression];
    case 'same row':
      return [expression.row];
    case 'quantified':
      return [
        ...expression.hops.flatMap((hop) => (hop.filter === null ? [] : [hop.filter])),
        ...(expression.test === null ? [] : [expression.test]),
      ];
    case 'binary':
      return [expression.left, expression.right];
    case 'not':
    case 'negate':
    case 'is null':
      return [expression.operand];
    case 'in':
      return [expression.operand, ...expression.items];
    case 'between':
      return [expression.operand, expression.low, expression.high];
    case 'like':
      return [expression.operand, expression.pattern];
    case 'function':
      return expression.args;
    case 'case':
      return [
        ...expression.branches.flatMap((branch) => [branch.when, branch.then]),
        ...(expression.otherwise === null ? [] : [expression.otherwise]),
      ];
  }
}

/** How large an expression is once every name in it is written out: its parts, and how many names stand on each other. */
export interface Extent {
  readonly parts: number;
  readonly names: number;
}

const extents = new WeakMap<Expression, Extent>();

/** The extent of an expression. What a name stands for is looked at once, however often it is used. */
export function extentOf(expression: Expression): Extent {
  const known = extents.get(expression);
  if (known !== undefined) return known;
  let parts = 1;
  let names = 0;
  for (const operand of operandsOf(expression)) {
    const inner = extentOf(operand);
    parts += inner.parts;
    names = Math.max(names, inner.names);
  }
  const extent = { parts, names: expression.kind === 'named' ? names + 1 : names };
  extents.set(expression, extent);
  return extent;
}

/** Is this true of the expression or of any below it? */
export function someExpression(expression: Expression, test: (expression: Expression) => boolean): boolean {
  return test(expression) || operandsOf(expression).some((operand) => someExpression(operand, test));
}

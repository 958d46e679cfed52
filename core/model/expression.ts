import type { BinaryOperator, IntervalUnit, Span } from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import type { Aggregate, ValueType, Wire } from '../values/index.js';

/** The type of an expression: a value, a row (by its key), an interval, a condition, or one not known yet. */
export type ExpressionType =
  | ValueType
  | { readonly kind: 'row'; readonly entity: string }
  | { readonly kind: 'interval' }
  | { readonly kind: 'null' };

/** A column beside a key column that says whose key it is, and the values that mean the entity at hand. */
export interface Mark {
  readonly column: string;
  readonly values: readonly string[];
  /** The type in which the key column holds keys, where that is not the key’s own. */
  readonly held: ValueType | null;
}

/** How rows are found over a role. Where one column can hold keys of several entities, `mark` tells them apart. */
export type Way =
  /**
   * This entity's table holds the key columns (those of the role's entity, also for a kind of it): one, or one for each part of
   * a composite key.
   */
  | { readonly kind: 'key'; readonly columns: readonly string[]; readonly mark: Mark | null }
  /** The target's table holds the key columns; `holder` declares them: the target, or a base of it. */
  | { readonly kind: 'child'; readonly holder: string; readonly columns: readonly string[]; readonly mark: Mark | null }
  /** A pivot holds both: `near` points at this entity, `far` at the target. */
  | {
      readonly kind: 'pivot';
      readonly table: TableName;
      readonly near: readonly string[];
      readonly far: readonly string[];
      readonly symmetric: boolean;
      readonly mark: Mark | null;
      /** The side whose key the mark tells of; it means nothing where there is no mark. */
      readonly marked: 'near' | 'far';
    }
  /** Over other roles, one after the other. */
  | { readonly kind: 'path'; readonly hops: readonly Hop[]; readonly first: boolean };

/** One end of a relation, as seen from the entity that has it. */
export interface Role {
  readonly name: string;
  readonly entity: string;
  /** The entity under which the text speaks of it first: a sentence may give one role to several. */
  readonly owner: string;
  readonly target: string;
  readonly relation: string;
  readonly knows: 'one' | 'at most one' | 'many';
  readonly way: Way;
  readonly orderBy: readonly Order[];
  readonly note: string | null;
  readonly span: Span;
}

/** A term of an order. */
export interface Order {
  readonly expression: Expression;
  readonly descending: boolean;
}

export type Quantifier = 'any' | 'none' | 'all' | 'count';

/** A hop of a path over a relation; in a to-many path it may be filtered. */
export interface Hop {
  readonly role: Role;
  readonly filter: Expression | null;
}

/** What every part of an expression says: what it gives, and where it stands in the text. */
interface Part {
  readonly type: ExpressionType;
  readonly span: Span;
}

/** Parts that speak of no row: they are the same whatever rows are read. */
export type Constant =
  | (Part & { readonly kind: 'value'; readonly value: Wire })
  | (Part & { readonly kind: 'clock'; readonly which: 'today' | 'now' })
  | (Part & { readonly kind: 'interval'; readonly amount: string; readonly unit: IntervalUnit })
  | (Part & { readonly kind: 'parameter'; readonly name: string })
  /** Whoever is at work, or a value of theirs: an expression over the row of the actor, by the name that the text gives it. */
  | (Part & { readonly kind: 'me'; readonly name: string; readonly value: Expression })
  /** A sample row by its name; its key is known once the rows are made. */
  | (Part & { readonly kind: 'sample row'; readonly entity: string; readonly row: string });

export interface Binary<Operand> extends Part {
  readonly kind: 'binary';
  readonly operator: BinaryOperator;
  readonly left: Operand;
  readonly right: Operand;
}

export interface Negation<Operand> extends Part {
  readonly kind: 'not' | 'negate';
  readonly operand: Operand;
}

export interface NullTest<Operand> extends Part {
  readonly kind: 'is null';
  readonly operand: Operand;
  readonly negated: boolean;
}

export interface Membership<Operand> extends Part {
  readonly kind: 'in';
  readonly operand: Operand;
  readonly items: readonly Operand[];
  readonly negated: boolean;
}

export interface Between<Operand> extends Part {
  readonly kind: 'between';
  readonly operand: Operand;
  readonly low: Operand;
  readonly high: Operand;
  readonly negated: boolean;
}

export interface Like<Operand> extends Part {
  readonly kind: 'like';
  readonly operand: Operand;
  readonly pattern: Operand;
  readonly negated: boolean;
}

export interface Call<Operand> extends Part {
  readonly kind: 'function';
  readonly name: FunctionName;
  readonly args: readonly Operand[];
}

export interface Case<Operand> extends Part {
  readonly kind: 'case';
  readonly branches: readonly { readonly when: Operand; readonly then: Operand }[];
  readonly otherwise: Operand | null;
}

/** Expressions whose parts that speak of rows are `Leaf`: what stands between is the same over all of them. */
export type ExpressionOver<Leaf> =
  | Constant
  | Leaf
  | Binary<ExpressionOver<Leaf>>
  | Negation<ExpressionOver<Leaf>>
  | NullTest<ExpressionOver<Leaf>>
  | Membership<ExpressionOver<Leaf>>
  | Between<ExpressionOver<Leaf>>
  | Like<ExpressionOver<Leaf>>
  | Call<ExpressionOver<Leaf>>
  | Case<ExpressionOver<Leaf>>;

/**
 * An expression with every name resolved. `hops` are the to-one relations walked from the row at hand; what stands
 * behind them belongs to the row that they lead to.
 */
export type Expression = ExpressionOver<RowPart>;

/** The parts of an expression that speak of a row. */
export type RowPart =
  | (Part & { readonly kind: 'field'; readonly hops: readonly Role[]; readonly entity: string; readonly field: string })
  /** A field that stands on the pivot over which the row at hand was reached. */
  | (Part & { readonly kind: 'pivot field'; readonly relation: string; readonly field: string })
  /** The key of the row that the last hop leads to. */
  | (Part & { readonly kind: 'role'; readonly hops: readonly Role[] })
  /** A derived field or a scope: the expression holds for the row behind the hops, and is null where there is none. */
  | (Part & {
      readonly kind: 'named';
      readonly name: string;
      readonly hops: readonly Role[];
      readonly expression: Expression;
    })
  /** Is the row behind the hops of one of these kinds? Where there is no row, it is not. */
  | (Part & {
      readonly kind: 'is kind';
      readonly hops: readonly Role[];
      readonly kinds: readonly string[];
      readonly negated: boolean;
    })
  /** Does the row behind the hops point at something over one of these branches of a polymorphic role? */
  | (Part & {
      readonly kind: 'points at';
      readonly hops: readonly Role[];
      readonly branches: readonly Role[];
      readonly negated: boolean;
    })
  /**
   * Does a polymorphic role lead to this row? True or false wherever it leads to any, unknown where it leads to none.
   * `branch` is the one over which the row would be reached; narrowed, where the row is of a kind of its target.
   */
  | (Part & {
      readonly kind: 'same row';
      readonly hops: readonly Role[];
      readonly branches: readonly Role[];
      readonly branch: Role;
      readonly row: Expression;
    })
  /** `test` is the last bracket of `all`. */
  | (Part & {
      readonly kind: 'quantified';
      readonly quantifier: Quantifier;
      readonly hops: readonly Hop[];
      readonly test: Expression | null;
    })
  /** What comes of the values that the rows behind a to-many path have; each row counts once. */
  | (Part & {
      readonly kind: 'aggregated';
      readonly aggregate: Aggregate;
      readonly hops: readonly Hop[];
      readonly value: Expression;
    })
  /** What comes of the rows of a group: of their values that are not null, or, without a value, how many they are. */
  | (Part & {
      readonly kind: 'of group';
      readonly aggregate: Aggregate | 'count';
      readonly value: Expression | null;
    })
  /** What the rows of a group have in common: a term of `group by`, by its place from 0. */
  | (Part & { readonly kind: 'group term'; readonly term: number });

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

/** The kinds of parts that speak of rows, as the text has them or as they are stored. */
export type PartKind = RowPart['kind'] | 'stored';

/** The expressions that stand directly below one. */
export function operandsOf(expression: Expression): readonly Expression[] {
  return operandsIn(expression, belowRowPart);
}

/** The expressions that stand below a part which speaks of a row. */
function belowRowPart(part: RowPart): readonly Expression[] {
  switch (part.kind) {
    case 'named':
      return [part.expression];
    case 'same row':
      return [part.row];
    case 'quantified':
      return [
        ...part.hops.flatMap((hop) => (hop.filter === null ? [] : [hop.filter])),
        ...(part.test === null ? [] : [part.test]),
      ];
    case 'aggregated':
      return [...part.hops.flatMap((hop) => (hop.filter === null ? [] : [hop.filter])), part.value];
    case 'of group':
      return part.value === null ? [] : [part.value];
    default:
      return [];
  }
}

/** The expressions that stand directly below one, whatever its leaves are; what stands below a leaf the leaf says. */
export function operandsIn<Leaf extends { readonly kind: PartKind }>(
  expression: ExpressionOver<Leaf>,
  below: (leaf: Leaf) => readonly ExpressionOver<Leaf>[],
): readonly ExpressionOver<Leaf>[] {
  switch (expression.kind) {
    case 'value':
    case 'clock':
    case 'interval':
    case 'parameter':
    case 'me':
    case 'sample row':
      return [];
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
        ...expression.branches.flatMap(({ when, then }) => [when, then]),
        ...(expression.otherwise === null ? [] : [expression.otherwise]),
      ];
    default:
      return below(expression);
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

/** The roles that an expression walks from the row at hand, way by way; what is asked of the rows behind them goes on from there. */
export function rolesWalked(expression: Expression): (readonly Role[])[] {
  const below = operandsOf(expression).flatMap(rolesWalked);
  if (!('hops' in expression) || expression.hops.length === 0) return below;
  const hops = expression.hops.map((hop) => ('role' in hop ? hop.role : hop));
  const behind = below.filter((roles) => roles.length > 0).map((roles) => [...hops, ...roles]);
  return [hops, ...behind];
}

/** Is this true of the expression or of any below it? */
export function someExpression(expression: Expression, test: (expression: Expression) => boolean): boolean {
  return test(expression) || operandsOf(expression).some((operand) => someExpression(operand, test));
}

/** Does an expression speak of the row at hand at all? */
export function readsRow(expression: Expression): boolean {
  return someExpression(
    expression,
    ({ kind }) =>
      ![
        'value',
        'clock',
        'parameter',
        'me',
        'sample row',
        'interval',
        'negate',
        'binary',
        'not',
        'in',
        'between',
        'like',
        'is null',
        'function',
        'case',
      ].includes(kind),
  );
}

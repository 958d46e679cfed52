import type { Cardinality, ExpressionType, Field, Parameter, Role } from '../model/index.js';
import type { LoadWay } from '../notation/index.js';
import type { ValueType } from '../values/index.js';
import type { Access, PlannedExpression, PlannedOrder } from './access.js';

/** One thing that an answer has of each row. */
export type PlannedField =
  | {
      readonly kind: 'stored';
      readonly field: Field;
      /** The kinds whose rows have it; null where all have. */
      readonly kinds: readonly string[] | null;
    }
  | {
      readonly kind: 'derived';
      readonly name: string;
      readonly expression: PlannedExpression;
      readonly type: ExpressionType;
      readonly kinds: readonly string[] | null;
    }
  /** The whole of a key of several fields, as one value. */
  | { readonly kind: 'whole key' }
  /** The key of the row behind a role, where the row itself holds it and no field shows it. */
  | { readonly kind: 'held key'; readonly role: Role; readonly kinds: readonly string[] | null }
  /** What kind the row is, where that differs from row to row. */
  | { readonly kind: 'kind'; readonly always: boolean }
  /** A field of the pair over which the row was reached. */
  | { readonly kind: 'pivot field'; readonly relation: string; readonly field: Field }
  /** A field that the actor may not see: the answer says so, and has no value. */
  | { readonly kind: 'hidden'; readonly name: string; readonly kinds: readonly string[] | null };

/** A flat output: columns of expressions. */
export type ShownOutput =
  /** Expressions over the rows, one line for each row; where they are distinct, for each that differs. */
  | { readonly kind: 'shown'; readonly columns: readonly PlannedColumn[]; readonly distinct: boolean }
  /** Groups of rows that have the same of each of these terms, and expressions over each group for which a condition holds. */
  | {
      readonly kind: 'groups';
      readonly by: readonly PlannedExpression[];
      readonly columns: readonly PlannedColumn[];
      readonly having: PlannedExpression | null;
      readonly distinct: boolean;
    };

/** The output of a plan: its rows, or what is computed from them. */
export type PlanOutput =
  /** Rows with fields, and with the rows that are loaded along. */
  | { readonly kind: 'rows'; readonly fields: readonly PlannedField[] }
  | ShownOutput
  /** How many rows there are; where they are shown flat, how many lines. */
  | { readonly kind: 'count'; readonly of: ShownOutput | null }
  /** Whether there is any. */
  | { readonly kind: 'exists'; readonly of: ShownOutput | null }
  /** Their keys, in order. */
  | { readonly kind: 'keys' }
  /** Columns of stored rows as they stand, and behind them the key of an entity's. */
  | { readonly kind: 'stored'; readonly columns: readonly StoredColumn[]; readonly key: string | null }
  /** How many stored rows there are, and in how many cells of these columns nothing stands. */
  | { readonly kind: 'cells'; readonly columns: readonly string[] }
  /** How many rows hold the key of each stored row: for each number, how many rows it is true of. */
  | { readonly kind: 'multiplicities'; readonly holding: readonly Holding[]; readonly heldAsText: ValueType | null };

/** Rows that hold the key of another in some columns. */
export interface Holding {
  readonly rows: Access;
  readonly columns: readonly string[];
}

/** A column of stored rows, with the name that it has in the statement. */
export interface StoredColumn {
  readonly as: string;
  readonly column: string;
  readonly type: ValueType;
}

export interface PlannedColumn {
  readonly name: string;
  readonly expression: PlannedExpression;
}

/** Rows that are loaded along with their owners. How is for a way to load; it says that of the text alone. */
export interface LoadPlan {
  readonly role: Role;
  /** The path from the root, as the query writes it. */
  readonly path: string;
  /** The rows that were read before. */
  readonly owners: Access;
  /** From an owner to the rows, one after the other; one alone where the role is no path. */
  readonly steps: readonly Access[];
  /** The rows that are loaded: the last step, or those of a kind among its rows. */
  readonly rows: Access;
  /** Rows of other entities stand under the same role, and are not overwritten. */
  readonly branch: boolean;
  /** The rows with their fields, or how many each owner has. */
  readonly output: Extract<PlanOutput, { kind: 'rows' | 'count' }>;
  /** What the load itself asks of its rows. */
  readonly where: PlannedExpression | null;
  /** The order among the rows of one owner. */
  readonly order: readonly PlannedOrder[];
  /** How many rows of one owner; null for all. */
  readonly limit: PlannedExpression | null;
  /** The way to load that the text states; null where it states none. */
  readonly by: LoadWay | null;
  readonly loads: readonly LoadPlan[];
  /** Where in the query's text this load stands; null where an entity always loads it. */
  readonly span: { readonly start: number; readonly end: number } | null;
}

/** A query as accesses to entities: what is read, under which conditions, in which order. It has no word of SQL. */
export interface QueryPlan {
  readonly root: Access;
  readonly cardinality: Cardinality;
  readonly output: PlanOutput;
  readonly order: readonly PlannedOrder[];
  readonly limit: PlannedExpression | null;
  readonly offset: PlannedExpression | null;
  readonly loads: readonly LoadPlan[];
  /** The walls that it sees over. */
  readonly lifts: readonly string[];
  readonly parameters: readonly Parameter[];
}

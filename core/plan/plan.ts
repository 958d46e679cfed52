import type { Cardinality, ExpressionType } from '../model/index.js';
import type { Select, Query as SqlQuery } from '../sql/index.js';
import type { ValueType } from '../values/index.js';

/** A column of a statement, and where its value goes in the answer. */
export interface Output {
  /** The column's name in the select; of a composite key it is made of `parts`, and is no column itself. */
  readonly as: string;
  /** The columns whose values, in order, make the parts of a composite key; null for a column. */
  readonly parts: readonly string[] | null;
  readonly type: ValueType;
  /** The field's name in the answer; null where the column only serves to join rows. */
  readonly name: string | null;
  /** The table of the pivot whose fields stand in an object of their own; null for the row's own. */
  readonly pivot: string | null;
}

/** How the value of a parameter is come by when the plan is run. */
export interface Binding {
  /** The name under which the SQL has it. */
  readonly name: string;
  readonly from:
    | { readonly kind: 'parameter'; readonly parameter: string; readonly type: ExpressionType; readonly optional: boolean }
    | { readonly kind: 'clock'; readonly which: 'today' | 'now' }
    | { readonly kind: 'sample row'; readonly entity: string; readonly row: string };
  /** The type under which it is bound: for a row, that of its key. */
  readonly type: ValueType;
}

/** Rows of an entity that are loaded along with their owners. */
export interface LoadPlan {
  /** The role's name in the answer. */
  readonly role: string;
  /** The path from the root, as the query writes it. */
  readonly path: string;
  readonly entity: string;
  readonly many: boolean;
  /** The columns of the owner's select by whose values rows are sought: one, or one for each part of the key. */
  readonly ownerColumns: readonly string[];
  /** That column is the owners' key, so no value of it comes twice. */
  readonly ownersDistinct: boolean;
  /** The columns of this select that say whose a row is. */
  readonly stitchColumns: readonly string[];
  readonly keyType: ValueType;
  /** Seeks the rows of all owners at once: their keys are bound, as one list, as `keys`. */
  readonly select: SqlQuery;
  readonly outputs: readonly Output[];
  readonly loads: readonly LoadPlan[];
  /** Where in the query's text this load stands. */
  readonly span: { readonly start: number; readonly end: number };
}

/** A query as accesses to entities: what is read, under which conditions, in which order. */
export interface QueryPlan {
  readonly entity: string;
  readonly cardinality: Cardinality;
  readonly select: Select;
  readonly outputs: readonly Output[];
  readonly loads: readonly LoadPlan[];
  readonly bindings: readonly Binding[];
}

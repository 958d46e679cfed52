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
  /** The column has the text of JSON in which the value stands in its wire form. */
  readonly inJson?: true;
  /** The field's name in the answer; null where the column only serves to join rows. */
  readonly name: string | null;
  /** The table of the pivot whose fields stand in an object of their own; null for the row's own. */
  readonly pivot: string | null;
  /** The kinds whose rows have it; null where all have. */
  readonly kinds: readonly string[] | null;
}

/** What tells the kind of each row of an answer, where that can differ from row to row. */
export interface KindOutput {
  /** The column that holds a mark; null where all rows are of one entity. */
  readonly as: string | null;
  /** The entity that each mark means. */
  readonly marks: Readonly<Record<string, string>>;
  /** The entity of a row whose mark means nothing. */
  readonly otherwise: string;
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
  /** Rows of other entities stand under the same role, and are not overwritten. */
  readonly branch: boolean;
  /** The owners that have rows here: those with one of these values in a column of their select; null for all. */
  readonly owners: {
    readonly as: string;
    readonly values: readonly string[];
    /** Others are of a kind that has no such role; they bear nothing under its name. */
    readonly ofKind: boolean;
  } | null;
  /** Keys are compared as texts: the column holds keys of several types. */
  readonly asText: boolean;
  /** The columns of the owner's select by whose values rows are sought: one, or one for each part of the key. */
  readonly ownerColumns: readonly string[];
  /** That column is the owners' key, so no value of it comes twice. */
  readonly ownersDistinct: boolean;
  /** The columns of this select that say whose a row is. */
  readonly stitchColumns: readonly string[];
  readonly keyType: ValueType;
  readonly kind: KindOutput | null;
  /** Seeks the rows of all owners at once: their keys are bound, as one list, as `keys`. */
  readonly select: SqlQuery;
  readonly outputs: readonly Output[];
  readonly loads: readonly LoadPlan[];
  /** Where in the query's text this load stands; null where an entity always loads it. */
  readonly span: { readonly start: number; readonly end: number } | null;
}

/** A query as accesses to entities: what is read, under which conditions, in which order. */
export interface QueryPlan {
  readonly entity: string;
  readonly cardinality: Cardinality;
  readonly select: Select;
  readonly outputs: readonly Output[];
  readonly kind: KindOutput | null;
  readonly loads: readonly LoadPlan[];
  readonly bindings: readonly Binding[];
}

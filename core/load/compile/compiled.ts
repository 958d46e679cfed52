import type { Cardinality, ExpressionType } from '../../model/index.js';
import type { Select } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';

/** A column of a statement, and where its value goes in the answer. */
export interface Output {
  /** The column's name in the select; of a composite key it is made of `parts`, and is no column itself. */
  readonly as: string;
  /** The columns whose values, in order, make the parts of a composite key; null for a column. */
  readonly parts: readonly string[] | null;
  readonly type: ValueType;
  /** The column has the text of JSON in which the value stands in its wire form. */
  readonly inJson?: true;
  /** The column has rows as lists of JSON, to be read by a part of the plan of its own. */
  readonly nested?: true;
  /** The value may not be seen: the answer says so, whatever the column has. */
  readonly hidden?: true;
  /** The column that is true for rows of which the value may not be seen; left out, there is none. */
  readonly hiddenBy?: string;
  /** The field's name in the answer; null where the column only serves to join rows. */
  readonly name: string | null;
  /** The table of the pivot whose fields stand in an object of their own; null for the row's own. */
  readonly pivot: string | null;
  /** The kinds whose rows have it; null where all have. */
  readonly kinds: readonly string[] | null;
}

/** The columns by which an answer tells the kind of each row, where that can differ from row to row. */
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
    | { readonly kind: 'sample row'; readonly entity: string; readonly row: string }
    /** A value of whoever is at work, by the name that the text gives it: `me.branch`. */
    | { readonly kind: 'me'; readonly name: string };
  /** The type under which it is bound: for a row, that of its key. */
  readonly type: ValueType;
}

/** A statement that reads rows, and what becomes of its columns. */
export interface CompiledRead {
  readonly select: Select;
  readonly outputs: readonly Output[];
  readonly kind: KindOutput | null;
}

/** Rows of an answer, as some columns of a statement have them, with what is loaded below them. */
export interface CompiledRows {
  /** What becomes of the columns of the rows themselves. */
  readonly outputs: readonly Output[];
  readonly kind: KindOutput | null;
  /** The columns that tell one row from another, where each stands in several rows of the statement, by what is joined to it. */
  readonly identity: readonly string[];
  /** The rows, of one owner where they have any, stand in an order in which none is as another. */
  readonly ordered: boolean;
  /** What is joined to the rows in their own statement. */
  readonly joined: readonly CompiledJoin[];
  /** What a column of each row has as JSON. */
  readonly nested: readonly CompiledNest[];
  /** What statements of their own bring. */
  readonly loads: readonly CompiledLoad[];
}

/** A statement for rows, and all its columns: those of the rows, and of what is joined to them. */
export interface CompiledStatement extends CompiledRows {
  readonly select: Select;
  readonly columns: readonly Output[];
}

/** The place of what is loaded: below which owners, under which name. */
export interface LoadPlace {
  /** The role's name in the answer. */
  readonly role: string;
  /** The path from the root, as the query writes it. */
  readonly path: string;
  readonly entity: string;
  readonly many: boolean;
  /** Rows of other entities stand under the same role, and are not overwritten. */
  readonly branch: boolean;
  /** The owners that have rows here: those with one of these values in a column of theirs; null for all. */
  readonly owners: {
    readonly as: string;
    readonly values: readonly string[];
    /** Others are of a kind that has no such role, and so have no such property in the answer. */
    readonly ofKind: boolean;
  } | null;
  /** The column that is true for owners of which the row behind the role may not be seen; null where no wall can hide it. */
  readonly hiddenBy: string | null;
  /** Where in the query's text this load stands; null where an entity always loads it. */
  readonly span: { readonly start: number; readonly end: number } | null;
}

/** Rows that stand beside their owners, in the statement of those. Where an owner has none, their identity is null. */
export interface CompiledJoin extends CompiledRows, LoadPlace {}

/** Rows that stand as JSON in a column of their owners: lists of values, as many as there are columns. */
export interface CompiledNest extends CompiledRows, LoadPlace {
  readonly as: string;
  readonly columns: readonly Output[];
  /** The values of a row stand in several lists, for being too many for one. */
  readonly inLists: boolean;
}

/** The statement for the rows of owners, all at once or of each alone, and how they are put below them. */
export interface CompiledLoad extends CompiledStatement, LoadPlace {
  /** Whether the keys of all owners are bound as one list, as `keys`, or that of one, as `key`. */
  readonly seeks: 'keys' | 'key';
  /** Keys are compared as texts: the column holds keys of several types. */
  readonly asText: boolean;
  /** The columns of the owner's select by whose values rows are sought: one, or one for each part of the key. */
  readonly ownerColumns: readonly string[];
  /** That column is the owners' key, so no value of it comes twice. */
  readonly ownersDistinct: boolean;
  /** The columns of this select that say whose a row is. */
  readonly stitchColumns: readonly string[];
  /** The type as which the owners' keys are bound. */
  readonly keyType: ValueType;
}

/** A woven plan as statements of one dialect. */
export interface Compiled extends CompiledStatement {
  readonly entity: string;
  readonly cardinality: Cardinality;
  readonly bindings: readonly Binding[];
}

/** A statement whose rows have nothing joined to them, and nothing loaded below. */
export function alone({ select, outputs, kind }: CompiledRead): CompiledStatement {
  return { select, outputs, kind, columns: outputs, identity: [], ordered: false, joined: [], nested: [], loads: [] };
}

/** The output of a statement that counts its rows. */
export const COUNT: Output = { as: 'count', type: { kind: 'integer' }, name: 'count', pivot: null, parts: null, kinds: null };

/** The output of a statement that tells whether there is any row. */
export const FOUND: Output = { as: 'found', type: { kind: 'integer' }, name: 'found', pivot: null, parts: null, kinds: null };

/** The output of a statement that counts the rows of groups. */
export const COUNT_OUTPUT: Output = {
  as: 'rows',
  type: { kind: 'integer' },
  name: 'rows',
  pivot: null,
  parts: null,
  kinds: null,
};

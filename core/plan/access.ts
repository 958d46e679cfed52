import type { Entity, ExpressionOver, ExpressionType, Field, Quantifier, Role, RowPart } from '../model/index.js';
import type { Span } from '../notation/index.js';
import type { JsonSort, ValueType, Wire } from '../values/index.js';

/** Names an access within its plan. */
export type AccessId = number;

/**
 * One read of an entity's rows, or of their keys alone. Whatever a plan reads is an access of it, so that conditions on an entity's
 * rows can be laid on each place where they are read.
 */
export interface Access {
  readonly id: AccessId;
  /** The entity whose rows are read; null for pairs of a pivot that are rows of no entity. */
  readonly entity: string | null;
  readonly over: Over;
  /** Each holds for the rows of this access; their own hops are named by access. */
  readonly conditions: readonly PlannedExpression[];
  /** The order in which the first of its rows is taken, where it is the end of such a path. */
  readonly order: readonly PlannedOrder[];
  /** Whether the row itself is read, or its key alone is looked at, which may stand in the row that it is reached from. */
  readonly reads: 'row' | 'key';
  /** The to-one hops from its rows, each walked once however often it is named. */
  readonly hops: readonly Access[];
}

/** How the rows of an access are come by. */
export type Over =
  /** All rows of the entity. */
  | { readonly kind: 'all' }
  /** The rows whose keys are given when the plan is run. */
  | { readonly kind: 'keys' }
  /** The rows that were read before, and that others are loaded for. */
  | { readonly kind: 'owners' }
  /** The rows behind a role of the rows of another access. */
  | {
      readonly kind: 'role';
      readonly from: AccessId;
      readonly role: Role;
      /** The pairs in between, where the role leads over a pivot. */
      readonly pairs: Access | null;
      /** The ways in between, one after the other, where the role is a path. */
      readonly steps: readonly Access[];
    }
  /** The pairs of a pivot that the rows of another access stand in. */
  | { readonly kind: 'pairs'; readonly from: AccessId; readonly role: Role }
  /** The rows of another access that are of this entity, a kind of that one's. */
  | { readonly kind: 'narrowed'; readonly from: AccessId }
  /** Rows as they are stored, whatever the model says of them. */
  | { readonly kind: 'stored'; readonly rows: StoredRows }
  /** What stands in these columns of more than one row of another access; what has a null in it is all different. */
  | { readonly kind: 'repeated'; readonly rows: Access; readonly columns: readonly string[] };

/** Where rows are stored. */
export type StoredRows =
  /** Those of an entity, in the table or the tables where they stand. */
  | { readonly kind: 'entity'; readonly entity: string }
  /** All rows of a table. */
  | { readonly kind: 'table'; readonly table: Entity['table']['value'] };

/** The tests of a row as it is stored. */
export type StoredTest =
  /** What stands in a column. */
  | { readonly kind: 'column'; readonly column: string }
  /** The value of a field that stands in a column. */
  | { readonly kind: 'field'; readonly field: Field }
  /** Whether a column says one of these. */
  | { readonly kind: 'marked'; readonly column: string; readonly marks: readonly string[]; readonly negated: boolean }
  /** Whether a field has a value that is none of these. */
  | { readonly kind: 'unlisted'; readonly field: Field; readonly values: readonly Wire[] }
  /** Whether a field has a value that is none of its type; `declared` where its column is of the type that it would get here. */
  | { readonly kind: 'unfit'; readonly field: Field; readonly declared: boolean }
  /** Whether a column has a text that is no JSON. */
  | { readonly kind: 'no json'; readonly column: string }
  /** Whether the JSON in a column has under this name what is not of a sort. */
  | { readonly kind: 'other sort'; readonly column: string; readonly name: string; readonly sort: JsonSort }
  /** Whether of two keys the first is not the lesser. */
  | {
      readonly kind: 'out of order';
      readonly least: readonly string[];
      readonly greatest: readonly string[];
      readonly types: readonly ValueType[];
    }
  /** Whether the key in these columns is that of a row of another access. */
  | {
      readonly kind: 'found';
      readonly columns: readonly string[];
      readonly there: Access;
      readonly key: readonly string[];
      /** The type of that row's key, where the columns hold it as text. */
      readonly heldAsText: ValueType | null;
      readonly negated: boolean;
    }
  /** Whether the key is one of those that are given when the plan is run. */
  | { readonly kind: 'given'; readonly columns: readonly string[]; readonly types: readonly ValueType[] };

/** An expression in which every walk over relations is an access. */
export type PlannedExpression = ExpressionOver<PlannedPart>;

type OfRow<Kind extends RowPart['kind']> = Omit<Extract<RowPart, { kind: Kind }>, 'hops'> & {
  /** The row that is spoken of. */
  readonly access: AccessId;
};

/** The parts of a planned expression that speak of a row: as in the model, and each names the access of that row. */
export type PlannedPart =
  | OfRow<'field'>
  /** The access is that of the pairs. */
  | OfRow<'pivot field'>
  | OfRow<'role'>
  | (Omit<OfRow<'named'>, 'expression'> & { readonly expression: PlannedExpression })
  | OfRow<'is kind'>
  /** The branches are accesses that are looked at by their keys alone. */
  | (Omit<OfRow<'points at'>, 'branches'> & { readonly branches: readonly Access[] })
  | (Omit<OfRow<'same row'>, 'branches' | 'branch' | 'row'> & {
      readonly branches: readonly Access[];
      readonly branch: Access;
      readonly row: PlannedExpression;
      /** The condition that the row behind the branch is of a kind; null where the branch says that already. */
      readonly ofKind: PlannedExpression | null;
    })
  /** The steps lead from the row at hand to those that are tested or counted. */
  | (Omit<OfRow<'quantified'>, 'test'> & {
      readonly quantifier: Quantifier;
      readonly steps: readonly Access[];
      readonly test: PlannedExpression | null;
    })
  /** The steps lead from the row at hand to those whose values are aggregated. */
  | (Omit<OfRow<'aggregated'>, 'value'> & { readonly steps: readonly Access[]; readonly value: PlannedExpression })
  /** The access is that of the rows which are grouped. */
  | (Omit<OfRow<'of group'>, 'value'> & { readonly value: PlannedExpression | null })
  | OfRow<'group term'>
  | StoredPart;

/** A part that speaks of a row as it is stored. */
export interface StoredPart {
  readonly kind: 'stored';
  readonly access: AccessId;
  readonly asks: StoredTest;
  readonly type: ExpressionType;
  readonly span: Span;
}

export interface PlannedOrder {
  readonly expression: PlannedExpression;
  readonly descending: boolean;
}

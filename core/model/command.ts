import type { Span } from '../notation/index.js';
import type { ActorName } from './actors.js';
import type { Expression, Role } from './expression.js';
import type { Field, Query } from './model.js';

/** Rows that a command speaks of: those of a query, or those that are reached from them over roles. */
export interface CommandRows {
  /** What the rows are in the end, or a base of it. */
  readonly entity: string;
  /** The row that the text names, by its key or its name: the one of which the query then asks; null where it names none. */
  readonly row: Expression | null;
  /** Finds the rows, or those from which they are reached, which it then loads. */
  readonly query: Query;
  /** The roles that are walked from there, one after the other, by their names. */
  readonly path: readonly string[];
  /** The text speaks of one row: by its key, its name, or of what a to-one role leads to. */
  readonly one: boolean;
  readonly span: Span;
}

/** A value that a command writes into a row. */
export type WrittenValue =
  | { readonly kind: 'field'; readonly field: Field; readonly expression: Expression; readonly span: Span }
  /** A row behind a role, by one of the branches where it leads to several entities; null rows for none. */
  | { readonly kind: 'role'; readonly role: Role; readonly rows: CommandRows | null; readonly span: Span };

/** A row that a command makes, with rows that are children of it. */
export interface NewRow {
  readonly entity: string;
  readonly values: readonly WrittenValue[];
  readonly children: readonly { readonly role: Role; readonly rows: readonly NewRow[]; readonly span: Span }[];
  readonly span: Span;
}

/** The row, and the role of it, through which another is made: the relation says what it is set to. */
export interface Through {
  readonly owner: CommandRows;
  readonly role: Role;
}

/** A command with its names resolved. */
export type Command =
  | { readonly kind: 'create'; readonly row: NewRow; readonly through: Through | null }
  /** The row of which the values in the bracket are true; where there is none it is made, with them and with the others. */
  | {
      readonly kind: 'find or create' | 'create or update';
      readonly match: readonly WrittenValue[];
      readonly row: NewRow;
      readonly through: Through | null;
      /** Finds rows of all owners; of one owner alone by a load of these conditions. */
      readonly condition: Expression;
    }
  | { readonly kind: 'update'; readonly rows: CommandRows; readonly values: readonly WrittenValue[] }
  | {
      readonly kind: 'link' | 'unlink';
      readonly owner: CommandRows;
      /** One of the branches for each of the others, where the role leads to several entities. */
      readonly others: readonly { readonly role: Role; readonly rows: CommandRows }[];
      /** Of the pair that is made. */
      readonly fields: readonly WrittenValue[];
      /** Of an unlink: which of the pairs of two rows are meant, by what they hold; null for all of them. */
      readonly pairs: Expression | null;
    }
  | { readonly kind: 'delete'; readonly rows: CommandRows };

/** A command where it stands, with the name that it gives to its row. */
export interface NamedCommand {
  readonly name: string | null;
  /** On whose behalf it is done, as a line before it says; null where none does. */
  readonly as: ActorName | null;
  readonly command: Command;
  readonly span: Span;
}

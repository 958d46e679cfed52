import type { Statement, StatementResult } from '../load/index.js';
import type { BoundValue } from '../values/index.js';

/** A statement of a transaction that writes. */
export interface WriteStep {
  /**
   * *define*: makes or changes a table, or what stands on one. *write*: changes rows. *attempt*: changes rows, and may be refused:
   * then nothing of it is left, and the transaction goes on. *read*: changes nothing. *mark*: sets a savepoint, goes back to one or
   * lets go of it (ISO/IEC 9075-2, 17.5 to 17.8).
   */
  readonly kind: 'define' | 'write' | 'attempt' | 'read' | 'mark';
  readonly sql: string;
  /** The values of its placeholders, in order. */
  readonly values: readonly BoundValue[];
  /** What an attempt gives: rows, as those that were put in; how many it changed. Left out: nothing. */
  readonly gives?: 'rows' | 'count';
}

/** What stood against a row. */
export interface BrokenConstraint {
  /**
   * *unique*: another row has the same. *required*: a column would be empty. *check*: a condition on the row. *key*: a row that it
   * points at is not there, or one points at it. *other*: a trigger, or a value that the column does not take.
   */
  readonly kind: 'unique' | 'required' | 'check' | 'key' | 'other';
  /** The constraint's name, or the engine's words. */
  readonly constraint: string;
  /** The columns, where the engine tells of them instead of the constraint. */
  readonly columns: readonly string[];
}

/** Why an attempt was refused. */
export interface WriteRefusal extends BrokenConstraint {
  /** No other row fares better: the table, or a trigger on it, is at fault. */
  readonly whateverRow: boolean;
}

/** The result of a statement of a transaction. */
export interface WriteResult {
  /** Of a statement that gives rows, those; their values as the driver gives them. */
  readonly rows: readonly (readonly unknown[])[];
  /** How many rows a write changed. */
  readonly changed: number;
  readonly refusal: WriteRefusal | null;
}

/**
 * Work within one transaction that writes: statements are yielded, and it is resumed with what came of them. What it throws, and
 * what a statement but an attempt is refused for, takes all of it back.
 */
export type WriteWork<Result> = Generator<WriteStep, Result, WriteResult>;

/** One change with other values many times over, each an attempt by itself. */
export interface EachStep {
  readonly kind: 'attempt each';
  readonly sql: string;
  /** The values of its placeholders, in order: of each time. */
  readonly values: readonly (readonly BoundValue[])[];
  readonly gives: 'rows' | 'count';
}

/** What came of one change many times over. */
export interface EachResult {
  /** Why a time was refused, by its place. */
  readonly refusals: ReadonlyMap<number, WriteRefusal>;
  /** Of a statement that gives rows, the first of each time, by its place. */
  readonly rows: ReadonlyMap<number, readonly unknown[]>;
}

/** A question for rows within a transaction that writes: what was written before is among them. */
export interface AskStep {
  readonly kind: 'ask';
  readonly statement: Statement;
}

/** What a step of commands gives: of a question the rows, of a change what came of it. */
export type CommandAnswer =
  | { readonly kind: 'asked'; readonly result: StatementResult }
  | { readonly kind: 'written'; readonly result: WriteResult; readonly milliseconds: number }
  | { readonly kind: 'written each'; readonly result: EachResult };

/** A step of commands. */
export type CommandStep = AskStep | WriteStep | EachStep;

/** Commands within one transaction. */
export type CommandWork<Result> = Generator<CommandStep, Result, CommandAnswer>;

import type { BoundValue } from '../core/values/index.js';

/** A statement of a transaction that writes. */
export interface WriteStep {
  /**
   * *define*: makes or changes a table, or what stands on one. *write*: changes rows. *attempt*: changes rows, and may be refused:
   * then nothing of it is left, and the transaction goes on. *read*: changes nothing.
   */
  readonly kind: 'define' | 'write' | 'attempt' | 'read';
  readonly sql: string;
  /** The values of its placeholders, in order. */
  readonly values: readonly BoundValue[];
}

/** Why an attempt was refused. */
export interface Refusal {
  /** The constraint, or the engine's words. */
  readonly constraint: string;
  /** No other row fares better: the table, or a trigger on it, is at fault. */
  readonly whateverRow: boolean;
}

/** The result of a statement of a transaction. */
export interface WriteResult {
  /** Of a read, its rows; their values as the driver gives them. */
  readonly rows: readonly (readonly unknown[])[];
  /** How many rows a write changed. */
  readonly changed: number;
  readonly refusal: Refusal | null;
}

/**
 * Work within one transaction that writes: statements are yielded, and it is resumed with what came of them. What it throws, and
 * what a statement but an attempt is refused for, takes all of it back.
 */
export type WriteWork<Result> = Generator<WriteStep, Result, WriteResult>;

/** A statement without values. */
export const define = (sql: string): WriteStep => ({ kind: 'define', sql, values: [] });

import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import type { Span, Weight } from '../notation/index.js';
import type { QueryPlan } from '../plan/index.js';
import type { ValueType } from '../values/index.js';

/** The dialect and the text that row checks are made for. */
export interface RowCheckContext {
  /** That of the database whose rows are looked at. */
  readonly dialect: Dialect;
  /** The text that the model was read from. */
  readonly text: string;
}

/** A question to the rows of a database: which of them break one thing that the design says. */
export interface RowQuestion {
  /** The code of its finding. */
  readonly code: string;
  readonly weight: Weight;
  /** The place in the text that the rows do not hold to. */
  readonly span: Span;
  /** The entity whose rows are found; null for pairs of a pivot, and for values. */
  readonly entity: string | null;
  /** The condition, as the notation writes it, under which Rows shows the same; null where it cannot say it. */
  readonly condition: string | null;
  /** The finding's message for so many rows. */
  told(rows: number): string;
  /**
   * Gives a number that is 0 where this question, and all others that have the same, would find nothing: what is wrong with any
   * field of a row is looked for once.
   */
  readonly screen: QueryPlan | null;
  /** Gives the one number. */
  readonly count: QueryPlan;
  /** A few of them: first the columns that tell why, and of an entity's rows the key last. */
  readonly examples: QueryPlan;
  /** The columns that tell why a row was found. */
  readonly telling: readonly Evidence[];
}

/** A column that tells why a row was found. */
export interface Evidence {
  readonly column: string;
  readonly type: ValueType;
}

/** One thing to look for in the rows of a database. */
export interface RowCheck {
  readonly code: string;
  ask(model: Model, context: RowCheckContext): RowQuestion[];
}

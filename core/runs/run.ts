import type { Dialect } from '../dialects/index.js';
import type { Computation } from '../load/index.js';

/**
 * A computation that needs rows, by what it is given. What goes in and comes out is plain data, since it may be carried out in
 * another process: the one that holds the database.
 */
export interface Run<Input, Result> {
  readonly compute: (dialect: Dialect, input: Input) => Computation<Result>;
  /**
   * `whole`: all its statements see one state of the database, and it is carried out where the rows are. `by statement`: each
   * statement is a call of its own, bounded in time for itself, between which others are answered; for what may take long.
   */
  readonly pace: 'whole' | 'by statement';
}

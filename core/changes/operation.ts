/** A statement of a plan, in working order. */
export interface Operation {
  readonly sql: string;
  /**
   * *define*: a statement that makes, changes or drops; *rows*: one that changes rows; *check*: one that counts what must not be, so
   * that the plan ends where it finds some.
   */
  readonly kind: 'define' | 'rows' | 'check';
  /** What it is for, as a comment of the script. */
  readonly what: string;
  /** The table that it is at, as it will be called, or was; null for what stands beside tables. */
  readonly table: string | null;
  /**
   * Of an engine whose definitions commit by themselves: what takes the statement back, where a later one cannot be carried out. Left
   * out from where the plan is finished, and not taken back any more.
   */
  readonly back?: readonly string[];
  /** A question that has a row where the statement was carried out already; left out where doing it again does no harm. */
  readonly done?: string;
  /** Whether a person wrote it. */
  readonly byHand?: true;
}

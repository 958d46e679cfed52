/** A statement of a plan, in working order. */
export interface Operation {
  readonly sql: string;
  /** *define*: a statement that makes, changes or drops; *rows*: one that changes rows. */
  readonly kind: 'define' | 'rows';
  /** What it is for, as a comment of the script. */
  readonly what: string;
  /** The table that it is at, as it will be called, or was; null for what stands beside tables. */
  readonly table: string | null;
}

import type { TableName } from '../sql/index.js';

/** What a plan takes away is kept in a table beside, until a person lets go of it. */
export type Aside =
  /** Former values of rows that stay, by the key that the rows have since. */
  | {
      readonly kind: 'values';
      /** The table as it is called since. */
      readonly table: TableName;
      readonly aside: TableName;
      /** The key's columns since. */
      readonly key: readonly string[];
      readonly columns: readonly AsideColumn[];
    }
  /** The values of rows that were made, so that others have something to point at. */
  | { readonly kind: 'made'; readonly table: TableName; readonly aside: TableName; readonly column: string }
  /** Whole rows that went, or whose table did. */
  | { readonly kind: 'rows'; readonly table: TableName; readonly aside: TableName; readonly columns: readonly string[] };

/** A column of which former values are kept. */
export interface AsideColumn {
  /** What it was called. */
  readonly was: string;
  /** Where its former value stands. */
  readonly kept: string;
  /** Where it stands what became of that; null where the column went. */
  readonly became: string | null;
}

import type { ValueType, Wire } from '../values/index.js';

/** A value of a column. */
export interface Cell {
  readonly column: string;
  readonly type: ValueType;
  readonly value: Wire;
  /** The entity that declares the column; of a key that a relation holds, the one that holds it. */
  readonly owner: string;
}

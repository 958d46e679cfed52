import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import type { Finding, Syntax } from '../notation/index.js';
import type { SchemaOf } from '../schema/index.js';

/** One thing to look for in a design. */
export interface DesignCheck {
  /** The code of its findings. */
  readonly code: string;
  /**
   * @param dialect that of the database in use
   * @param syntax the text as it was read, for the places of fixes
   * @param made the tables that the model asks of that database
   */
  find(model: Model, dialect: Dialect, syntax: Syntax, made: SchemaOf): Finding[];
}

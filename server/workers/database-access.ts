import type { Engine, ServerAccess } from '../../engines/index.js';
import type { StoredCommands, StoredTree } from '../store/index.js';

/** A tree, and what it takes to open its database. */
export interface DatabaseAccess {
  readonly tree: StoredTree;
  /** Where databases are kept. */
  readonly folder: string;
  /** How its server is opened, or why it cannot be; null where it uses none. */
  readonly access: { readonly access: ServerAccess } | { readonly problem: string } | null;
  /** What was written into its scratch database, to be carried out again when that is made. */
  readonly written: readonly StoredCommands[];
  /** Digests of the SQL that a person has agreed to. */
  readonly agreed: readonly string[];
}

/** A database that can be written to, and how to let go of it again. */
export interface Writable {
  readonly engine: Engine;
  close(): Promise<void>;
}

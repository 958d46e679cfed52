import type { Connection } from './connection.js';

/** A connection that was taken from a pool. */
export interface Lease extends Connection {
  /** Gives it back; one that is broken is not used again. */
  release(broken: boolean): void;
  /** Ends on the server what it is doing. */
  cancel(): Promise<void>;
}

/** The connections to one database. */
export interface Pool {
  acquire(): Promise<Lease>;
  close(): Promise<void>;
}

import type { Address } from '../address.js';

/** An address with its password and limits, as a server is opened with. */
export interface ServerAccess {
  readonly address: Address;
  readonly password: string | null;
  /** The schema, or on MariaDB the database, that is meant where none is said; null for the address's own. */
  readonly place: string | null;
  /** What a person calls this database, in messages. */
  readonly label: string;
  /** How long one call may take. */
  readonly milliseconds: number;
}

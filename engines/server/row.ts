import type { Engine, Outcome } from '../engine.js';
import type { ServerAccess } from './access.js';
import type { Scratch, ScratchName } from './scratch.js';

/** The surroundings of a database: the server's version, the login, its schemas and rights. */
export interface Surroundings {
  /** As `PostgreSQL 15.18`. */
  readonly version: string;
  readonly user: string;
  readonly database: string;
  /** Schemas with tables, or on MariaDB databases; with how many of their tables the login may read. */
  readonly schemas: readonly { readonly name: string; readonly tables: number; readonly readable: number }[];
  /** What the login may not do, and what follows from that, in words. */
  readonly limits: readonly string[];
  /** What the login could do beyond its own databases, in words; null where that is no more than any login. */
  readonly powers: string | null;
}

/** An engine that runs as a server: one row of the table of engines. */
export interface ServerEngine {
  /** As a person calls it. */
  readonly title: string;
  /** What runs a script on it, up to the name of the file. */
  readonly scriptCommand: string;
  open(access: ServerAccess): Engine;
  /** What the server says of itself and of the login. */
  surroundings(engine: Engine): Promise<Outcome<Omit<Surroundings, 'powers'>>>;
  /** What the login could do beyond its own databases, one by one, in words. */
  powers(engine: Engine): Promise<readonly string[]>;
  /** Makes an empty database of the name that the address has, in which text is compared as in those of its own. */
  make(access: ServerAccess): Promise<Outcome<null>>;
  /** Opens an empty database of its own. */
  scratch(access: ServerAccess, wanted: ScratchName): Promise<Outcome<Scratch>>;
}

/** The messages for schemas of which the login may not read all tables. */
export function unreadable(schemas: Surroundings['schemas']): string[] {
  const hidden = schemas.filter(({ tables, readable }) => readable < tables);
  return hidden.map(
    ({ name, tables, readable }) =>
      `It may not read ${tables - readable} of the ${tables} tables of ${name}: their columns are seen, their rows are not.`,
  );
}

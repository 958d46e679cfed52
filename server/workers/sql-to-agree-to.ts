import { powersOf, type ServerAccess } from '../../engines/index.js';
import { digestOf, digestWithPowers } from '../store/index.js';

/** A piece of SQL that somebody wrote, by what agreement to it is kept. */
export type Digested<Stated> = Stated & { readonly digest: string };

/** SQL that a person is asked about before it is run. */
export interface SqlToAgreeTo<Stated> {
  readonly statements: readonly Digested<Stated>[];
  /** What the login could do beyond its own database, in words; null for nothing. Where it could, SQL is agreed to twice. */
  readonly powers: string | null;
}

/** By what agreement to a piece of SQL is kept, for a place. */
export function agreementTo(sql: string, place: string): string {
  return digestOf(`${place}\n${sql}`);
}

/**
 * What of the SQL that somebody wrote nobody has agreed to yet, for a place; null where there is none.
 *
 * @param place where it would be run; agreement is for there alone
 * @param server what it takes to ask what the login may do; null where there is no login
 */
export async function sqlToAgreeTo<Stated extends { readonly sql: string }>(
  stated: readonly Stated[],
  { place, server, agreed }: { readonly place: string; readonly server: ServerAccess | null; readonly agreed: readonly string[] },
): Promise<SqlToAgreeTo<Stated> | null> {
  if (stated.length === 0) return null;
  const powers = server === null ? null : await powersOf(server);
  const known = new Set(agreed);
  const statements = stated
    .map((one) => ({ ...one, digest: agreementTo(one.sql, place) }))
    .filter(({ digest }) => !known.has(digest) || (powers !== null && !known.has(digestWithPowers(digest))));
  return statements.length === 0 ? null : { statements, powers };
}

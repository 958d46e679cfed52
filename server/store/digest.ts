import { createHash } from 'node:crypto';

/** By what a person’s agreement to a piece of SQL is kept: SHA-256 (FIPS 180-4), so that any change of it asks again. */
export function digestOf(text: string): string {
  return createHash('sha256').update(text).digest('hex');
}

/** The same, where a login that could do more than its own database holds is to run it. */
export function digestWithPowers(digest: string): string {
  return digestOf(`with powers\n${digest}`);
}

/**
 * What stands behind the type of a column whose values the engine counts: an identity, with how it counts (PostgreSQL,
 * “Identity Columns”), or a word (MariaDB, “AUTO_INCREMENT”), with what follows it.
 */
const NUMBERING = / (?:generated (?:always|by default) as identity|auto_increment)\b.*$/i;

/** Whether the engine numbers the rows by a column that is declared so. */
export function isNumbered(declared: string): boolean {
  return NUMBERING.test(declared);
}

/** A declared type as a column has it that holds the same values, and takes them from elsewhere. */
export function withoutNumbering(declared: string): string {
  return declared.replace(NUMBERING, '');
}

/** Whether a column that is declared so is, as a key, the row's own number (SQLite, “ROWIDs and the INTEGER PRIMARY KEY”). */
export function isRowNumber(declared: string): boolean {
  return declared.toLowerCase() === 'integer';
}

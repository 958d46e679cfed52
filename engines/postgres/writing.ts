import type { BrokenConstraint } from '../../core/write/index.js';
import type { WritingKind } from '../server/writing.js';

/** How PostgreSQL writes within a transaction. */
export const writing: WritingKind = {
  // What another has written in the meantime is seen, so that a row which stood in the way is found. A function may speak of what
  // is made after it.
  begin: ['begin isolation level read committed', 'set local check_function_bodies = off'],
  definesCommit: false,
  refusalEnds: true,
  changed: async (connection, { sql, values }) => {
    const rows = await connection.query(`with changed as (${sql} returning 1) select count(*) from changed`, values);
    return Number(rows[0]?.[0] ?? 0);
  },
  tableWithoutTransactions: async () => null,
  refusedBy,
};

/** What broke, by the code of the error (PostgreSQL, appendix A, class 23). */
const KINDS: Readonly<Record<string, BrokenConstraint['kind']>> = {
  '23001': 'key',
  '23502': 'required',
  '23503': 'key',
  '23505': 'unique',
  '23514': 'check',
};

/** What refused a row: a constraint, by its name, or the words for a value that its column does not take; null for another error. */
function refusedBy(error: unknown): BrokenConstraint | null {
  if (!(error instanceof Error) || !('code' in error)) return null;
  const { code = '', constraint, column, message } = error as Error & Partial<Record<'code' | 'constraint' | 'column', string>>;
  if (code.startsWith('23')) {
    const name = constraint ?? (column === undefined ? message : `not null: ${column}`);
    return { kind: KINDS[code] ?? 'other', constraint: name, columns: column === undefined ? [] : [column] };
  }
  // Class 22: a value that does not fit (PostgreSQL, appendix A); P0001 is raised by a trigger.
  return code.startsWith('22') || code === 'P0001' ? { kind: 'other', constraint: message, columns: [] } : null;
}

import { postgresDialect } from '../../core/dialects/index.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { holdingKeys, type MakingTraits } from '../making.js';
import type { Running } from '../server/answer.js';
import type { Connection } from '../server/connection.js';
import { make as makeOnServer } from '../server/make.js';
import type { WritingKind } from '../server/writing.js';

/** The most placeholders that one statement can have (PostgreSQL, “Frontend/Backend Protocol”: a 16-bit count). */
const MOST_VALUES = 60_000;
const MOST_ROWS = 500;

const WRITING: WritingKind = {
  // A function may speak of what is made after it.
  begin: ['begin', 'set local check_function_bodies = off'],
  definesCommit: false,
  refusalEnds: true,
  changed: async (connection, { sql, values }) => {
    const rows = await connection.query(`with changed as (${sql} returning 1) select count(*) from changed`, values);
    return Number(rows[0]?.[0] ?? 0);
  },
  refusedBy,
};

const TRAITS: MakingTraits = {
  dialect: postgresDialect,
  rowsAtOnce: (columns) => Math.max(1, Math.min(MOST_ROWS, Math.floor(MOST_VALUES / Math.max(1, columns)))),
  looksAtEach: false,
  holdKeys: holdingKeys,
};

/** Makes a schema and its rows in one transaction; keys are added when all rows are in, since tables may point at each other. */
export async function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  const report = await makeOnServer(connection, request, running, WRITING, TRAITS);
  // Plans are made from what is known of the rows.
  await connection.query('analyze');
  return report;
}

/** What refused a row: a constraint's name, or the words for a value that its column does not take; null for another error. */
function refusedBy(error: unknown): string | null {
  if (!(error instanceof Error) || !('code' in error)) return null;
  const { code, constraint, column, message } = error as Error & Partial<Record<'code' | 'constraint' | 'column', string>>;
  if (code?.startsWith('23') === true) return constraint ?? (column === undefined ? message : `not null: ${column}`);
  // Class 22: a value that does not fit (PostgreSQL, appendix A); P0001 is raised by a trigger.
  return code?.startsWith('22') === true || code === 'P0001' ? message : null;
}

import { mariadbDialect } from '../../core/dialects/index.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { holdingKeys, type MakingTraits } from '../making.js';
import type { Running } from '../server/answer.js';
import type { Connection } from '../server/connection.js';
import { make as makeOnServer } from '../server/make.js';
import type { WritingKind } from '../server/writing.js';

const MOST_ROWS = 500;

/** A row's value is refused by these: 1048 null, 1062 twice, 1264 range, 1292 and 1366 form, 1406 length, 1452 key, 1644 trigger, 4025 check. */
const REFUSALS = new Set([1048, 1062, 1264, 1265, 1292, 1364, 1366, 1406, 1452, 1644, 3140, 4025]);

const WRITING: WritingKind = {
  begin: ['start transaction'],
  // MariaDB, “SQL statements that cause an implicit commit”.
  definesCommit: true,
  refusalEnds: false,
  changed: async (connection, { sql, values }) => {
    const [result] = await connection.query(sql, values);
    return Number(result?.[0] ?? 0);
  },
  refusedBy,
};

const TRAITS: MakingTraits = {
  dialect: mariadbDialect,
  rowsAtOnce: () => MOST_ROWS,
  looksAtEach: false,
  holdKeys: holdingKeys,
};

/**
 * Makes a schema and its rows. Each statement that makes a table commits by itself there, so what fails in between leaves
 * a half that its caller drops.
 */
export function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  return makeOnServer(connection, request, running, WRITING, TRAITS);
}

/** What refused a row: a constraint's name, or the server's words; null for another error. */
function refusedBy(error: unknown): string | null {
  if (!(error instanceof Error) || !('errno' in error) || !REFUSALS.has(Number(error.errno))) return null;
  const { sqlMessage = error.message } = error as Error & { sqlMessage?: string };
  return (
    /CONSTRAINT `((?:[^`]|``)+)` failed/.exec(sqlMessage)?.[1] ??
    /for key '(?:[^']*\.)?([^']+)'/.exec(sqlMessage)?.[1] ??
    sqlMessage
  );
}

import type { Insert, MakeReport, MakeRequest } from '../engine.js';
import type { Running } from '../server/answer.js';
import type { Connection } from '../server/connection.js';
import { holdKeys, putIn, Refusals } from '../server/rows.js';

const MOST_ROWS = 500;

/** A row's value is refused by these: 1048 null, 1062 twice, 1264 range, 1292 and 1366 form, 1406 length, 1452 key, 1644 trigger, 4025 check. */
const REFUSALS = new Set([1048, 1062, 1264, 1265, 1292, 1364, 1366, 1406, 1452, 1644, 3140, 4025]);

/**
 * Makes a schema and its rows. Each statement that makes a table commits by itself there, so what fails in between leaves
 * a half that its caller drops.
 */
export async function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  const refusals = new Refusals();
  const rows: Record<string, number> = {};
  const run = async (sql: string) => {
    running(sql);
    await connection.query(sql);
  };
  for (const statement of request.before) await run(statement);
  await connection.query('start transaction');
  for (const insert of request.inserts) {
    running(insert.into);
    rows[insert.table] = (rows[insert.table] ?? 0) + (await insertRows(connection, insert, refusals));
  }
  await holdKeys(request.keys, rows, refusals, async (sql) => {
    const [result] = await connection.query(sql);
    return Number(result?.[0] ?? 0);
  });
  await connection.query('commit');
  for (const statement of request.after) await run(statement);
  return { rows, refused: refusals.list() };
}

function insertRows(connection: Connection, insert: Insert, refusals: Refusals): Promise<number> {
  return putIn(insert, refusals, {
    size: MOST_ROWS,
    // A statement that is refused leaves nothing behind; the transaction goes on.
    async attempt(rows) {
      const lists = rows.map((row) => `(${row.map(() => '?').join(', ')})`);
      try {
        await connection.query(`${insert.into} ${lists.join(', ')}`, rows.flat());
        return null;
      } catch (error) {
        const refused = constraintIn(error);
        if (refused === null) throw error;
        return refused;
      }
    },
  });
}

function constraintIn(error: unknown): string | null {
  if (!(error instanceof Error) || !('errno' in error) || !REFUSALS.has(Number(error.errno))) return null;
  const { sqlMessage = error.message } = error as Error & { sqlMessage?: string };
  return (
    /CONSTRAINT `((?:[^`]|``)+)` failed/.exec(sqlMessage)?.[1] ??
    /for key '(?:[^']*\.)?([^']+)'/.exec(sqlMessage)?.[1] ??
    sqlMessage
  );
}

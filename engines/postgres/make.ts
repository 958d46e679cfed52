import type { Insert, MakeReport, MakeRequest } from '../engine.js';
import type { Running } from '../server/answer.js';
import type { Connection } from '../server/connection.js';
import { holdKeys, putIn, Refusals } from '../server/rows.js';

/** The most placeholders that one statement can have (PostgreSQL, “Frontend/Backend Protocol”: a 16-bit count). */
const MOST_VALUES = 60_000;
const MOST_ROWS = 500;

/** Makes a schema and its rows in one transaction; keys are added when all rows are in, since tables may point at each other. */
export async function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  const refusals = new Refusals();
  const rows: Record<string, number> = {};
  const run = async (sql: string) => {
    running(sql);
    await connection.query(sql);
  };
  await connection.query('begin');
  try {
    // A function may speak of what is made after it.
    await connection.query('set local check_function_bodies = off');
    for (const statement of request.before) await run(statement);
    for (const insert of request.inserts) {
      running(insert.into);
      rows[insert.table] = (rows[insert.table] ?? 0) + (await insertRows(connection, insert, refusals));
    }
    await holdKeys(request.keys, rows, refusals, (sql) => changed(connection, sql));
    for (const statement of request.after) await run(statement);
    await connection.query('commit');
    // Plans are made from what is known of the rows.
    await connection.query('analyze');
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    throw error;
  }
  return { rows, refused: refusals.list() };
}

function insertRows(connection: Connection, insert: Insert, refusals: Refusals): Promise<number> {
  return putIn(insert, refusals, {
    size: Math.max(1, Math.min(MOST_ROWS, Math.floor(MOST_VALUES / Math.max(1, insert.columns)))),
    // A statement that fails ends the transaction, but for what stands behind a savepoint.
    async attempt(rows) {
      let number = 0;
      const lists = rows.map((row) => `(${row.map(() => `$${++number}`).join(', ')})`);
      await connection.query('savepoint before_rows');
      try {
        await connection.query(`${insert.into} ${lists.join(', ')}`, rows.flat());
        await connection.query('release savepoint before_rows');
        return null;
      } catch (error) {
        const refused = constraintIn(error);
        if (refused === null) throw error;
        await connection.query('rollback to savepoint before_rows');
        return refused;
      }
    },
  });
}

/** How many rows a statement changed. */
async function changed(connection: Connection, sql: string): Promise<number> {
  const rows = await connection.query(`with changed as (${sql} returning 1) select count(*) from changed`);
  return Number(rows[0]?.[0] ?? 0);
}

/** What refused a row: a constraint's name, or the words for a value that its column does not take; null for another error. */
function constraintIn(error: unknown): string | null {
  if (!(error instanceof Error) || !('code' in error)) return null;
  const { code, constraint, column, message } = error as Error & Partial<Record<'code' | 'constraint' | 'column', string>>;
  if (code?.startsWith('23') === true) return constraint ?? (column === undefined ? message : `not null: ${column}`);
  // Class 22: a value that does not fit (PostgreSQL, appendix A); P0001 is raised by a trigger.
  return code?.startsWith('22') === true || code === 'P0001' ? message : null;
}

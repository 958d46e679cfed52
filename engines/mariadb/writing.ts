import type { BrokenConstraint } from '../../core/write/index.js';
import type { WritingKind } from '../server/writing.js';

/**
 * What broke, by the number of the error (MariaDB, “Error Codes”): 1048 and 1364 null, 1062 twice, 1451 and 1452 key, 4025 check; 1264 range,
 * 1265, 1292, 1366 and 3140 form, 1406 length, 1644 a trigger.
 */
const KINDS: Readonly<Record<number, BrokenConstraint['kind']>> = {
  1048: 'required',
  1062: 'unique',
  1264: 'other',
  1265: 'other',
  1292: 'other',
  1364: 'required',
  1366: 'other',
  1406: 'other',
  1451: 'key',
  1452: 'key',
  1644: 'other',
  3140: 'other',
  4025: 'check',
};

/** How MariaDB writes within a transaction. */
export const writing: WritingKind = {
  // What another has written in the meantime is seen, so that a row which stood in the way is found.
  begin: ['set transaction isolation level read committed', 'start transaction'],
  // MariaDB, “SQL statements that cause an implicit commit”.
  definesCommit: true,
  refusalEnds: false,
  changed: async (connection, { sql, values }) => {
    const [result] = await connection.query(sql, values);
    return Number(result?.[0] ?? 0);
  },
  // MariaDB, “Information Schema ENGINES Table”: MyISAM, Aria, MEMORY and others have none.
  tableWithoutTransactions: async (connection) => {
    const [first] = await connection.query(
      `select tables.table_name from information_schema.tables
       join information_schema.engines on engines.engine = tables.engine
       where tables.table_schema = database() and tables.table_type = 'BASE TABLE' and engines.transactions <> 'YES'
       order by tables.table_name limit 1`,
    );
    return first === undefined ? null : String(first[0]);
  },
  refusedBy,
};

/** What refused a row: a constraint, by its name, or the server's words; null for another error. */
function refusedBy(error: unknown): BrokenConstraint | null {
  const kind = error instanceof Error && 'errno' in error ? KINDS[Number(error.errno)] : undefined;
  if (kind === undefined) return null;
  const { sqlMessage = '' } = error as Error & { sqlMessage?: string };
  const constraint =
    /CONSTRAINT `((?:[^`]|``)+)`/.exec(sqlMessage)?.[1] ?? /for key '(?:[^']*\.)?([^']+)'/.exec(sqlMessage)?.[1] ?? sqlMessage;
  const column = kind === 'required' ? /^(?:Column|Field) '([^']+)'/.exec(sqlMessage)?.[1] : undefined;
  return { kind, constraint, columns: column === undefined ? [] : [column] };
}

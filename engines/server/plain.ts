import type { PlainRows } from '../engine.js';
import { NotRead } from '../plain-rows.js';
import type { Ask } from '../protocol.js';
import type { Running, ServerKind } from './answer.js';
import type { Connection } from './connection.js';

/**
 * Runs one statement of a person's own within a transaction that reads. Such a transaction is no wall for a login that may do more:
 * it could be switched back, and files of the server be read. So the login has to be one that may only read.
 *
 * @throws NotRead where the login may do more, with what that is
 */
export async function readPlain(
  kind: ServerKind,
  connection: Connection,
  { statement, most }: Extract<Ask, { kind: 'plain' }>,
  running: Running,
): Promise<PlainRows> {
  const [first, ...others] = await kind.mayWrite(connection);
  if (first !== undefined)
    throw new NotRead(
      `Plain SQL is run by a login that may only read, and this one ${first}${others.length === 0 ? '' : `, and ${others.length} more`}. Give the database’s address with a login that has no right but to select.`,
    );
  const { sql, explains } = statement;
  running(sql);
  const started = performance.now();
  const table = await connection.readSome(statement, most);
  const milliseconds = performance.now() - started;
  const steps = explains ? [] : await kind.explain(connection, { sql, values: [] }, false).catch(() => []);
  return { ...table, milliseconds, steps };
}

import type { PlanStep } from '../../core/load/index.js';
import type { PlainRows } from '../engine.js';
import { NotRead } from '../plain-rows.js';
import type { Ask } from '../protocol.js';
import type { Connection, Positional } from './connection.js';

/** What of a kind of server a statement of a person's own needs. */
export interface ReadingKind {
  /** How it answers a statement; measured, it carries the statement out to count what each step finds. */
  explain(connection: Connection, statement: Positional, measured: boolean): Promise<PlanStep[]>;
  /** What keeps a login from being one that may only read, in words: none where it is such a one. */
  mayWrite(connection: Connection): Promise<readonly string[]>;
}

/**
 * Runs one statement of a person's own within a transaction that reads. Such a transaction is no wall for a login that may do more:
 * it could be switched back, and files of the server be read. So the login has to be one that may only read.
 *
 * @throws NotRead where the login may do more, with what that is
 */
export async function readPlain(
  kind: ReadingKind,
  connection: Connection,
  { statement, most }: Extract<Ask, { kind: 'plain' }>,
  running: (sql: string) => void,
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

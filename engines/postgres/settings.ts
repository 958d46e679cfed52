import type { Connection } from '../server/connection.js';

/** The settings of a session that answers depend on (PostgreSQL, chapter 20), whatever the server or the login sets. */
const PINNED: Readonly<Record<string, string>> = {
  timezone: 'UTC',
  datestyle: 'ISO, YMD',
  intervalstyle: 'postgres',
  extra_float_digits: '1',
  bytea_output: 'hex',
  standard_conforming_strings: 'on',
  client_encoding: 'UTF8',
  client_min_messages: 'warning',
  default_transaction_isolation: 'repeatable read',
  // Rows come in whole answers: the plan for all of them is wanted, not the one for the first.
  cursor_tuple_fraction: '1',
};

export interface SessionOptions {
  /** The schema that is meant where none is said; null for the login's own. */
  readonly place: string | null;
  readonly milliseconds: number;
}

/** Pins the settings of a connection. */
export async function pin(connection: Connection, { place, milliseconds }: SessionOptions): Promise<void> {
  const settings = {
    ...PINNED,
    statement_timeout: String(milliseconds),
    lock_timeout: String(Math.min(milliseconds, 10_000)),
    idle_in_transaction_session_timeout: String(Math.max(milliseconds * 4, 60_000)),
    ...(place === null ? {} : { search_path: `"${place.replaceAll('"', '""')}"` }),
  };
  const names = Object.keys(settings);
  const calls = names.map((_, index) => `set_config($${index * 2 + 1}, $${index * 2 + 2}, false)`);
  await connection.query(`select ${calls.join(', ')}`, Object.entries(settings).flat());
}

import {
  type ConnectionConfig,
  createConnection,
  createPool,
  type Pool as DriverPool,
  type FieldInfo,
  type PoolConnection,
} from 'mariadb';
import type { BoundParameter } from '../../core/values/index.js';
import type { Address } from '../address.js';
import { PlainTable } from '../plain-rows.js';
import type { Connection } from '../server/connection.js';
import type { Pool } from '../server/pool.js';

const MOST_CONNECTIONS = 3;
const PATIENCE = 10_000;

/**
 * The settings of a session that answers depend on (MariaDB, “Server System Variables”), whatever the server sets. Aggregated
 * texts are cut at a megabyte with no more than a warning unless `group_concat_max_len` says otherwise.
 */
const PINNED: Readonly<Record<string, string>> = {
  time_zone: "'+00:00'",
  sql_mode: "'STRICT_ALL_TABLES,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION,NO_AUTO_VALUE_ON_ZERO'",
  group_concat_max_len: '4294967295',
  foreign_key_checks: '1',
  check_constraint_checks: '1',
  collation_connection: "'utf8mb4_nopad_bin'",
  tx_isolation: "'REPEATABLE-READ'",
  innodb_lock_wait_timeout: '10',
};

/** Connections to a MariaDB server, by address and password. `place` is the database that is meant where none is said. */
export function mariadbPool(address: Address, password: string | null, place: string | null, milliseconds: number): Pool {
  const database = place ?? address.database;
  const config: ConnectionConfig = {
    host: address.host,
    port: address.port,
    user: address.user,
    password: password ?? '',
    ...(database === '' ? {} : { database }),
    ssl: tlsOf(address),
    connectTimeout: PATIENCE,
    charset: 'utf8mb4',
    rowsAsArray: true,
    autoJsonMap: false,
    allowPublicKeyRetrieval: false,
    // A local file is none of the server's business.
    permitLocalInfile: false,
    multipleStatements: false,
    // Values come as the driver reads them where it loses nothing: dates as text, whole numbers of 64 bits with all digits.
    dateStrings: true,
    decimalAsNumber: false,
    bigIntAsNumber: false,
    initSql: [
      `set ${Object.entries({ ...PINNED, max_statement_time: String(milliseconds / 1000) })
        .map(([name, value]) => `@@session.${name} = ${value}`)
        .join(', ')}`,
    ],
  };
  const pool = createPool({
    ...config,
    connectionLimit: MOST_CONNECTIONS,
    minimumIdle: 0,
    idleTimeout: 30,
    acquireTimeout: PATIENCE,
    initializationTimeout: PATIENCE,
    noControlAfterUse: true,
  });
  return {
    async acquire() {
      const taken = await opened(pool, config);
      const cancel = async () => {
        const other = await createConnection(config);
        await other.query('kill query ?', [taken.threadId]);
        await other.end();
      };
      return {
        ...connectionOf(taken, cancel),
        release: (broken) => {
          if (broken) taken.destroy();
          else void taken.release().catch(() => null);
        },
        cancel,
      };
    },
    close: () => pool.end().catch(() => undefined),
  };
}

/** A connection of the pool. The pool tells no reason why it could not open one, so that is asked for once more. */
async function opened(pool: DriverPool, config: ConnectionConfig): Promise<PoolConnection> {
  try {
    return await pool.getConnection();
  } catch (error) {
    const alone = await createConnection(config);
    await alone.end();
    throw error;
  }
}

/**
 * A connection of the driver.
 *
 * @param cancel ends on the server what the connection is at
 */
function connectionOf(connection: PoolConnection, cancel: () => Promise<void>): Connection {
  return {
    async query(sql, values = []) {
      const result: unknown = await connection.query(sql, values.map(asSent));
      return Array.isArray(result) ? (result as unknown[][]) : [[(result as { affectedRows?: number }).affectedRows ?? 0]];
    },
    async readSome({ sql }, most) {
      const stream = connection.queryStream(sql);
      let names: readonly string[] = [];
      stream.once('fields', (columns: readonly FieldInfo[]) => {
        names = columns.map((column) => column.name());
      });
      let table: PlainTable | null = null;
      let ended: Promise<unknown> | null = null;
      try {
        for await (const row of stream) {
          table ??= new PlainTable(names, most);
          // The rest would come all the same, so the server is told to end it.
          if (ended === null && !table.take(row as unknown[])) ended = cancel().catch(() => null);
        }
      } catch (error) {
        if (ended === null) throw error;
      }
      await ended;
      return (table ?? new PlainTable(names, most)).table;
    },
  };
}

/** The driver takes bytes as a Buffer only. */
function asSent(value: BoundParameter): unknown {
  return value instanceof Uint8Array ? Buffer.from(value) : Array.isArray(value) ? value.map(asSent) : value;
}

function tlsOf({ tls, authority }: Address): ConnectionConfig['ssl'] {
  if (tls === 'off') return false;
  return tls === 'checked'
    ? { rejectUnauthorized: true, ...(authority === null ? {} : { ca: authority }) }
    : { rejectUnauthorized: false };
}

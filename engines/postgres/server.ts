import pg from 'pg';
import type { Address } from '../address.js';
import type { Pool } from '../server/pool.js';
import { connectionOf } from './client.js';
import { pin } from './settings.js';

const MOST_CONNECTIONS = 3;
const PATIENCE = 10_000;

/** Connections to a PostgreSQL server, by address and password. */
export function postgresPool(address: Address, password: string | null, place: string | null, milliseconds: number): Pool {
  const config: pg.PoolConfig = {
    host: address.host,
    port: address.port,
    user: address.user,
    database: address.database === '' ? 'postgres' : address.database,
    password: password ?? undefined,
    ssl: tlsOf(address),
    max: MOST_CONNECTIONS,
    connectionTimeoutMillis: PATIENCE,
    idleTimeoutMillis: 30_000,
    application_name: 'family-tree',
    allowExitOnIdle: true,
  };
  const pool = new pg.Pool(config);
  // A connection that is lost while nobody uses it is no error of anybody's; the next call opens another.
  pool.on('error', () => null);
  const pinned = new WeakSet<pg.PoolClient>();
  return {
    async acquire() {
      const client = await pool.connect();
      const connection = connectionOf(client);
      // A connection that is lost in use fails the statement that is under way; the event itself would end the program.
      if (!pinned.has(client)) client.on('error', () => null);
      try {
        if (!pinned.has(client)) await pin(connection, { place, milliseconds });
      } catch (error) {
        client.release(true);
        throw error;
      }
      pinned.add(client);
      // The driver knows the number of the server's process, which its types do not tell.
      const { processID } = client as pg.PoolClient & { readonly processID?: number };
      return {
        ...connection,
        release: (broken) => client.release(broken),
        async cancel() {
          const other = new pg.Client({ ...config, connectionTimeoutMillis: PATIENCE });
          await other.connect();
          await other.query('select pg_cancel_backend($1)', [processID]);
          await other.end();
        },
      };
    },
    close: () => pool.end(),
  };
}

function tlsOf({ tls, authority }: Address): pg.PoolConfig['ssl'] {
  if (tls === 'off') return false;
  return tls === 'checked'
    ? { rejectUnauthorized: true, ...(authority === null ? {} : { ca: authority }) }
    : { rejectUnauthorized: false };
}

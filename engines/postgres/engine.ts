import type { Engine } from '../engine.js';
import type { ServerAccess } from '../server/access.js';
import { openServer } from '../server/engine.js';
import { postgresKind } from './kind.js';
import { postgresPool } from './server.js';

/** A database on a PostgreSQL server. Nothing is connected before the first call. */
export function openPostgres({ address, password, place, label, milliseconds }: ServerAccess): Engine {
  return openServer(postgresKind, postgresPool(address, password, place, milliseconds), { label, milliseconds });
}

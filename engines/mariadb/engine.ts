import type { Engine } from '../engine.js';
import type { ServerAccess } from '../server/access.js';
import { openServer } from '../server/engine.js';
import { mariadbKind } from './kind.js';
import { mariadbPool } from './server.js';

/** A database on a MariaDB server. Nothing is connected before the first call. */
export function openMariadb({ address, password, place, label, milliseconds }: ServerAccess): Engine {
  return openServer(mariadbKind, mariadbPool(address, password, place, milliseconds), { label, milliseconds });
}

import type { DialectName } from '../notation/index.js';
import { postgresStrategy } from './postgres.js';
import { sqliteStrategy } from './sqlite.js';
import type { Strategy } from './working.js';

/** How each engine is changed. */
export const strategies: Readonly<Record<DialectName, Strategy>> = {
  sqlite: sqliteStrategy,
  postgres: postgresStrategy,
  mariadb: sqliteStrategy,
};

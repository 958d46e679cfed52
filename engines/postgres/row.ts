import type { ServerEngine } from '../server/row.js';
import { openPostgres } from './engine.js';
import { makeEmpty, openScratch } from './scratch.js';
import { powers, surroundings } from './surroundings.js';

/** A PostgreSQL server. */
export const postgresServer: ServerEngine = {
  title: 'PostgreSQL',
  scriptCommand: 'psql new_database -f',
  open: openPostgres,
  surroundings,
  powers,
  make: makeEmpty,
  scratch: openScratch,
};

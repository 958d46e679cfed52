import type { ServerEngine } from '../server/row.js';
import { openMariadb } from './engine.js';
import { makeEmpty, openScratch } from './scratch.js';
import { powers, surroundings } from './surroundings.js';

/** A MariaDB server. */
export const mariadbServer: ServerEngine = {
  title: 'MariaDB',
  scriptCommand: 'mariadb new_database <',
  open: openMariadb,
  surroundings,
  powers,
  make: makeEmpty,
  scratch: openScratch,
};

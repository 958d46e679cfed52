import { mariadbDialect } from '../../core/dialects/index.js';
import type { ServerKind } from '../server/answer.js';
import { positionalBy } from '../server/connection.js';
import { explain } from './explain.js';
import { introspect } from './introspect.js';
import { make } from './make.js';
import { mayWrite } from './may-write.js';
import { problemOf } from './problems.js';
import { runScript } from './run-script.js';
import { writing } from './writing.js';

/** Two who carry plans out wait for each other (MariaDB, “GET_LOCK”); whoever waits too long is told so as by a row’s lock. */
const APPLY = [
  "begin not atomic if get_lock(left(concat('family_tree ', database()), 64), 10) <> 1 then signal sqlstate '45000' set mysql_errno = 1205; end if; end",
  'set session foreign_key_checks = 0',
];

/** MariaDB, by address. */
export const mariadbKind: ServerKind = {
  dialect: mariadbDialect,
  positional: positionalBy(() => '?', false),
  // A statement that makes a table ends a transaction first, and would then be let through.
  beginReading: ['set session transaction read only', 'start transaction with consistent snapshot, read only'],
  beginWriting: ['set session transaction read write'],
  explain,
  introspect,
  mayWrite,
  make,
  writing,
  applying: {
    begin: APPLY,
    end: ['set session foreign_key_checks = 1', "do release_lock(left(concat('family_tree ', database()), 64))"],
  },
  runScript,
  problemOf,
};

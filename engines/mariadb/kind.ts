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
  applying: { begin: ['start transaction'] },
  runScript,
  problemOf,
};

import { postgresDialect } from '../../core/dialects/index.js';
import type { ServerKind } from '../server/answer.js';
import { positionalBy } from '../server/connection.js';
import { explain } from './explain.js';
import { introspect } from './introspect.js';
import { make } from './make.js';
import { mayWrite } from './may-write.js';
import { problemOf } from './problems.js';
import { runScript } from './run-script.js';
import { writing } from './writing.js';

/** Two who carry plans out wait for each other, and nobody waits long for those who use a table (PostgreSQL, 13.3 and “lock_timeout”). */
const APPLY = [
  'begin isolation level read committed',
  'set local check_function_bodies = off',
  "set local lock_timeout = '10s'",
  'set constraints all immediate',
  "select pg_advisory_xact_lock(hashtext('family_tree'), hashtext(current_database()))",
];

/** PostgreSQL, by address or embedded. */
export const postgresKind: ServerKind = {
  dialect: postgresDialect,
  positional: positionalBy((number) => `$${number}`, true),
  beginReading: ['begin isolation level repeatable read, read only'],
  beginWriting: [],
  explain,
  introspect,
  mayWrite,
  make,
  writing,
  applying: { begin: APPLY, end: [] },
  runScript,
  problemOf,
};

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
  runScript,
  problemOf,
};

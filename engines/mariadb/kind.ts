import { mariadbDialect } from '../../core/dialects/index.js';
import type { ServerKind } from '../server/answer.js';
import { positional } from '../server/connection.js';
import { explain } from './explain.js';
import { introspect } from './introspect.js';
import { make } from './make.js';
import { problemOf } from './problems.js';
import { runScript } from './run-script.js';

/** MariaDB, by address. */
export const mariadbKind: ServerKind = {
  dialect: mariadbDialect,
  positional: (sql, parameters) => positional(sql, parameters, () => '?', false),
  beginReading: ['start transaction with consistent snapshot, read only'],
  explain,
  introspect,
  make,
  runScript,
  problemOf,
};

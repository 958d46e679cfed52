import { postgresDialect } from '../../core/dialects/index.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { holdingKeys, type MakingTraits } from '../making.js';
import type { Connection } from '../server/connection.js';
import { make as makeOnServer } from '../server/make.js';
import type { Running } from '../server/running.js';
import { writing } from './writing.js';

/** The most placeholders that one statement can have (PostgreSQL, “Frontend/Backend Protocol”: a 16-bit count). */
const MOST_VALUES = 60_000;
const MOST_ROWS = 500;

const TRAITS: MakingTraits = {
  dialect: postgresDialect,
  rowsAtOnce: (columns) => Math.max(1, Math.min(MOST_ROWS, Math.floor(MOST_VALUES / Math.max(1, columns)))),
  looksAtEach: false,
  holdKeys: holdingKeys,
};

/** Makes a schema and its rows in one transaction; keys are added when all rows are in, since tables may point at each other. */
export async function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  const report = await makeOnServer(connection, request, running, writing, TRAITS);
  // Plans are made from what is known of the rows.
  await connection.query('analyze');
  return report;
}

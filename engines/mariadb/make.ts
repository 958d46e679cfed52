import { mariadbDialect } from '../../core/dialects/index.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { holdingKeys, type MakingTraits } from '../making.js';
import type { Connection } from '../server/connection.js';
import { make as makeOnServer } from '../server/make.js';
import type { Running } from '../server/running.js';
import { writing } from './writing.js';

const MOST_ROWS = 500;

const TRAITS: MakingTraits = {
  dialect: mariadbDialect,
  rowsAtOnce: () => MOST_ROWS,
  looksAtEach: false,
  holdKeys: holdingKeys,
};

/**
 * Makes a schema and its rows. Each statement that makes a table commits by itself there, so what fails in between leaves
 * a half that its caller drops.
 */
export function make(connection: Connection, request: MakeRequest, running: Running): Promise<MakeReport> {
  return makeOnServer(connection, request, running, writing, TRAITS);
}

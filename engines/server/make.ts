import { driveLater } from '../driver.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { type MakingTraits, making } from '../making.js';
import type { Connection } from './connection.js';
import type { Running } from './running.js';
import { WriteTransaction, type WritingKind } from './writing.js';

/** Makes a schema and its rows in one transaction, as far as the server lets it; keys are added when all rows are in. */
export async function make(
  connection: Connection,
  request: MakeRequest,
  running: Running,
  kind: WritingKind,
  traits: MakingTraits,
): Promise<MakeReport> {
  const transaction = new WriteTransaction(kind, connection, running);
  try {
    const report = await driveLater(making(request, traits), (step) => transaction.run(step));
    await transaction.commit();
    return report;
  } catch (error) {
    await transaction.rollback();
    throw error;
  }
}

import { historyOf } from '../services/index.js';
import { openGiven } from './place.js';
import { printHistory } from './plan-report.js';
import { told } from './with-plan.js';

export interface HistoryOptions {
  readonly json?: boolean;
  readonly timeout: number;
}

/** Tells what was done to a database. @throws with words for a person */
export async function historyOfDatabase(database: string, { json, timeout }: HistoryOptions): Promise<void> {
  const { engine, close } = await openGiven(database, timeout * 1000);
  try {
    const history = told(await historyOf(engine, told(await engine.introspect()).schema));
    if (json === true) process.stdout.write(`${JSON.stringify(history, null, 2)}\n`);
    else printHistory(history);
  } finally {
    await close();
  }
}

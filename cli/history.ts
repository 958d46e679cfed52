import { differences } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import { historyOf, ownedNow } from '../services/index.js';
import { openGiven } from './place.js';
import { printHistory } from './plan-report.js';
import { readText } from './report.js';
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

/**
 * Tells what somebody else's hand has changed in a database since it was last changed from here, and whether the text is still the
 * one that it was changed by; ends with 1 where something has. @throws with words for a person
 */
export async function driftOfDatabase(file: string, database: string, { json, timeout }: HistoryOptions): Promise<void> {
  const text = await readText(file);
  const { engine, close } = await openGiven(database, timeout * 1000);
  try {
    const { schema } = told(await engine.introspect());
    const [newest] = told(await historyOf(engine, schema));
    if (newest === undefined)
      throw new Error(
        `${database} was never changed from here, so there is nothing to hold it against. “family-tree plan” holds it against the text.`,
      );
    const differs = differences(dialects[engine.dialect], newest.after, ownedNow(schema, newest));
    const isOther = newest.textAfter !== text;
    if (json === true)
      process.stdout.write(`${JSON.stringify({ since: newest.number, differs, textDiffers: isOther }, null, 2)}\n`);
    else {
      const since = `number ${newest.number}, “${newest.name}”`;
      if (differs.length === 0) process.stdout.write(`Nothing has changed in the database since ${since}.\n`);
      for (const sentence of differs) process.stdout.write(`${sentence}\n`);
      if (isOther)
        process.stdout.write(
          `The text is another since ${since}: “family-tree plan ${file} ${database}” tells what that asks for.\n`,
        );
    }
    if (differs.length > 0) process.exitCode = 1;
  } finally {
    await close();
  }
}

import { scriptOfPlan } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import { type Drift, driftOf } from '../services/index.js';
import { carryOut } from './apply.js';
import { openGiven } from './place.js';
import { exitCodeOf, printPlan } from './plan-report.js';
import { printChanges, readText } from './report.js';
import { type PlanFlags, told, withPuttingBack } from './with-plan.js';

export interface DriftOptions extends PlanFlags {
  readonly json?: boolean;
  /** As what it is told, beside sentences: the text that follows it, the plan that puts it back, or that as a script. */
  readonly as?: 'text' | 'plan' | 'script';
  /** The name under which it is put back. */
  readonly putBack?: string;
  readonly allowLoss?: boolean;
}

/**
 * Tells what somebody else's hand has changed in a database since it was last changed from here, and whether the text is still the
 * one that it was changed by; ends with 1 where something has. Or puts it back. @throws with words for a person
 */
export async function driftOfDatabase(file: string, database: string, options: DriftOptions): Promise<void> {
  const { as, putBack, allowLoss, answers } = options;
  if (putBack !== undefined)
    await withPuttingBack(database, options, 'write', (at) =>
      carryOut(at, { ...options, name: putBack, ...(allowLoss === undefined ? {} : { allowLoss }) }),
    );
  else if (as === 'plan' || as === 'script')
    await withPuttingBack(database, options, 'look', async ({ engine, planned }) => {
      const { plan } = planned;
      if (as === 'script' && exitCodeOf(plan) !== 2)
        process.stdout.write(scriptOfPlan(dialects[engine.dialect], plan.operations));
      else printPlan(planned, answers);
      process.exitCode = exitCodeOf(plan);
    });
  else await tellDrift(file, database, options);
}

async function tellDrift(file: string, database: string, { json, as, schema, timeout }: DriftOptions): Promise<void> {
  const text = await readText(file);
  const { engine, close } = await openGiven(database, timeout * 1000);
  try {
    const drift = told(await driftOf(engine, schema ?? null));
    if (drift === null)
      throw new Error(
        `${database} was never changed from here, so there is nothing to hold it against. “family-tree plan” holds it against the text.`,
      );
    if (as === 'text') {
      const edits = drift.edits(text);
      process.stdout.write(edits.text);
      printChanges(edits.changes);
    } else if (json === true) printJson(drift, text);
    else printDrift(drift, text, file, database);
    if (drift.differs.length > 0) process.exitCode = 1;
  } finally {
    await close();
  }
}

function printJson({ since, differs, edits }: Drift, text: string): void {
  const told = { since: since.number, differs, textDiffers: since.textAfter !== text, edits: edits(text).changes };
  process.stdout.write(`${JSON.stringify(told, null, 2)}\n`);
}

function printDrift({ since: { number, name, textAfter }, differs }: Drift, text: string, file: string, database: string): void {
  const since = `number ${number}, “${name}”`;
  if (differs.length === 0) process.stdout.write(`Nothing has changed in the database since ${since}.\n`);
  for (const sentence of differs) process.stdout.write(`${sentence}\n`);
  if (textAfter !== text)
    process.stdout.write(
      `The text is another since ${since}: “family-tree plan ${file} ${database}” tells what that asks for.\n`,
    );
}

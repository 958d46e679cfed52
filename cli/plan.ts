import { scriptOfPlan } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import { exitCodeOf, printPlan } from './plan-report.js';
import { type PlanFlags, withPlan } from './with-plan.js';

export interface PlanOptions extends PlanFlags {
  readonly script?: boolean;
  readonly json?: boolean;
}

/** Tells what would happen to a database; ends with 2 where an answer is missing, with 3 where data would be lost. */
export async function planForDatabase(file: string, database: string, options: PlanOptions): Promise<void> {
  await withPlan(file, database, options, 'look', ({ engine, planned: { plan } }) => {
    if (options.json === true) {
      const { changes, questions, faults, operations } = plan;
      process.stdout.write(`${JSON.stringify({ changes, questions, faults, operations }, null, 2)}\n`);
    } else if (options.script === true && exitCodeOf(plan) !== 2)
      process.stdout.write(scriptOfPlan(dialects[engine.dialect], plan.operations));
    else printPlan(plan, options.answers);
    process.exitCode = exitCodeOf(plan);
    return Promise.resolve();
  });
}

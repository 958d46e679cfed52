import { scriptOfPlan } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import { applying } from '../services/index.js';
import { writeScripts } from './numbered-scripts.js';
import { exitCodeOf, printPlan } from './plan-report.js';
import { rehearsed } from './rehearse.js';
import { type PlanAtHand, type PlanFlags, withPlan } from './with-plan.js';

export interface PlanOptions extends PlanFlags {
  /** The statements instead, or those that take the plan back. */
  readonly script?: boolean | 'forth' | 'back';
  readonly json?: boolean;
  /** A folder that the scripts are written into, as numbered files under a name. */
  readonly into?: string;
  readonly name?: string;
}

/** Tells what would happen to a database; ends with 2 where an answer is missing, with 3 where data would be lost. */
export async function planForDatabase(file: string, database: string, options: PlanOptions): Promise<void> {
  await withPlan(file, database, options, 'look', async (at) => {
    const { engine, planned } = at;
    const { plan } = planned;
    if (options.json === true) {
      const { changes, questions, faults, operations, byHand } = plan;
      process.stdout.write(`${JSON.stringify({ changes, questions, faults, operations, byHand }, null, 2)}\n`);
    } else if (options.into !== undefined && exitCodeOf(plan) !== 2 && plan.operations.length > 0) {
      if (options.name === undefined) throw new Error('Scripts have a name, which the history bears: --name.');
      const files = await writeScripts(at, options.into, options.name, options);
      for (const path of files) process.stdout.write(`${path}\n`);
    } else if (options.script === 'back' && exitCodeOf(plan) !== 2) process.stdout.write(await scriptBack(at, options));
    else if (options.script !== undefined && exitCodeOf(plan) !== 2)
      process.stdout.write(scriptOfPlan(dialects[engine.dialect], plan.operations));
    else printPlan(planned, options.answers);
    process.exitCode = exitCodeOf(plan);
  });
}

/** What takes a plan back, worked out on a copy of the rows on which it was carried out. @throws with words for a person */
async function scriptBack(at: PlanAtHand, { schema, ...flags }: PlanOptions): Promise<string> {
  const { planned, text, now } = at;
  if (planned.plan.operations.length === 0) return '';
  const request = applying(planned, { text, name: 'rehearsal', now, schemas: schema ?? null });
  const { back } = await rehearsed(at, request, flags);
  if (back.plain === '')
    throw new Error(
      'What takes this back asks something first, so there is no script of it. “apply”, and then “undo”, tells what.',
    );
  return back.plain;
}

import type { Applied } from '../core/changes/index.js';
import { applying } from '../services/index.js';
import { exitCodeOf, NOTHING_TO_DO, printPlan } from './plan-report.js';
import { type PlanAtHand, type PlanFlags, told, withPlan, withUndo } from './with-plan.js';

export interface ApplyOptions extends PlanFlags {
  readonly name: string;
  readonly allowLoss?: boolean;
}

/** Carries out what turns a database into what a text says: all of it, or nothing. @throws with words for a person */
export async function applyToDatabase(file: string, database: string, options: ApplyOptions): Promise<void> {
  await withPlan(file, database, options, 'write', (at) => carryOut(at, options));
}

/** Takes back the newest plan of a database. @throws with words for a person */
export async function undoOnDatabase(database: string, options: Omit<ApplyOptions, 'name'>): Promise<void> {
  await withUndo(database, options, (at) => {
    const { undoes } = at.planned;
    return carryOut(at, { ...options, name: `undo of ${undoes?.number}, “${undoes?.name}”` });
  });
}

async function carryOut({ engine, planned, text, now }: PlanAtHand, options: ApplyOptions): Promise<void> {
  const { plan } = planned;
  if (plan.changes.length === 0 && planned.undoes === null) {
    process.stdout.write(NOTHING_TO_DO);
    return;
  }
  const code = exitCodeOf(plan);
  if (code === 2 || (code === 3 && options.allowLoss !== true)) {
    printPlan(plan, options.answers);
    const loss = 'Data would be lost, so nothing was done. Add --allow-loss to do it all the same: what goes is kept aside.\n';
    if (code === 3) process.stderr.write(loss);
    process.exitCode = code;
    return;
  }
  const { name, schema } = options;
  const applied = told(await engine.apply(applying(planned, { text, name, now, schemas: schema ?? null })));
  if (applied.kind !== 'applied') throw new Error(whyNot(applied));
  const milliseconds = Math.round(applied.steps.reduce((sum, step) => sum + step.milliseconds, 0));
  const many = plan.changes.length === 1 ? '1 change' : `${plan.changes.length} changes`;
  process.stdout.write(`Applied as number ${applied.number}, “${name}”: ${many}, ${milliseconds} ms.\n`);
}

/** Why nothing was done. */
function whyNot(applied: Exclude<Applied, { kind: 'applied' }>): string {
  switch (applied.kind) {
    case 'moved':
      return `The database has changed since the plan was made, so nothing was done:\n${listed(applied.differs)}Make the plan again.`;
    case 'dangling':
      return `Rows of ${applied.tables.join(', ')} would point at nothing, so nothing was done. Make the plan again.`;
    case 'unlike':
      return `What came out was not what the text says, so nothing was done. This is a fault of the program:\n${listed(applied.differs)}`;
  }
}

function listed(lines: readonly string[]): string {
  return lines.map((line) => `  ${line}\n`).join('');
}

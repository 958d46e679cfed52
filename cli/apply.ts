import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Applied, ApplyRequest } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { fileEngine } from '../engines/index.js';
import { applying, rehearsePlan } from '../services/index.js';
import { fileOf } from './place.js';
import { exitCodeOf, NOTHING_TO_DO, printPlan, printRehearsal } from './plan-report.js';
import { type PlanAtHand, type PlanFlags, told, withPlan, withUndo } from './with-plan.js';

export interface ApplyOptions extends PlanFlags {
  readonly name: string;
  readonly allowLoss?: boolean;
  readonly rehearse?: boolean;
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

async function carryOut(at: PlanAtHand, options: ApplyOptions): Promise<void> {
  const { engine, planned, database, text, now } = at;
  const { plan } = planned;
  if (plan.changes.length === 0 && planned.undoes === null) {
    process.stdout.write(NOTHING_TO_DO);
    return;
  }
  const code = exitCodeOf(plan);
  if (code === 2 || (code === 3 && options.allowLoss !== true && options.rehearse !== true)) {
    printPlan(plan, options.answers);
    const loss = 'Data would be lost, so nothing was done. Add --allow-loss to do it all the same: what goes is kept aside.\n';
    if (code === 3) process.stderr.write(loss);
    process.exitCode = code;
    return;
  }
  const { name, schema } = options;
  const request = applying(planned, { text, name, now, schemas: schema ?? null });
  if (options.rehearse === true) {
    await rehearse(at, request, options);
    return;
  }
  const file = fileOf(database);
  const number = (planned.history[0]?.number ?? 0) + 1;
  const before = file === null ? null : `${file}.before-${number}`;
  if (file !== null && before !== null) told(await fileEngine.copy(file, before, { label: file }));
  const applied = told(await engine.apply(request));
  if (applied.kind !== 'applied' && before !== null) await rm(before, { force: true });
  if (applied.kind !== 'applied') throw new Error(whyNot(applied));
  const milliseconds = Math.round(applied.steps.reduce((sum, step) => sum + step.milliseconds, 0));
  const many = plan.changes.length === 1 ? '1 change' : `${plan.changes.length} changes`;
  process.stdout.write(`Applied as number ${applied.number}, “${name}”: ${many}, ${milliseconds} ms.\n`);
  if (before !== null) process.stdout.write(`As it was before it stands in ${before}.\n`);
}

/** Carries a plan out on a copy, and tells what came of it. */
async function rehearse(
  { engine, planned, database, folder, text }: PlanAtHand,
  request: ApplyRequest,
  { timeout }: ApplyOptions,
): Promise<void> {
  const file = fileOf(database);
  if (file === null)
    throw new Error(
      'A plan is rehearsed on a copy of the rows, which is made of a SQLite file alone so far. “plan --script” gives what would be run.',
    );
  const path = join(folder, 'rehearsal.db');
  const rests = planned.undoes === null ? { design: readDesign(text, engine.dialect) } : {};
  told(await fileEngine.copy(file, path, { label: file }));
  const copy = fileEngine.open({ path, mode: 'write', milliseconds: timeout * 1000, label: 'The copy' });
  const rehearsal = told(await rehearsePlan(engine, { engine: copy, remove: () => copy.close() }, planned, request, rests));
  if (rehearsal.applied.kind !== 'applied') throw new Error(whyNot(rehearsal.applied));
  printRehearsal(planned.plan, rehearsal);
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

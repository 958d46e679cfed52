import { rm } from 'node:fs/promises';
import { fileEngine } from '../engines/index.js';
import { applying, byHandWords } from '../services/index.js';
import { fileOf } from './place.js';
import { exitCodeOf, NOTHING_TO_DO, printPlan, printRehearsal } from './plan-report.js';
import { rehearsed, whyNot } from './rehearse.js';
import { type PlanAtHand, type PlanFlags, told, withPlan, withUndo } from './with-plan.js';

export interface ApplyOptions extends PlanFlags {
  readonly name: string;
  readonly allowLoss?: boolean;
  readonly rehearse?: boolean;
  /** So many rows of a server are rehearsed on. */
  readonly rows?: number;
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

/** Carries a plan out under a name, or rehearses it. @throws with words for a person */
export async function carryOut(at: PlanAtHand, options: ApplyOptions): Promise<void> {
  const { engine, planned, database, text, now } = at;
  const { plan } = planned;
  if (plan.changes.length === 0 && planned.undoes === null) {
    process.stdout.write(NOTHING_TO_DO);
    return;
  }
  const code = exitCodeOf(plan);
  if (code === 2 || (code === 3 && options.allowLoss !== true && options.rehearse !== true)) {
    printPlan(planned, options.answers);
    const loss = 'Data would be lost, so nothing was done. Add --allow-loss to do it all the same: what goes is kept aside.\n';
    if (code === 3) process.stderr.write(loss);
    process.exitCode = code;
    return;
  }
  for (const words of byHandWords(planned)) process.stdout.write(`${words}\n`);
  const { name, schema } = options;
  const request = applying(planned, { text, name, now, schemas: schema ?? null });
  if (options.rehearse === true) {
    const rehearsal = await rehearsed(at, request, options);
    printRehearsal(plan, rehearsal, rehearsal.part);
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

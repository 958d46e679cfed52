import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  type Answers,
  type ChangePlan,
  NO_ANSWERS,
  type PlannedChange,
  type Question,
  readAnswers,
} from '../core/changes/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { fileEngine } from '../engines/index.js';
import { applying, historyOf, nowOf, type OpenScratch, planDatabase } from '../services/index.js';
import { openGiven } from './place.js';
import { mayGoOn, readText } from './report.js';

export interface PlanFlags {
  readonly answers?: string;
  readonly script?: 'forth' | 'back';
  readonly json?: boolean;
  readonly evenSo?: boolean;
  readonly schema?: readonly string[];
  readonly timeout: number;
}

export interface ApplyFlags extends PlanFlags {
  readonly name: string;
  readonly allowLoss?: boolean;
}

/** Tells what would happen to a database; ends with 2 where an answer is missing, with 3 where data would be lost. */
export async function planForDatabase(file: string, database: string, options: PlanFlags): Promise<void> {
  await withPlan(file, database, options, 'look', ({ planned }) => {
    const { plan } = planned;
    if (options.json === true) process.stdout.write(`${JSON.stringify(plan, null, 2)}\n`);
    else if (options.script === 'forth') process.stdout.write(scriptOf(plan));
    else printPlan(plan, options.answers);
    process.exitCode = exitCodeOf(plan);
    return Promise.resolve();
  });
}

/** Carries a plan out. @throws with words for a person where it does not */
export async function applyToDatabase(file: string, database: string, options: ApplyFlags): Promise<void> {
  await withPlan(file, database, options, 'write', async ({ design, engine, planned, now }) => {
    const { plan } = planned;
    if (plan.changes.length === 0) {
      process.stdout.write('Nothing to do: the database is as the text says.\n');
      return;
    }
    const code = exitCodeOf(plan);
    if (code === 2 || (code === 3 && options.allowLoss !== true)) {
      printPlan(plan, options.answers);
      if (code === 3) process.stderr.write('Data would be lost, so nothing was done. Add --allow-loss to do it all the same.\n');
      process.exitCode = code;
      return;
    }
    const done = await engine.apply(applying(design, planned, options.name, now));
    if (!done.ok) throw new Error(`${done.problem.message}\nNothing was changed.`);
    switch (done.value.kind) {
      case 'applied': {
        const { steps, number } = done.value;
        const milliseconds = steps.reduce((sum, step) => sum + step.milliseconds, 0);
        process.stdout.write(
          `Applied as number ${number}, “${options.name}”: ${plan.changes.length} changes, ${Math.round(milliseconds)} ms.\n`,
        );
        return;
      }
      case 'moved':
        throw new Error(
          `The database has changed since the plan was made, so nothing was done:\n${done.value.differs.map((line) => `  ${line}\n`).join('')}Make the plan again.`,
        );
      case 'dangling':
        throw new Error(
          `Rows of ${done.value.tables.join(', ')} would point at nothing, so nothing was done. Make the plan again.`,
        );
      case 'unlike':
        throw new Error(
          `What came out was not what the text says, so nothing was done. This is a fault of the program:\n${done.value.differs.map((line) => `  ${line}\n`).join('')}`,
        );
    }
  });
}

/** Tells what was done to a database. @throws with words for a person */
export async function historyOfDatabase(
  database: string,
  { json, timeout }: { readonly json?: boolean; readonly timeout: number },
): Promise<void> {
  const { engine, close } = await openGiven(database, timeout * 1000);
  try {
    const read = await engine.introspect();
    if (!read.ok) throw new Error(read.problem.message);
    const history = await historyOf(engine, read.value.schema);
    if (!history.ok) throw new Error(history.problem.message);
    if (json === true) process.stdout.write(`${JSON.stringify(history.value, null, 2)}\n`);
    else if (history.value.length === 0) process.stdout.write('Nothing was changed here by this program.\n');
    else
      for (const { number, name, at, milliseconds, rows, changes, state } of history.value) {
        const undone = state === 'undone' ? ', undone' : '';
        process.stdout.write(
          `${number}  ${at.slice(0, 19).replace('T', ' ')}  ${name}${undone}: ${changes.length} changes, ${rows} rows, ${milliseconds} ms\n`,
        );
        for (const { sentence } of changes) process.stdout.write(`     ${sentence}\n`);
      }
  } finally {
    await close();
  }
}

interface WithPlan {
  readonly design: Design;
  readonly engine: Awaited<ReturnType<typeof openGiven>>['engine'];
  readonly planned: Extract<Awaited<ReturnType<typeof planDatabase>>, { ok: true }>['value'];
  readonly now: string;
}

async function withPlan(
  file: string,
  database: string,
  options: PlanFlags,
  mode: 'look' | 'write',
  use: (made: WithPlan) => Promise<void>,
): Promise<void> {
  const text = await readText(file);
  const answers = await answersIn(options.answers);
  const { engine, close } = await openGiven(database, options.timeout * 1000, mode);
  const folder = await mkdtemp(join(tmpdir(), 'family-tree-'));
  try {
    const design = readDesign(text, engine.dialect);
    if (!mayGoOn(file, design, 'planned', options.evenSo === true)) return;
    const now = nowOf(design.model, false);
    const planned = await planDatabase(design, engine, {
      answers,
      openScratch: scratchIn(folder),
      now,
      schemas: options.schema ?? null,
    });
    if (!planned.ok) throw new Error(planned.problem.message);
    await use({ design, engine, planned: planned.value, now });
  } finally {
    await close();
    await rm(folder, { recursive: true, force: true });
  }
}

/** Scratch databases that are files of a folder. */
function scratchIn(folder: string): OpenScratch {
  let number = 0;
  return () => {
    number += 1;
    const engine = fileEngine.open({
      path: join(folder, `${number}.db`),
      mode: 'make',
      milliseconds: LONGEST_MAKE,
      label: 'The tables of the text',
    });
    return Promise.resolve({ ok: true, value: { engine, remove: () => engine.close() } });
  };
}

const LONGEST_MAKE = 60_000;

async function answersIn(file: string | undefined): Promise<Answers> {
  if (file === undefined) return NO_ANSWERS;
  const { answers, faults } = readAnswers(await readFile(file, 'utf8'));
  const [fault] = faults;
  if (fault !== undefined) throw new Error(`${file}:${fault.line}: ${fault.message}`);
  return answers;
}

function exitCodeOf({ questions, faults, changes }: ChangePlan): number {
  if (questions.length > 0 || faults.length > 0) return 2;
  return changes.some(({ verdict }) => verdict === 'loses data') ? 3 : 0;
}

function printPlan({ changes, questions, faults }: ChangePlan, answers: string | undefined): void {
  if (changes.length === 0 && questions.length === 0) process.stdout.write('Nothing to do: the database is as the text says.\n');
  for (const change of changes) process.stdout.write(changeLine(change));
  for (const question of questions) process.stdout.write(questionText(question));
  for (const fault of faults) process.stdout.write(`\n${fault}\n`);
  if (questions.length > 0)
    process.stdout.write(`\nAn answer is a line of ${answers ?? 'a file, which is named by --answers'}.\n`);
}

function changeLine({ verdict, sentence, rows, lost }: PlannedChange): string {
  const counted = rows === 0 ? '' : `  ${rows.toLocaleString('en')} rows`;
  const loss = lost === 0 ? '' : `, ${lost.toLocaleString('en')} lose a value`;
  return `${verdict.padEnd(15)} ${sentence}${counted}${loss}\n`;
}

function questionText({ sentence, examples, ways }: Question): string {
  const shown = examples.map(({ shown: value, rows }) => `    ${value}  (${rows})\n`).join('');
  return `\n? ${sentence}\n${shown}${ways.map(({ line, does }) => `    ${line}\n        ${does}\n`).join('')}`;
}

function scriptOf({ operations }: ChangePlan): string {
  return operations.map(({ sql, what, table }) => `-- ${table === null ? '' : `${table}: `}${what}\n${sql};\n`).join('\n');
}

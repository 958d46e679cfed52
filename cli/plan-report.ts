import {
  type ChangePlan,
  type HistoryEntry,
  handStepWords,
  type PlannedChange,
  type Question,
  type SeenRow,
} from '../core/changes/index.js';
import { byHandWords, type PlannedDatabase, type Rehearsal } from '../services/index.js';

/** How a command ends that makes a plan: 0 where it is safe, 2 where an answer is missing, 3 where data would be lost. */
export function exitCodeOf({ questions, faults, changes }: ChangePlan): 0 | 2 | 3 {
  if (questions.length > 0 || faults.length > 0) return 2;
  return changes.some(({ verdict }) => verdict === 'loses data') ? 3 : 0;
}

/** Prints a plan as sentences, with what it asks. */
export function printPlan(planned: PlannedDatabase, answers: string | undefined): void {
  const { changes, questions, faults } = planned.plan;
  if (changes.length === 0 && questions.length === 0) process.stdout.write(NOTHING_TO_DO);
  for (const change of changes) process.stdout.write(changeLine(change));
  for (const words of byHandWords(planned)) process.stdout.write(`${words}\n`);
  for (const question of questions) process.stdout.write(questionText(question));
  for (const fault of faults) process.stdout.write(`\n${fault}\n`);
  if (questions.length > 0)
    process.stdout.write(`\nAn answer is a line of ${answers ?? 'a file, which is named by --answers'}.\n`);
}

export const NOTHING_TO_DO = 'Nothing to do: the database is as the text says.\n';

function changeLine({ verdict, sentence, rows, lost }: PlannedChange): string {
  const counted = rows === 0 ? '' : `  ${rows.toLocaleString('en')} rows`;
  const loss = lost === 0 ? '' : `, ${lost.toLocaleString('en')} lose a value`;
  return `${verdict.padEnd(15)} ${sentence}${counted}${loss}\n`;
}

function questionText({ sentence, rows, examples, look, ways }: Question): string {
  const shown = examples.map(({ shown: value, rows }) => `    ${value}  (${rows})\n`).join('');
  const looked = look.flat().slice(0, MOST_SEEN);
  const more =
    looked.length === 0 || rows <= looked.length ? '' : `    and ${(rows - looked.length).toLocaleString('en')} more\n`;
  const seen = `${looked.map(seenText).join('')}${more}`;
  return `\n? ${sentence}\n${shown}${seen}${ways.map(({ line, does }) => `    ${line}\n        ${does}\n`).join('')}`;
}

/** So many rows that a question is about are printed; all that were looked at are in what `--json` says. */
const MOST_SEEN = 12;

function seenText({ values, keep }: SeenRow): string {
  const told = values.map(({ column, shown }) => `${column} ${shown === null ? 'nothing' : JSON.stringify(shown)}`).join(', ');
  return `    ${told}\n${keep === null ? '' : `        ${keep}\n`}`;
}

/** Prints what came of a plan on a copy: each step with its time, each table with its rows, and rows side by side. */
export function printRehearsal(
  { operations }: ChangePlan,
  { milliseconds, tables, unheld }: Rehearsal,
  part: string | null,
): void {
  if (part !== null) process.stdout.write(`${part}\n`);
  for (const [at, { what, table }] of operations.entries())
    process.stdout.write(`${(milliseconds[at] ?? 0).toFixed(1).padStart(8)} ms  ${table === null ? '' : `${table}: `}${what}\n`);
  for (const { before, after, rowsBefore, rowsAfter, changed } of tables) {
    const name = before === after || before === null ? after : after === null ? before : `${before}, then ${after}`;
    process.stdout.write(`${name}: ${rowsBefore.toLocaleString('en')} rows before, ${rowsAfter.toLocaleString('en')} after\n`);
    for (const { key, before: was, after: is } of changed)
      process.stdout.write(
        `  ${key}\n    before ${JSON.stringify(was)}\n    after  ${is === null ? 'gone' : JSON.stringify(is)}\n`,
      );
  }
  for (const message of unheld) process.stdout.write(`${message}\n`);
  process.stdout.write('Rehearsed on a copy, which reads back as the text says: nothing of it stays.\n');
}

/** Prints what was done to a database, the newest first. */
export function printHistory(history: readonly HistoryEntry[]): void {
  if (history.length === 0) process.stdout.write('Nothing was changed here by this program.\n');
  for (const { number, name, at, milliseconds, rows, changes, byHand, state, undoes } of history) {
    const told = state === 'undone' ? ', taken back since' : undoes === null ? '' : `, takes back number ${undoes}`;
    const when = at.slice(0, 19).replace('T', ' ');
    process.stdout.write(`${number}  ${when}  ${name}${told}: ${changes.length} changes, ${rows} rows, ${milliseconds} ms\n`);
    for (const { sentence } of changes) process.stdout.write(`     ${sentence}\n`);
    for (const step of byHand) process.stdout.write(`     ${handStepWords({ step, becomes: 'placed' })}\n`);
  }
}

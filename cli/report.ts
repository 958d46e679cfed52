import { open, readFile } from 'node:fs/promises';
import { briefGroupsOf } from '../core/checks/index.js';
import type { Design } from '../core/design/index.js';
import { isModelJson, textOfModel } from '../core/formats/index.js';
import { type Finding, positions } from '../core/notation/index.js';
import type { DatabaseChange } from '../core/revisions/index.js';
import { fileEngine, type ScriptReport } from '../engines/index.js';
import type { MadeDatabase } from '../services/index.js';

const MOST_LINES = 20;

/** What a file of SQLite begins with (https://www.sqlite.org/fileformat.html#the_database_header). */
const HEADER = Buffer.from(fileEngine.header, 'latin1');

class NotText extends Error {}

async function readStandardInput(): Promise<string> {
  const parts: Buffer[] = [];
  for await (const part of process.stdin) parts.push(part as Buffer);
  return Buffer.concat(parts).toString('utf8');
}

/** Is a file a SQLite database, or empty, so that it may be replaced by one? */
export async function isDatabaseFile(file: string): Promise<boolean> {
  const opened = await open(file, 'r');
  try {
    const { bytesRead, buffer } = await opened.read(Buffer.alloc(HEADER.length), 0, HEADER.length, 0);
    return bytesRead === 0 || buffer.equals(HEADER);
  } finally {
    await opened.close();
  }
}

/**
 * Reads a text, also out of a model’s JSON; `-` is standard input.
 *
 * @throws an error that a person can read where it is not there, or says no text
 */
export async function readText(file: string): Promise<string> {
  const content = await readOwnText(file);
  if (!isModelJson(content)) return content;
  const read = textOfModel(content);
  if ('problem' in read) throw new Error(`${file}: ${read.problem}`);
  return read.text;
}

/** Reads a text that may be written to: a model’s JSON is none. @throws an error that a person can read */
export async function readTextToWrite(file: string): Promise<string> {
  const content = await readOwnText(file);
  if (isModelJson(content))
    throw new Error(
      `${file} is a model, and a .kin text is wanted. Write its text to a file of its own: family-tree export ${file} --format kin --out FILE`,
    );
  return content;
}

async function readOwnText(file: string): Promise<string> {
  if (file === '-') return readStandardInput();
  try {
    const content = await readFile(file);
    if (content.subarray(0, HEADER.length).equals(HEADER))
      throw new NotText(`${file} is a SQLite database, and a .kin text is wanted there. Are the two the wrong way round?`);
    return content.toString('utf8');
  } catch (error) {
    if (error instanceof NotText) throw error;
    throw unreadable(file, error);
  }
}

/** Why a file cannot be read, as a person can read it. */
export function unreadable(file: string, error: unknown): Error {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return new Error(code === 'ENOENT' ? `${file} is not there.` : `${file} cannot be read (${code}).`);
}

/** Prints findings as `file:line:column: weight: message`, or as JSON; an error sets the exit code. */
export function printFindings(
  file: string,
  text: string,
  findings: readonly Finding[],
  json: boolean,
  to: NodeJS.WritableStream = process.stdout,
): void {
  const positionOf = positions(text);
  const placed = findings.map(({ weight, code, message, span, fixes }) => ({
    file,
    ...positionOf(span.start),
    weight,
    code,
    message,
    fixes: fixes.map((fix) => fix.title),
  }));
  if (json) to.write(`${JSON.stringify(placed, null, 2)}\n`);
  else
    for (const { weight, code, findings: same } of briefGroupsOf(placed)) {
      const [{ line, column, message }, ...others] = same;
      to.write(`${file}:${line}:${column}: ${weight}: ${message}\n`);
      if (others.length > 0) to.write(`  and ${others.length} more of ${code}: ${lineList(others.map((other) => other.line))}\n`);
    }
  if (findings.some((finding) => finding.weight === 'error')) process.exitCode = 1;
}

/** `lines 4, 8, 15`: the first of them, where there are many. */
function lineList(lines: readonly number[]): string {
  const shown = [...new Set(lines)].slice(0, MOST_LINES).join(', ');
  return `line${lines.length === 1 ? '' : 's'} ${shown}${lines.length > MOST_LINES ? ', … (all with --json)' : ''}`;
}

/**
 * Whether something may be written from a text: one with errors says less than its author means. The errors are printed
 * either way; where nothing is written the exit code is 1.
 */
export function mayGoOn(
  file: string,
  { text, findings }: Pick<Design, 'text' | 'findings'>,
  done: string,
  evenSo: boolean,
): boolean {
  const errors = findings.filter((finding) => finding.weight === 'error');
  if (errors.length === 0) return true;
  printFindings(file, text, errors, false, process.stderr);
  if (evenSo) process.exitCode = 0;
  else process.stderr.write(`Nothing was ${done}. Mend what is wrong, or add --even-so for all the rest.\n`);
  return evenSo;
}

/** Lines under a heading, to standard error; nothing where there are none. */
export function printList(heading: string, lines: readonly string[]): void {
  if (lines.length === 0) return;
  process.stderr.write(`${heading}\n${lines.map((line) => `  ${line}\n`).join('')}`);
}

/** What became of a script, to standard error. */
export function printScript(script: ScriptReport | null): void {
  if (script === null) return;
  process.stderr.write(`Of the script’s statements ${script.made} ran${script.failures === 0 ? '' : `, and ${script.failures} failed`}.
`);
  printList(
    'Failed:',
    script.failed.map(({ line, message }) => `line ${line}: ${message}`),
  );
  printList(
    'Not run, since they reach beyond the new database:',
    script.refused.map(({ line, sql }) => `line ${line}: ${sql}`),
  );
  printList(
    'Left out, since they say who may do what, or begin with no word that is known here:',
    script.leftOut.map(({ line, sql }) => `line ${line}: ${sql}`),
  );
}

/** What changed in a database, to standard error. */
export function printChanges(changes: readonly DatabaseChange[]): void {
  if (changes.length === 0) process.stderr.write('Nothing has changed in the database.\n');
  for (const { kind, where, was, now, why } of changes) {
    const [line = ''] = (now ?? was ?? '').split('\n');
    process.stderr.write(`${kind === 'left' ? `left as it is (${why ?? ''})` : kind}: ${where}: ${line.trim()}\n`);
  }
}

/** What was made: rows, those that could not be, and what some do not hold to. */
export function printMade(database: string, { rows, unsatisfied, unheld }: MadeDatabase): void {
  const total = Object.values(rows).reduce((sum, count) => sum + count, 0);
  process.stderr.write(`${database}: ${Object.keys(rows).length} tables with rows, ${total} rows\n`);
  for (const { owner, constraint, rows: count } of unsatisfied)
    process.stderr.write(`  ${owner}: ${count} rows not made, ${constraint}\n`);
  for (const message of unheld) process.stderr.write(`  ${message}\n`);
}

import { stat } from 'node:fs/promises';
import { extname } from 'node:path';
import { type Design, readDesign } from '../core/design/index.js';
import { type ColumnUse, type FileMapping, guessUses, readUse, writeUse } from '../core/row-files/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type FileHead, headOf, type RowFile, UnreadableFile } from '../engines/index.js';
import { type LinesOutcome, nowOf, putLinesIn } from '../services/index.js';
import { actorGiven } from './actor.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface ImportRowsFlags {
  readonly db: string;
  readonly map?: readonly string[];
  readonly form?: RowFile['form'];
  readonly delimiter?: string;
  readonly nothing: string;
  readonly there: FileMapping['there'];
  readonly match?: readonly string[];
  readonly goodOnes?: boolean;
  readonly refused?: string;
  readonly rehearse?: boolean;
  readonly json?: boolean;
  readonly as?: string;
  readonly timeout: number;
}

/** So many lines are looked at to guess what the columns are. */
const LOOKED_AT = 100;

/** Puts the lines of a file into a database as rows; where one is refused it ends with 1. @throws with words for a person */
export async function importRows(file: string, entity: string, lines: string, options: ImportRowsFlags): Promise<void> {
  const text = await readText(file);
  const known = await stat(lines).catch(() => null);
  if (known === null || !known.isFile()) throw new Error(`There is no file ${lines}.`);
  const { engine, close } = await openGiven(options.db, options.timeout * 1000, 'write');
  try {
    const design = readDesign(text, engine.dialect);
    if (!design.model.entities.has(entity))
      throw new Error(`${file} has no entity called ${entity}. It has ${Array.from(design.model.entities.keys()).join(', ')}.`);
    const head = await beginning(lines, options);
    const mapping = mappingOf(design, entity, head, options);
    for (const { name, use } of mapping.columns) process.stderr.write(`${name} → ${writeUse(use)}\n`);
    const now = nowOf(design.model, await engine.wasMadeHere());
    const outcome = await putLinesIn(design, engine, {
      mapping,
      file: { path: lines, form: head.form, columns: head.columns, delimiter: head.delimiter },
      sampleKeys: namedKeys(design.model, nowOf(design.model, true)),
      madeHere: false,
      now,
      rehearse: options.rehearse === true,
      ...(options.as === undefined ? {} : { as: actorGiven(design, options.as) }),
      goodOnes: options.goodOnes === true || options.refused !== undefined,
      ...(options.refused === undefined ? {} : { refusedTo: options.refused }),
      ...(process.stderr.isTTY
        ? { progress: ({ lines: done, read, bytes }) => process.stderr.write(`\r${counted(done)}, ${percent(read, bytes)}`) }
        : {}),
    });
    if (process.stderr.isTTY) process.stderr.write('\r');
    if (options.json === true) process.stdout.write(`${JSON.stringify(asJson(outcome, options), null, 2)}\n`);
    else print(outcome, options);
    if (!outcome.ok || outcome.report.refused > 0) process.exitCode = 1;
  } finally {
    await close();
  }
}

async function beginning(path: string, { form, delimiter }: ImportRowsFlags): Promise<FileHead> {
  const isLines = ['.jsonl', '.ndjson', '.json'].includes(extname(path).toLowerCase());
  try {
    const head = await headOf(path, form ?? (isLines ? 'json lines' : 'csv'), LOOKED_AT, delimiter);
    return head;
  } catch (error) {
    if (error instanceof UnreadableFile) throw new Error(`${path} cannot be read. ${error.message}`);
    throw error;
  }
}

/** What each column is: as the options say, else as its name and its values do. @throws with words for a person */
function mappingOf(
  { model }: Design,
  entity: string,
  head: FileHead,
  { map = [], nothing, there, match = [] }: ImportRowsFlags,
): FileMapping {
  const values = head.lines.map((line) => line.values);
  const guessed = guessUses(model, entity, head.columns, values);
  const said = new Map<string, ColumnUse>();
  for (const one of map) {
    const at = one.lastIndexOf('=');
    const column = one.slice(0, at);
    if (at < 0 || !head.columns.includes(column))
      throw new Error(`--map says “${one}”: write COLUMN=USE with a column of the file, which are ${head.columns.join(', ')}.`);
    const use = readUse(model, entity, one.slice(at + 1));
    if ('problem' in use) throw new Error(use.problem);
    said.set(column, use);
  }
  // What is said of one column is not guessed of another.
  const taken = new Set(Array.from(said.values(), writeUse));
  const leftOut: ColumnUse = { kind: 'left out' };
  const columns = head.columns.map((name, at) => {
    const guess = guessed[at] ?? leftOut;
    return { name, use: said.get(name) ?? (taken.has(writeUse(guess)) ? leftOut : guess) };
  });
  return { entity, columns, nothing, there, match };
}

function asJson(outcome: LinesOutcome, { rehearse }: ImportRowsFlags): unknown {
  if (!outcome.ok) return { done: false, problems: outcome.problems };
  const { lines, created, updated, skipped, refused, kept, ended } = outcome.report;
  return {
    done: kept,
    rehearsed: rehearse === true,
    lines,
    created,
    updated,
    skipped,
    refused,
    readToTheEnd: ended,
    refusals: outcome.refused,
  };
}

function print(outcome: LinesOutcome, { rehearse, refused: refusedTo }: ImportRowsFlags): void {
  if (!outcome.ok) {
    for (const problem of outcome.problems) process.stderr.write(`${problem}\n`);
    return;
  }
  const { report, refused } = outcome;
  for (const { line, column, message } of refused)
    process.stderr.write(`line ${line}${column === null ? '' : `, ${column}`}: ${message}\n`);
  const told = new Set(refused.map(({ line }) => line)).size;
  if (report.refused > told) process.stderr.write(`… and ${counted(report.refused - told)} more.\n`);
  const parts = [
    report.created > 0 ? `${report.created.toLocaleString('en')} put in` : null,
    report.updated > 0 ? `${report.updated.toLocaleString('en')} changed` : null,
    report.skipped > 0 ? `${report.skipped.toLocaleString('en')} there already` : null,
    report.refused > 0 ? `${report.refused.toLocaleString('en')} refused` : null,
  ].flatMap((part) => part ?? []);
  process.stdout.write(`${counted(report.lines)}: ${parts.length === 0 ? 'nothing to do' : parts.join(', ')}.\n`);
  if (rehearse === true) process.stdout.write('Rehearsed: nothing of it stays.\n');
  else if (!report.kept)
    process.stdout.write(
      `Nothing was written${report.ended ? '' : '; the file was not read to its end'}. With --good-ones the other lines go in.\n`,
    );
  else if (report.refused > 0 && refusedTo !== undefined)
    process.stdout.write(`The lines that were refused are in ${refusedTo}, each with the reason.\n`);
}

function counted(lines: number): string {
  return `${lines.toLocaleString('en')} line${lines === 1 ? '' : 's'}`;
}

function percent(read: number, bytes: number): string {
  return `${bytes === 0 ? 100 : Math.round((read / bytes) * 100)} %`;
}

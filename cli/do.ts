import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Wire } from '../core/values/index.js';
import type { CommandLogEntry, WentAlong, WrittenCell, WrittenRow } from '../core/write/index.js';
import { type DoOutcome, doCommands, nowOf } from '../services/index.js';
import { actorGiven } from './actor.js';
import { openGiven } from './place.js';
import { printFindings, readText } from './report.js';

export interface DoFlags {
  readonly db: string;
  readonly rehearse?: boolean;
  readonly json?: boolean;
  readonly log?: boolean;
  readonly as?: string;
  readonly timeout: number;
}

/** Carries out commands on a database: all of them, or none, and then it ends with 1. */
export async function doOnDatabase(file: string, given: string, options: DoFlags): Promise<void> {
  const text = await readText(file);
  const commands = given === '-' ? await readText('-') : given;
  const { engine, close } = await openGiven(options.db, options.timeout * 1000, 'write');
  try {
    const design = readDesign(text, engine.dialect);
    const now = nowOf(design.model, await engine.wasMadeHere());
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const rehearse = options.rehearse === true;
    const as = options.as === undefined ? {} : { as: actorGiven(design, options.as) };
    const request = { text: commands, sampleKeys, madeHere: false, now, rehearse, ...as };
    const outcome = await doCommands(design, engine, request);
    if (options.json === true) process.stdout.write(`${JSON.stringify(asJson(outcome, options), null, 2)}\n`);
    else print(outcome, commands, options);
    if (!outcome.ok) process.exitCode = 1;
  } finally {
    await close();
  }
}

function asJson(outcome: DoOutcome, { log, rehearse }: DoFlags): unknown {
  const findings = outcome.findings.map(({ weight, code, message }) => ({ weight, code, message }));
  if (!outcome.ok) return { done: false, problems: outcome.problems, findings };
  const { lines, along, log: statements } = outcome.carried;
  return {
    done: rehearse !== true,
    rehearsed: rehearse === true,
    lines,
    along,
    findings,
    ...(log === true ? { log: statements } : {}),
  };
}

function print(outcome: DoOutcome, commands: string, options: DoFlags): void {
  printFindings('commands', commands, outcome.findings, false, process.stderr);
  const log = outcome.ok ? outcome.carried.log : outcome.log;
  if (options.log === true) process.stderr.write(log.map(logEntry).join(''));
  if (!outcome.ok) {
    for (const problem of outcome.problems) process.stderr.write(`${problem}\n`);
    return;
  }
  for (const { rows } of outcome.carried.lines) for (const row of rows) process.stdout.write(rowText(row));
  if (outcome.carried.lines.every(({ rows }) => rows.length === 0)) process.stdout.write('No row was meant.\n');
  for (const one of outcome.carried.along) process.stdout.write(`${alongText(one)}\n`);
  if (options.rehearse === true) process.stdout.write('Rehearsed: nothing of it stays.\n');
}

function alongText({ of, role, rows }: WentAlong): string {
  const many = `${rows.toLocaleString('en')} row${rows === 1 ? '' : 's'} of ${of}`;
  return role === null ? `went along: ${many}` : `emptied: ${role} of ${many}`;
}

/** What became of a row, and what filled each of its values. */
function rowText({ change, entity, key, link, cells, before, after }: WrittenRow): string {
  const row = `${entity}(${String(key)})`;
  const head = link === null ? `${change} ${row}` : `${change} ${row}.${link.role}: ${link.entity}(${String(link.key)})`;
  const was = (cell: WrittenCell) =>
    change === 'updated' && before !== null && cell.name in before ? ` (was ${shown(before[cell.name] as Wire)})` : '';
  const values = cells.map((cell) => `  ${cell.name} ${shown(cell.value)}  ${cell.by}${was(cell)}\n`);
  return `${head}\n${change === 'found' || (after === null && before === null && link === null) ? '' : values.join('')}`;
}

function shown(value: Wire): string {
  return typeof value === 'string' ? `'${value}'` : JSON.stringify(value);
}

function logEntry(entry: CommandLogEntry, index: number): string {
  const head = `-- ${index + 1}, ${entry.kind === 'write' ? 'writes' : 'reads'}\n`;
  if (entry.kind === 'write')
    return `${head}${entry.plain};\n${entry.values.map(({ name, shown: value }) => `-- :${name} = ${value}\n`).join('')}-- ${entry.rows} rows\n\n`;
  return `${head}${entry.plain};\n-- ${entry.rows} rows\n\n`;
}

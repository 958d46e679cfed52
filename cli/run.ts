import { readDesign } from '../core/design/index.js';
import { type LogEntry, type PlanStep, TOTAL_PATH } from '../core/load/index.js';
import { parseParameters } from '../core/notation/index.js';
import { namedKeys } from '../core/samples/index.js';
import { relationsKept } from '../core/schema/index.js';
import { fileEngine } from '../engines/index.js';
import { checkReads, measureWays, nowOf, type RunOutcome, type RunRequest, runQuery, warnOfQuery } from '../services/index.js';
import { actorGiven } from './actor.js';
import { openGiven } from './place.js';
import { printReads, withReads } from './reads.js';
import { printFindings, readText } from './report.js';
import { printWays } from './ways.js';

interface RunOptions {
  readonly db: string;
  readonly param?: readonly string[];
  readonly declare?: string;
  readonly as?: string;
  readonly json?: boolean;
  readonly log?: boolean;
  readonly plans?: boolean;
  readonly total?: boolean;
  readonly ways?: boolean;
  readonly reads?: string;
  readonly timeout: number;
  readonly limit: number;
}

/** `family-tree run`: the answer to standard output, the log and everything that went wrong to standard error. */
export async function runOnDatabase(file: string, query: string, options: RunOptions): Promise<void> {
  const text = await readText(file);
  const parameters: Record<string, string> = {};
  for (const pair of options.param ?? []) {
    const at = pair.indexOf('=');
    if (at < 1) throw new Error(`--param ${pair}: write it as name=value.`);
    parameters[pair.slice(0, at)] = pair.slice(at + 1);
  }
  const declared = parseParameters(options.declare ?? '');
  if (declared === null)
    throw new Error(`--declare ${options.declare}: write it as behind a query’s name, as in “branch Branch, since date”.`);
  const wanted: RunRequest['query'] = /^\w+$/.test(query.trim())
    ? { kind: 'saved', name: query.trim() }
    : { kind: 'text', text: query, parameters: declared };
  const { engine, close } = await openGiven(options.db, options.timeout * 1000);
  const design = readDesign(text, engine.dialect);
  try {
    const looked = engine.dialect === fileEngine.dialect ? null : await engine.introspect();
    const kept =
      looked?.ok === true
        ? relationsKept(design.model, looked.value.schema, design.dialect.powers.keepsKeysForAll)
        : new Set<string>();
    const request = {
      kept,
      query: wanted,
      parameters,
      madeHere: false,
      now: nowOf(design.model, await engine.wasMadeHere()),
      sampleKeys: namedKeys(design.model, nowOf(design.model, true)),
      ...(options.as === undefined ? {} : { as: actorGiven(design, options.as) }),
    };
    if (options.reads !== undefined) {
      const query = withReads(design, wanted, options.reads);
      const outcome = await checkReads(design, engine, { ...request, query, rowLimit: options.limit });
      if (outcome.ok) printReads(outcome.checked, options.json === true);
      else printRefusal(query, outcome);
      return;
    }
    if (options.ways === true) {
      const outcome = await measureWays(design, engine, request, options.limit);
      if (outcome.ok) printWays(outcome.measured, options.json === true);
      else printRefusal(wanted, outcome);
      return;
    }
    const explained = options.plans === true ? ('measured' as const) : ('expected' as const);
    const asked = { ...request, rowLimit: options.limit, explained, total: options.total === true };
    const outcome = await runQuery(design, engine, asked);
    if (!outcome.ok) {
      printRefusal(wanted, outcome);
      return;
    }
    const { answer } = outcome;
    const rows: unknown = JSON.parse(answer.text);
    process.stdout.write(options.json === true ? `${answer.text}\n` : `${JSON.stringify(rows, null, 2)}\n`);
    if (options.log === true || options.plans === true)
      process.stderr.write(answer.log.map((entry, index) => logEntry(entry, index, options.plans === true)).join(''));
    if (answer.total !== null) process.stderr.write(`${answer.rows} of ${answer.total} rows.\n`);
    for (const { path, limit, size } of answer.cuts) {
      process.stderr.write(
        size === null
          ? `Cut at ${limit} rows${path === '' ? '' : `, loading ${path}`}: there are more. Raise --limit to see them.\n`
          : `Cut at ${limit} rows, since the answer would be longer than ${Math.round(size / 1024 / 1024)} MB. Ask for fewer rows or fields.\n`,
      );
    }
    for (const { weight, message, evidence } of await warnOfQuery(design, engine, asked, answer))
      process.stderr.write(`${weight}: ${message} ${evidence}\n`);
  } finally {
    await close();
  }
}

function printRefusal(wanted: RunRequest['query'], { findings, problems }: Extract<RunOutcome, { ok: false }>): void {
  if (wanted.kind === 'text') printFindings('query', wanted.text, findings, false, process.stderr);
  for (const problem of problems) process.stderr.write(`${problem}\n`);
  process.exitCode = 1;
}

function logEntry(entry: LogEntry, index: number, planned: boolean): string {
  const plan = planned ? entry.steps.map((step) => `--   ${'  '.repeat(step.depth)}${stepLine(step)}\n`).join('') : '';
  const parameters = entry.parameters.map(
    ({ name, shown, count }) => `:${name} = ${count === null ? shown : `${count} keys (${shown})`}`,
  );
  const facts = [
    ...(entry.times > 1 ? [`${entry.times} times`] : []),
    `${entry.rows} rows`,
    `${entry.milliseconds.toFixed(1)} ms`,
    entry.path === '' ? 'root' : entry.path === TOTAL_PATH ? 'all rows beside the page' : `load ${entry.path}`,
    ...(entry.byColumns ? ['by columns'] : []),
  ];
  return `-- ${index + 1}\n${entry.plain};\n${parameters.map((line) => `-- ${line}\n`).join('')}-- ${facts.join(', ')}\n${plan}\n`;
}

/** A step of a plan, with what was expected of it and what it found. */
function stepLine({ text, mark, expected, found }: PlanStep): string {
  const rows = [...(expected === null ? [] : [`expects ${expected}`]), ...(found === null ? [] : [`found ${found}`])];
  return `${mark === null ? '' : `[${mark}] `}${text}${rows.length === 0 ? '' : ` (${rows.join(', ')})`}`;
}

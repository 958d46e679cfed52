import { writeFile } from 'node:fs/promises';
import { hasLeaks, isWhole, verdictOf, waysTried } from '../core/audit/index.js';
import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type AuditState, auditWalls, type HeldByDatabase, type Hole, lacksScript, nowOf } from '../services/index.js';
import { type AuditSubject, auditReport, neverTried } from './audit-report.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface AuditFlags {
  readonly schema?: readonly string[];
  readonly readOnly?: boolean;
  readonly heldBy?: HeldByDatabase['how'];
  readonly role?: string;
  readonly json?: boolean;
  readonly report?: string;
  readonly timeout: number;
}

/** Tries to get round the walls of a text on the rows of a database; it ends with 1 where something got out, with 2 where not all could be tried. */
export async function auditOnDatabase(file: string, database: string, options: AuditFlags): Promise<void> {
  const text = await readText(file);
  const writes = options.readOnly !== true;
  const milliseconds = options.timeout * 1000;
  const { engine, close } = await openGiven(database, milliseconds);
  const writing = writes ? await openGiven(database, milliseconds, 'write') : null;
  try {
    const design = readDesign(text, engine.dialect);
    const broken = design.findings.find(({ weight }) => weight === 'error');
    if (broken !== undefined)
      throw new Error(`${file} has something wrong in it, so that no audit says anything: ${broken.message}`);
    const madeHere = await engine.wasMadeHere();
    const lookedAt = { design, engine, madeHere, sampleKeys: namedKeys(design.model, nowOf(design.model, true)) };
    const writeTo = writing === null ? null : { engine: writing.engine, schemas: options.schema ?? null };
    const heldBy = heldByIn(options);
    const lacks = heldBy === null ? null : await lacksScript(lookedAt, heldBy, {});
    if (lacks !== null) throw new Error(lacks);
    const step = process.stderr.isTTY ? told : () => {};
    const state = await auditWalls(lookedAt, writeTo, {
      now: nowOf(design.model, madeHere),
      step,
      ...(heldBy === null ? {} : { heldBy }),
    });
    if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
    const subject = { file, database, at: new Date().toISOString(), text, heldBy };
    if (options.report !== undefined) await writeFile(options.report, auditReport(state, subject));
    if (options.json === true) process.stdout.write(`${JSON.stringify(asJson(state, subject), null, 2)}\n`);
    else print(state, subject);
    if (hasLeaks(state)) process.exitCode = 1;
    else if (!isWhole(state)) process.exitCode = 2;
  } finally {
    await close();
    await writing?.close();
  }
}

/** What is to hold the walls; null for this program. @throws where a role is named, and nothing that it is kept by */
function heldByIn({ heldBy, role }: AuditFlags): HeldByDatabase | null {
  if (heldBy === undefined) {
    if (role !== undefined) throw new Error('--role says who sessions work as: say with --held-by what is to keep them.');
    return null;
  }
  if (heldBy === 'policies' && role === undefined)
    throw new Error('Policies keep nobody who owns the tables: name the role that the application works as with --role.');
  return { how: heldBy, role: role ?? null };
}

function told({ done, all, at }: AuditState): void {
  process.stderr.write(`\r\x1b[K${Math.floor((done / Math.max(1, all)) * 100)} %  ${at}`);
}

function asJson(state: AuditState, subject: AuditSubject): unknown {
  const { text, ...about } = subject;
  const { tried, leaked } = waysTried(state);
  const { actors, ways, leaks, tells, untried } = state;
  const seen = tells.map(({ message, span }) => ({ message, line: lineOf(text, { span }) }));
  const holes = state.holes.map(({ span, fix, ...hole }) => ({ ...hole, line: lineOf(text, { span }), fix: fix?.title ?? null }));
  return {
    ...about,
    verdict: verdictOf(state),
    tried,
    leaked,
    actors,
    ways,
    leaks,
    holes,
    tells: seen,
    untried,
    heldBy: subject.heldBy,
    neverTried: neverTried(subject),
  };
}

function lineOf(text: string, { span }: Pick<Hole, 'span'>): number {
  return text.slice(0, span.start).split('\n').length;
}

function print(state: AuditState, { text, heldBy }: AuditSubject): void {
  if (heldBy !== null) process.stdout.write(`held by the ${heldBy.how} of the database, in sessions of their own\n`);
  for (const { as, shown, kind } of state.actors) process.stdout.write(`as ${as}${shown === as ? '' : `, ${shown}`}: ${kind}\n`);
  for (const { way, as, entity, text: tried, told: said, statement } of state.leaks) {
    process.stdout.write(`\nleak: ${way}, to ${entity}, as ${as}\n  ${tried.replaceAll('\n', '\n  ')}\n  ${said}\n`);
    if (statement !== '') process.stdout.write(`  ${statement.replaceAll('\n', '\n  ')}\n`);
  }
  for (const hole of state.holes) {
    process.stdout.write(`\n${hole.weight}: line ${lineOf(text, hole)}: ${hole.message}\n`);
    if (hole.text !== null) process.stdout.write(`  ${hole.text.replaceAll('\n', '\n  ')}\n`);
    if (hole.fix !== null) process.stdout.write(`  ${hole.fix.title}.\n`);
  }
  process.stdout.write('\n');
  const ways = Object.entries(state.ways).sort(([one], [other]) => one.localeCompare(other));
  const width = Math.max(0, ...ways.map(([way]) => way.length));
  for (const [way, { held, leaked }] of ways)
    process.stdout.write(
      `${way.padEnd(width)}  ${String(held + leaked).padStart(6)}${leaked > 0 ? `  ${leaked} went round` : ''}\n`,
    );
  for (const { why, ways: many, example } of state.untried)
    process.stdout.write(`not tried${many > 0 ? `, ${many}` : ''}: ${example.replace(/\s*\n\s*/g, ' ')}: ${why}\n`);
  if (state.tells.length > 0) process.stdout.write('\nSeen of hidden rows, by design:\n');
  for (const tells of state.tells) process.stdout.write(`  line ${lineOf(text, tells)}: ${tells.message}\n`);
  process.stdout.write(
    `\nNever tried:\n${neverTried({ heldBy })
      .map((one) => `  ${one}\n`)
      .join('')}\n${verdictOf(state)}\n`,
  );
}

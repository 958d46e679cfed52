import { writeFile } from 'node:fs/promises';
import type { Design } from '../core/design/index.js';
import { readDesign } from '../core/design/index.js';
import type { Finding } from '../core/notation/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Unfit, Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { checkExpectations, checkRows, type ExpectationRun, isHeld, nowOf, type RowFinding } from '../services/index.js';
import { reportOf } from './expectation-report.js';
import { openGiven } from './place.js';
import { printFindings, readText } from './report.js';

interface CheckOptions {
  readonly json?: boolean;
  readonly db?: string;
  readonly report?: string;
  readonly timeout: number;
}

/** `family-tree check`: what is wrong or doubtful in a text, and in the rows of a database where one is named. */
export async function checkText(file: string, { json, db, report, timeout }: CheckOptions): Promise<void> {
  const text = await readText(file);
  if (db === undefined) {
    if (report !== undefined) throw new Error('--report tells how expectations came out, which needs --db with a database.');
    printFindings(file, text, readDesign(text).findings, json === true);
    return;
  }
  const { engine, close } = await openGiven(db, timeout * 1000);
  try {
    const design = readDesign(text, engine.dialect);
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const madeHere = await engine.wasMadeHere();
    const { findings, unanswered } = await checkRows(design, engine, { sampleKeys, madeHere });
    const runs = await expectationsOf(design, engine, db, { sampleKeys, madeHere, timeout });
    if (report !== undefined) await writeFile(report, reportOf(file, runs));
    const told = [
      ...design.findings,
      ...findings.map((finding) => ({ ...finding, message: `${finding.message}${examplesOf(finding)}`, fixes: [] })),
      ...unanswered.map(({ message, span }) => ({
        weight: 'error' as const,
        code: 'not-asked',
        message: `The rows could not be asked: ${message}`,
        span,
        fixes: [],
      })),
      ...runs.flatMap(notHeld),
    ];
    printFindings(file, text, told, json === true);
    const held = runs.filter(isHeld).length;
    if (runs.length > 0) process.stderr.write(`${held} of ${runs.length} expectation${runs.length === 1 ? '' : 's'} held.\n`);
  } finally {
    await close();
  }
}

/** Holds what the text expects against the database; one that is only looked at is opened once more, where commands are tried. */
async function expectationsOf(
  design: Design,
  engine: Engine,
  db: string,
  { sampleKeys, madeHere, timeout }: { sampleKeys: Readonly<Record<string, Wire>>; madeHere: boolean; timeout: number },
): Promise<readonly ExpectationRun[]> {
  // Where there is no database, that has been told of the rows.
  if (!(await engine.answers()).ok) return [];
  const of = { engine, sampleKeys, madeHere, now: nowOf(design.model, madeHere) };
  const writes = design.expectations.some(({ subject }) => subject.kind === 'command');
  if (!writes) return checkExpectations(design, { ...of, writable: engine });
  const opened = await openGiven(db, timeout * 1000, 'write');
  try {
    return await checkExpectations(design, { ...of, writable: opened.engine });
  } finally {
    await opened.close();
  }
}

/** What of an expectation does not hold, as findings at its lines. */
function notHeld({ label, span, lines, problem }: ExpectationRun): readonly Finding[] {
  const finding = (at: Finding['span'], message: string): Finding => ({
    weight: 'error',
    code: 'not-as-expected',
    message,
    span: at,
    fixes: [],
  });
  if (problem !== null) return [finding(span, `expect ${label}: ${problem}`)];
  return lines.flatMap((line) =>
    line.broken === null ? [] : [finding(line.span, `expect ${label}, ${line.text}: ${line.broken}`)],
  );
}

/** ` Such as Loan 12, Loan 40.`: rows by their key, else what stands in them. */
function examplesOf({ entity, examples, rows }: RowFinding): string {
  if (examples.length === 0) return '';
  const named = examples.map(({ key, values }) => {
    const told = values.map(({ column, value }) => `${column} ${toldValue(value)}`).join(', ');
    if (entity === null) return told;
    return told === '' ? `${entity}(${String(key)})` : `${entity}(${String(key)}) with ${told}`;
  });
  return ` ${rows > examples.length ? 'Such as' : rows === 1 ? 'It is' : 'They are'} ${named.join('; ')}.`;
}

/** A value as a line of a terminal shows it: what does not fit its type as it is stored. */
function toldValue(value: Wire): string {
  if (value === null || typeof value !== 'object') return String(value);
  if (!('asStored' in value)) return JSON.stringify(value);
  const stored = (value as Unfit).asStored;
  return typeof stored === 'object' ? `bytes ${stored.bytes}` : JSON.stringify(stored);
}

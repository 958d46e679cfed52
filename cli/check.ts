import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Unfit, Wire } from '../core/values/index.js';
import { checkRows, nowOf, type RowFinding } from '../services/index.js';
import { openGiven } from './place.js';
import { printFindings, readText } from './report.js';

interface CheckOptions {
  readonly json?: boolean;
  readonly db?: string;
  readonly timeout: number;
}

/** `family-tree check`: what is wrong or doubtful in a text, and in the rows of a database where one is named. */
export async function checkText(file: string, { json, db, timeout }: CheckOptions): Promise<void> {
  const text = await readText(file);
  if (db === undefined) {
    printFindings(file, text, readDesign(text).findings, json === true);
    return;
  }
  const { engine, close } = await openGiven(db, timeout * 1000);
  try {
    const design = readDesign(text, engine.dialect);
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const { findings, unanswered } = await checkRows(design, engine, { sampleKeys, madeHere: await engine.wasMadeHere() });
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
    ];
    printFindings(file, text, told, json === true);
  } finally {
    await close();
  }
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

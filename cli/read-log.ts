import { type FileHandle, open } from 'node:fs/promises';
import { createInterface } from 'node:readline';
import { readDesign } from '../core/design/index.js';
import { type LoggedShape, LogLines, LogReading, type LogReport } from '../core/log/index.js';
import { readText, unreadable } from './report.js';

/** `family-tree read-log`: what the statement log of an application says, held against a design. Nothing of it is run. */
export async function readLog(file: string, log: string, { json }: { readonly json?: boolean }): Promise<void> {
  const design = readDesign(await readText(file));
  const lines = new LogLines();
  const reading = new LogReading(design.dialect.doubleQuoted);
  const input = log === '-' ? process.stdin : (await opened(log)).createReadStream();
  for await (const line of createInterface({ input, crlfDelay: Number.POSITIVE_INFINITY })) {
    const statement = lines.next(line);
    if (statement !== null) reading.take(statement);
  }
  const last = lines.end();
  if (last !== null) reading.take(last);
  const report = reading.report(design);
  process.stdout.write(json === true ? `${JSON.stringify(report, null, 2)}\n` : written(report));
}

async function opened(log: string): Promise<FileHandle> {
  try {
    return await open(log);
  } catch (error) {
    throw unreadable(log, error);
  }
}

function written({ statements, shapes, onceForEachRow, costliest, withoutIndex }: LogReport): string {
  if (statements === 0)
    return 'There is no statement in it. What is read: plain SQL, a line each, and the logs of PostgreSQL and MariaDB.\n';
  const count = (number: number) => number.toLocaleString('en');
  const counted = (number: number, word: string) => `${count(number)} ${word}${number === 1 ? '' : 's'}`;
  const shape = (one: LoggedShape) => `    ${one.shape.length > 160 ? `${one.shape.slice(0, 160)}…` : one.shape}`;
  const cost = (one: LoggedShape) => (one.milliseconds === null ? '' : `, ${one.milliseconds.toFixed(1)} ms`);
  const part = (title: string, all: readonly LoggedShape[], line: (one: LoggedShape) => string) =>
    all.length === 0 ? [] : ['', title, ...all.flatMap((one) => [line(one), shape(one)])];
  return `${[
    `${counted(statements, 'statement')} of ${counted(shapes, 'shape')}.`,
    ...part('Asked once for each row:', onceForEachRow, (one) =>
      one.load === null
        ? ''
        : `  ${counted(one.count, 'time')}${cost(one)}: ${one.load.entity}.${one.load.role} (${one.load.relation}). In the query of ${one.load.entity}: ${one.load.line}`,
    ),
    ...part('What cost most:', costliest, (one) => `  ${counted(one.count, 'time')}${cost(one)}`),
    ...part('Without an index:', withoutIndex, (one) =>
      one.unindexed === null
        ? ''
        : `  ${counted(one.count, 'time')}${cost(one)}. In ${one.unindexed.entity}: ${one.unindexed.line}`,
    ),
  ].join('\n')}\n`;
}

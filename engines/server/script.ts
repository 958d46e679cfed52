import { readFileSync } from 'node:fs';
import type { ScriptStatement } from '../../core/sql/index.js';
import type { ScriptReport } from '../engine.js';
import type { Running } from './running.js';

/** How many statements that failed are told one by one. */
export const MOST_TOLD = 50;

/** Counts what became of a script's statements. */
export async function runStatements(
  path: string,
  split: (script: string) => Iterable<ScriptStatement>,
  run: (sql: string) => Promise<unknown>,
  messageOf: (error: unknown) => string | null,
  running: Running,
): Promise<ScriptReport> {
  const script = readFileSync(path, 'utf8').replace(/^\ufeff/, '');
  const failed: { line: number; message: string; sql: string }[] = [];
  const refused: { line: number; sql: string }[] = [];
  const leftOut: { line: number; sql: string }[] = [];
  let made = 0;
  let failures = 0;
  for (const { sql, line, sort } of split(script)) {
    if (sort === 'refused') refused.push({ line, sql: shortened(sql) });
    if (sort === 'left out') leftOut.push({ line, sql: shortened(sql) });
    if (sort !== 'makes') continue;
    running(shortened(sql));
    try {
      await run(sql);
      made += 1;
    } catch (error) {
      const message = messageOf(error);
      if (message === null) throw error;
      failures += 1;
      if (failed.length < MOST_TOLD) failed.push({ line, message, sql: shortened(sql) });
    }
  }
  return { made, failures, failed, refused, leftOut };
}

/** A statement on one line, as a report shows it. */
export function shortened(sql: string): string {
  const line = sql.replace(/\s+/g, ' ').trim();
  return line.length > 120 ? `${line.slice(0, 117)}…` : line;
}

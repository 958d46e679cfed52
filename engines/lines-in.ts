import { closeSync, openSync, writeSync } from 'node:fs';
import type { Dialect } from '../core/dialects/index.js';
import { type LineOutcome, LinesIn } from '../core/row-files/index.js';
import type { CommandWork } from '../core/write/index.js';
import type { LinesReport, LinesRequest, Problem, RefusedLine } from './engine.js';
import { linesOf, UnreadableFile } from './row-file.js';
import type { Telling } from './telling.js';

/** Somebody waits for the lines no longer. */
class Stopped extends Error {}

/** So many lines are put in at a time. */
const TOGETHER = 500;
/** So many of the lines that were refused are told one by one; after as many, nothing would stay, the others are not read. */
const MOST_TOLD = 200;
const TELL_EVERY = 200;

/**
 * Puts the lines of a file in, some at a time, within a transaction that whoever calls has begun, and ends.
 *
 * @param run does a part of the work within the transaction
 * @throws {UnreadableFile} where the file cannot be read as what it is said to be
 */
export async function linesIn(
  dialect: Dialect,
  request: LinesRequest,
  { progress, isStopped }: Telling,
  run: <Result>(work: CommandWork<Result>) => Result | Promise<Result>,
): Promise<LinesReport> {
  const { file, goodOnes, most, refusedTo } = request;
  const lines = new LinesIn(dialect, request);
  const counts = { created: 0, updated: 0, skipped: 0, refused: 0 };
  const firstRefused: RefusedLine[] = [];
  const first: { line: number; became: LineOutcome['kind'] }[] = [];
  const out = refusedTo === null ? null : openSync(refusedTo, 'w', 0o600);
  let all = 0;
  let told = 0;
  let ended = true;
  try {
    for await (const batch of linesOf(file, { together: TOGETHER, most })) {
      // Nothing else is heard while lines are put in one after the other.
      await new Promise((done) => setImmediate(done));
      if (isStopped()) throw new Stopped('Stopped.');
      const outcomes = await run(lines.take(batch.lines));
      const refused: RefusedLine[] = [];
      for (let at = 0; at < batch.lines.length; at++) {
        const line = batch.lines[at];
        const outcome = outcomes[at];
        if (line === undefined || outcome === undefined) throw new Error(`a line behind ${all} came to nothing`);
        counts[outcome.kind] += 1;
        if (first.length < MOST_TOLD) first.push({ line: line.number, became: outcome.kind });
        if (outcome.kind === 'refused') refused.push({ line: line.number, values: line.values, faults: outcome.faults });
      }
      all += batch.lines.length;
      firstRefused.push(...refused.slice(0, MOST_TOLD - firstRefused.length));
      if (out !== null && refused.length > 0) writeSync(out, refused.map((line) => `${JSON.stringify(line)}\n`).join(''));
      if (performance.now() - told > TELL_EVERY) {
        told = performance.now();
        progress({ kind: 'lines', lines: all, refused: counts.refused, read: batch.read, bytes: batch.bytes });
      }
      if (!goodOnes && request.inputs.keep && counts.refused >= MOST_TOLD) {
        ended = false;
        break;
      }
    }
    const stays = goodOnes || counts.refused === 0;
    const { undo, broken } = stays ? await run(lines.finish()) : { undo: null, broken: null };
    const kept = request.inputs.keep && stays && broken === null;
    return { lines: all, ...counts, firstRefused, first, kept, ended, broken, undo: kept ? undo : null };
  } finally {
    if (out !== null) closeSync(out);
  }
}

/** What is said of a file that cannot be read, or of lines that nobody waits for; null for another error. */
export function fileProblemOf(error: unknown): Problem | null {
  if (error instanceof Stopped) return { code: 'ended', message: error.message };
  return error instanceof UnreadableFile ? { code: 'refused', message: error.message } : null;
}

import { type Applied, JOURNAL_QUERY, JOURNAL_TABLE, leftOf, readJournal, type Settling } from '../core/changes/index.js';
import type { Schema } from '../core/schema/index.js';
import type { CallOptions, Engine, Outcome } from '../engines/index.js';

/** A plan that was left half done, as where a process was ended on an engine whose definitions commit by themselves. */
export type LeftHalfDone = Extract<Applied, { kind: 'left' }>;

/** The plan that was left half done in a database; null where none was. */
export async function leftHalfDone(engine: Engine, schema: Schema): Promise<Outcome<LeftHalfDone | null>> {
  if (!schema.tables.some(({ name }) => name.name === JOURNAL_TABLE)) return { ok: true, value: null };
  const rows = await engine.ask(JOURNAL_QUERY);
  if (!rows.ok) return rows;
  const journal = readJournal(rows.value);
  return { ok: true, value: journal === null ? null : leftOf(journal) };
}

/** What was left half done, in words. */
export function leftWords({ name, done, of, canFinish, canTakeBack }: LeftHalfDone): string {
  const ways = [...(canFinish ? ['finished'] : []), ...(canTakeBack ? ['taken back'] : [])].join(', or ');
  return `“${name}” was left half done here, at ${done} of ${of} steps. It can be ${ways}.`;
}

/** Finishes a plan that was left half done, or takes it back. */
export function settleHalfDone(engine: Engine, way: Settling, options: CallOptions = {}): Promise<Outcome<Applied>> {
  return engine.apply(way, options);
}

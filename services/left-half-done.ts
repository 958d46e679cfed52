import * as v from 'valibot';
import { type Applied, JOURNAL_QUERY, JOURNAL_TABLE, leftOf, readJournal, type Settling } from '../core/changes/index.js';
import type { Schema } from '../core/schema/index.js';
import type { CallOptions, Engine, Outcome } from '../engines/index.js';

/** A plan that was left half done, as where a process was ended on an engine whose definitions commit by themselves. */
export type LeftHalfDone = Extract<Applied, { kind: 'left' }> & {
  /** All that may be run where it is finished or taken back: the database's own words, which may be somebody else's. */
  readonly statements: readonly string[];
};

/** What of a noted plan is run, which is all that is read of it here. */
const Noted = v.pipe(
  v.string(),
  v.parseJson(),
  v.object({
    operations: v.array(v.object({ sql: v.string(), back: v.optional(v.array(v.string()), []), done: v.optional(v.string()) })),
    noted: v.object({ name: v.string() }),
  }),
);

/** The plan that was left half done in a database; null where none was. */
export async function leftHalfDone(engine: Engine, schema: Schema): Promise<Outcome<LeftHalfDone | null>> {
  if (!schema.tables.some(({ name }) => name.name === JOURNAL_TABLE)) return { ok: true, value: null };
  const rows = await engine.ask(JOURNAL_QUERY);
  if (!rows.ok) return rows;
  const [row] = rows.value;
  if (row === undefined) return { ok: true, value: null };
  const noted = v.safeParse(Noted, row[2]);
  const journal = noted.success ? readJournal(rows.value) : null;
  if (!noted.success || journal === null) {
    const message = `What ${JOURNAL_TABLE} says of a plan that is under way cannot be read. This program did not write it so: take its row out.`;
    return { ok: false, problem: { code: 'damaged', message } };
  }
  const statements = noted.output.operations.flatMap(({ sql, back, done }) => [
    sql,
    ...back,
    ...(done === undefined ? [] : [done]),
  ]);
  return { ok: true, value: { ...leftOf(journal), statements: Array.from(new Set(statements)) } };
}

/** What was left half done, in words. */
export function leftWords({ name, done, of, canFinish, canTakeBack }: Omit<LeftHalfDone, 'statements'>): string {
  const ways = [...(canFinish ? ['finished'] : []), ...(canTakeBack ? ['taken back'] : [])].join(', or ');
  return `“${name}” was left half done here, at ${done} of ${of} steps. It can be ${ways}.`;
}

/** Finishes a plan that was left half done, or takes it back. */
export function settleHalfDone(engine: Engine, way: Settling, options: CallOptions = {}): Promise<Outcome<Applied>> {
  return engine.apply(way, options);
}

import { lettingGo } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import { historyOf } from './plan-database.js';

/**
 * Lets go of what was kept aside when a plan was carried out: it is gone then, and does not come back when the plan is taken back.
 * Gives the names of the tables that it was kept in.
 */
export async function letGo(
  engine: Engine,
  number: number,
  schemas: readonly string[] | null = null,
): Promise<Outcome<readonly string[]>> {
  const read = await engine.introspect(schemas);
  if (!read.ok) return read;
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const entry = history.value.find((one) => one.number === number);
  if (entry === undefined)
    return { ok: false, problem: { code: 'missing', message: `The history of this database has no number ${number}.` } };
  const done = await engine.execute(lettingGo(dialects[engine.dialect], entry));
  return done.ok ? { ok: true, value: entry.asides.map(({ aside }) => aside.name) } : done;
}

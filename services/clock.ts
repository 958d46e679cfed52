import type { Model } from '../core/model/index.js';
import { type Engine, MADE_HERE } from '../engines/index.js';

/** What now is in a scratch database of a tree that states no clock, so that the same text always gives the same rows. */
const NOW_BY_DEFAULT = '2030-01-01T12:00:00.000000Z';

/**
 * What now is, as a timestamp in wire form: in a database that was made here the tree's clock, and anywhere else the real
 * time, whatever the tree says.
 */
export function nowOf(model: Model, madeHere: boolean): string {
  if (madeHere) return model.clock ?? NOW_BY_DEFAULT;
  return `${new Date().toISOString().slice(0, 23)}000Z`;
}

/** Whether a database was made by this program with its samples: a file of SQLite bears a mark of it. */
export async function wasMadeHere(engine: Engine): Promise<boolean> {
  if (engine.dialect !== 'sqlite') return false;
  const read = await engine.read('select application_id from pragma_application_id', {});
  return read.ok && Number(read.value[0]?.[0] ?? 0) === MADE_HERE;
}

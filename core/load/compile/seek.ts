import type { LoadPlan } from '../../plan/index.js';
import type { Compiling } from './compiling.js';
import { seekPairs } from './seek-pairs.js';
import { type AmongKeys, placeAmong, type Sought, seekStep, walked } from './seek-step.js';
import { type Aliases, overRole } from './select-builder.js';
import { repeatsRows } from './steps.js';

/**
 * A select of the rows of a load, for all owners at once: each table on the way is joined once, and the rows between are never
 * fetched. Where one row can be reached in several ways, the pairs of owner and row come first, each once.
 */
export function seek(compiling: Compiling, load: LoadPlan, keys: AmongKeys, aliases: Aliases): Sought {
  const { role, steps, rows } = load;
  const { way } = role;
  const last = steps.at(-1);
  if (last === undefined) throw new Error(`${role.name} leads nowhere`);
  if (way.kind !== 'path') return { ...seekStep(compiling, overRole(last), keys, aliases), place: null };
  const narrowsFirst = rows.id !== last.id;
  const roles = steps.map((step) => overRole(step).over.role);
  if (narrowsFirst || (!way.first && repeatsRows(compiling.model, roles))) return seekPairs(compiling, load, keys, aliases);
  const { row, stitch } = walked(compiling, role, steps, keys, aliases);
  if (!way.first) return { row, stitch, place: null };
  return { row, stitch, place: placeAmong(compiling, row, stitch) };
}

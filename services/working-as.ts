import { type ActorName, expressionsOfQuery, type Query } from '../core/model/index.js';
import { type Actor, askedOfActor, nobody, SYSTEM } from '../core/walls/index.js';
import type { Outcome } from '../engines/index.js';
import type { LookedAt } from './looked-at.js';
import { valuesOfRow } from './row-values.js';

/**
 * Whoever is at work, as the walls need to know them: the row is looked up outside of the walls, with all that they, and the query
 * that is run, ask of it.
 *
 * @param query what is going to be run; null where nothing but whole rows is
 */
export async function actorAt(
  lookedAt: Omit<LookedAt, 'actor'>,
  named: ActorName,
  query: Query | null,
  options: { readonly now?: string; readonly signal?: AbortSignal } = {},
): Promise<Outcome<Actor>> {
  const { model } = lookedAt.design;
  if (named.kind === 'system') return { ok: true, value: SYSTEM };
  if (named.kind === 'nobody') return { ok: true, value: nobody(model) };
  const { columns, actor } = askedOfActor(model, query === null ? [] : expressionsOfQuery(query));
  const { row } = named;
  const entity = row.type.kind === 'row' ? row.type.entity : (model.actor ?? '');
  const found = await valuesOfRow(lookedAt, entity, row, columns, options);
  if (!found.ok) return found;
  if (found.value === null)
    return { ok: false, problem: { code: 'refused', message: `There is no such ${entity}: nobody can work as that row.` } };
  return { ok: true, value: actor(found.value) };
}

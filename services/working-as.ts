import { type ActorName, type Expression, type Load, type Query, someExpression } from '../core/model/index.js';
import type { Wire } from '../core/values/index.js';
import { type Actor, nobody, SYSTEM, somebody } from '../core/walls/index.js';
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
  const walls = Array.from(model.walls.values());
  const asked = new Map<string, Expression>();
  for (const condition of [
    ...walls.flatMap(({ conditions }) => Array.from(conditions.values()).flatMap((lines) => lines.map(({ holds }) => holds))),
    ...(query === null ? [] : expressionsIn(query)),
  ])
    someExpression(condition, (part) => {
      if (part.kind === 'me') asked.set(part.name, part.value);
      return false;
    });
  const freeing = walls.flatMap(({ name, unless }) => unless.map((expression) => ({ wall: name, expression })));
  const values = Array.from(asked, ([name, expression]) => ({ name, expression }));
  const columns = [...values.map(({ expression }) => expression), ...freeing.map(({ expression }) => expression)];
  const { row } = named;
  const entity = row.type.kind === 'row' ? row.type.entity : (model.actor ?? '');
  const found = await valuesOfRow(lookedAt, entity, row, columns, options);
  if (!found.ok) return found;
  const cells = found.value;
  if (cells === null)
    return { ok: false, problem: { code: 'refused', message: `There is no such ${entity}: nobody can work as that row.` } };
  const me = new Map(values.map(({ name }, at): [string, Wire] => [name, cells[at] ?? null]));
  const free = new Set(freeing.flatMap(({ wall }, at) => (cells[values.length + at] === true ? [wall] : [])));
  return { ok: true, value: somebody(model, me, free) };
}

/** Every expression that a query asks for, its loads included. */
function expressionsIn({ where, show, groupBy, having, orderBy, limit, offset, loads }: Query): Expression[] {
  return [
    ...where,
    ...(show ?? []).map(({ expression }) => expression),
    ...(groupBy ?? []),
    ...orderBy.map(({ expression }) => expression),
    ...[having, limit, offset].filter((one) => one !== null),
    ...loads.flatMap(inLoad),
  ];
}

function inLoad({ where, orderBy, limit, loads }: Load): Expression[] {
  const own = [where, limit].filter((one) => one !== null);
  return [...own, ...orderBy.map(({ expression }) => expression), ...loads.flatMap(inLoad)];
}

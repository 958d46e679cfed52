import {
  type ActorName,
  type Expression,
  entityOf,
  type Load,
  type Query,
  queryOf,
  someExpression,
} from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import { type Actor, nobody, SYSTEM, somebody } from '../core/walls/index.js';
import type { Outcome } from '../engines/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

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
  const found = await valuesOf(lookedAt, named.row, columns, options);
  if (!found.ok) return found;
  const me = new Map(values.map(({ name }, at): [string, Wire] => [name, found.value[at] ?? null]));
  const free = new Set(freeing.flatMap(({ wall }, at) => (found.value[values.length + at] === true ? [wall] : [])));
  return { ok: true, value: somebody(model, me, free) };
}

/** What some expressions come to over the row of an actor. */
async function valuesOf(
  lookedAt: Omit<LookedAt, 'actor'>,
  row: Expression,
  columns: readonly Expression[],
  { now, signal }: { readonly now?: string; readonly signal?: AbortSignal },
): Promise<Outcome<readonly Wire[]>> {
  const { type, span } = row;
  if (type.kind !== 'row') throw new Error('an actor is a row');
  const own: Expression = { kind: 'role', hops: [], type, span };
  const isIt: Expression = { kind: 'binary', operator: '=', left: own, right: row, type: { kind: 'boolean' }, span };
  const show = [own, ...columns].map((expression, at) => ({ name: `value_${at}`, expression, span }));
  const plan = planQuery(lookedAt.design.model, queryOf(type.entity, { where: [isIt], show }));
  const ready = preparedFor(lookedAt, plan, now === undefined ? {} : { now });
  const refused = (message: string): Outcome<never> => ({ ok: false, problem: { code: 'refused', message } });
  if (!ready.ok) return refused(ready.problems.join(' '));
  const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
  const read = await lookedAt.engine.run('load', { prepared: ready.prepared, rowLimit: 2 }, call);
  if (!read.ok) return read;
  const [line] = JSON.parse(read.value.text) as readonly Readonly<Record<string, Wire>>[];
  if (line === undefined)
    return refused(`There is no such ${entityOf(lookedAt.design.model, type.entity).name}: nobody can work as that row.`);
  return { ok: true, value: columns.map((_, at) => line[`value_${at + 1}`] ?? null) };
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

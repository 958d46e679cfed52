import { type Audited, askedOf } from '../core/audit/index.js';
import { type ActorName, type Expression, expressionsOfQuery, someExpression } from '../core/model/index.js';
import type { Wire } from '../core/values/index.js';
import type { Outcome } from '../engines/index.js';
import type { LookedAt } from './looked-at.js';
import { valuesOfRow } from './row-values.js';

/** Somebody to be audited as, with the values that walls and saved queries ask of them, looked up outside of all walls. */
export async function auditedAt(
  lookedAt: Omit<LookedAt, 'actor'>,
  as: string,
  named: ActorName,
  options: { readonly now?: string; readonly signal?: AbortSignal },
): Promise<Outcome<Audited>> {
  const { model } = lookedAt.design;
  const walls = Array.from(model.walls.values());
  if (named.kind !== 'row') return { ok: true, value: { as, isNobody: true, walls, me: new Map() } };
  const { values, unless } = askedOf(model);
  const asked = new Map(values);
  for (const query of model.queries.values())
    for (const expression of expressionsOfQuery(query))
      someExpression(expression, (part) => {
        if (part.kind === 'me') asked.set(part.name, part.value);
        return false;
      });
  const { row } = named;
  const entity = row.type.kind === 'row' ? row.type.entity : (model.actor ?? '');
  const columns: Expression[] = [...asked.values(), ...unless.map(({ condition }) => condition)];
  const found = await valuesOfRow(lookedAt, entity, row, columns, options);
  if (!found.ok) return found;
  if (found.value === null)
    return { ok: false, problem: { code: 'refused', message: `There is no ${as} any more. Begin the audit anew.` } };
  const cells = found.value;
  const me = new Map(Array.from(asked.keys(), (name, at): [string, Wire] => [name, cells[at] ?? null]));
  const free = new Set(unless.flatMap(({ wall }, at) => (cells[asked.size + at] === true ? [wall] : [])));
  return { ok: true, value: { as, isNobody: false, walls: walls.filter(({ name }) => !free.has(name)), me } };
}

import { entityOf, type Model, type Role } from '../model/index.js';
import { allOf, columnsOf, equal, type Select, type SqlExpression } from '../sql/index.js';
import { siteOf } from './conditions.js';
import { type PlanOptions, planningOf } from './query-plan.js';
import { Aliases, anchorOf, pivotSource, SelectBuilder } from './select-builder.js';

/**
 * The plain join from an entity's rows to those behind its roles, as a person would write it: no row of the entity is lost.
 * It selects the keys of both.
 *
 * @param roles roles of one entity, none of them a path
 */
export function joinSelect(model: Model, roles: readonly Role[], options: PlanOptions): Select {
  const [first] = roles;
  if (first === undefined) throw new Error('a join needs a role');
  const aliases = new Aliases();
  const builder = new SelectBuilder(siteOf(planningOf(model, options)), aliases);
  const own = aliases.claim(entityOf(model, first.entity).table.value.name);
  builder.readFrom(first.entity, own);
  const keys = [builder.key(own), ...roles.map((role) => builder.key(joined(builder, own, role)))];
  const parts = keys.flatMap((key): readonly SqlExpression[] => (key.kind === 'tuple' ? key.items : [key]));
  return builder.build({
    columns: parts.map((expression) => ({ expression, as: null })),
    orderBy: [],
    limit: null,
    offset: null,
  });
}

/** Joins what stands behind a role, and gives its alias. */
function joined(builder: SelectBuilder, own: string, role: Role): string {
  const { way } = role;
  if (way.kind !== 'pivot') return builder.walk(own, [role]).alias;
  const pivot = builder.aliases.claim(way.table.name);
  const { source } = pivotSource(role, pivot, [], null);
  const near = equal(columnsOf(pivot, way.near), builder.keyAsHeld(role, own));
  builder.join('left', source, allOf([near, builder.pairCondition(role, pivot)]) ?? near);
  const alias = builder.aliases.claim(entityOf(builder.model, role.target).table.value.name, role.name);
  builder.joinEntity('left', role.target, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)), {
    anchor: anchorOf(builder.model, role),
  });
  return alias;
}

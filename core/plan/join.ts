import { entityOf, type Model, type Role } from '../model/index.js';
import type { Access } from './access.js';
import { stepsOver } from './expressions.js';
import { Planning } from './planning.js';

/** The rows of an entity beside those behind its roles: no row of the entity is lost. */
export interface JoinPlan {
  readonly root: Access;
  readonly joined: readonly Access[];
}

/**
 * The plan of a plain join from an entity's rows to those behind its roles.
 *
 * @param roles roles of one entity, none of them a path
 */
export function planJoin(model: Model, roles: readonly Role[]): JoinPlan {
  const [first] = roles;
  if (first === undefined) throw new Error('a join needs a role');
  const planning = new Planning(model);
  const root = planning.draft(entityOf(model, first.entity).name, { kind: 'all' });
  return { root, joined: roles.flatMap((role) => stepsOver(planning, root, [{ role, filter: null }])) };
}

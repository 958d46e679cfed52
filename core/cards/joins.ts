import type { Design } from '../design/index.js';
import { joinSelect } from '../load/index.js';
import { type PolymorphicRole, plural, type Relation, type Role, snakeCase } from '../model/index.js';
import { planJoin } from '../plan/index.js';
import type { RelationCard } from './card.js';

/** The join over a relation, from each of its ends, by the roles that sentences name. */
export function joinsOf(
  { model, dialect }: Design,
  relation: Relation,
  roles: readonly (Role | PolymorphicRole)[],
): RelationCard['joins'] {
  return directionsOf(relation, roles).flatMap(({ roles, named }) => {
    const [first] = roles;
    if (first === undefined) return [];
    const sql = dialect.printQuery(joinSelect(planJoin(model, roles), { model, dialect, madeHere: true }));
    return [{ from: first.entity, role: named ? first.name : null, sql }];
  });
}

interface Direction {
  readonly roles: readonly Role[];
  /** A sentence says it. */
  readonly named: boolean;
}

/** The ways in which a relation is walked, a role to several entities as one; that of the holder of the key first. */
function directionsOf(relation: Relation, roles: readonly (Role | PolymorphicRole)[]): Direction[] {
  const named = roles.map((role): Direction => ({ roles: 'branches' in role ? role.branches : [role], named: true }));
  const holds = (direction: Direction) => Number(direction.roles[0]?.way.kind === 'key');
  return [...named, ...unnamedBack(relation, roles)].sort((a, b) => holds(b) - holds(a));
}

/** The end that no sentence names, walked all the same. */
function unnamedBack(relation: Relation, [only, ...others]: readonly (Role | PolymorphicRole)[]): Direction[] {
  if (only === undefined || 'branches' in only || others.length > 0) return [];
  const { way } = only;
  const turned = { ...only, entity: only.target, owner: only.target, target: only.entity, knows: 'many' as const };
  if (relation.kind === 'key' && way.kind === 'key') {
    const { columns, mark } = way;
    const name = plural(snakeCase(relation.child));
    return [{ named: false, roles: [{ ...turned, name, way: { kind: 'child', holder: relation.child, columns, mark } }] }];
  }
  if (relation.kind === 'pivot' && way.kind === 'pivot' && !way.symmetric) {
    const { near, far, marked } = way;
    const back: Role['way'] = { ...way, near: far, far: near, marked: marked === 'near' ? 'far' : 'near' };
    return [{ named: false, roles: [{ ...turned, name: snakeCase(only.entity), way: back }] }];
  }
  return [];
}

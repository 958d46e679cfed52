import { entityOf, type KeyRelation, MOST_SAMPLE_ROWS, type Model, type PolymorphicRelation } from '../model/index.js';
import type { Wire } from '../values/index.js';
import type { Parent } from './entity-rows.js';
import { chanceFor } from './random.js';
import { concreteOf, type StatedSamples } from './stated-samples.js';

/** Where parents say how many children each has (`loans 0 to 12 each`): the parent of each child, in turn. */
export function assignedParents(
  model: Model,
  stated: ReadonlyMap<string, StatedSamples>,
  relations: readonly (KeyRelation | PolymorphicRelation)[],
  keys: ReadonlyMap<string, readonly Wire[]>,
  child: string,
): { assigned: Map<string, Parent[]>; least: number } {
  const assigned = new Map<string, Parent[]>();
  let least = 0;
  for (const relation of relations) {
    let left = MOST_SAMPLE_ROWS;
    const owners = parentsOf(relation).flatMap(({ entity, role, once }) =>
      concreteOf(model, entity).flatMap((kind): Parent[] => {
        const generator = role === null ? undefined : stated.get(kind)?.generators.get(role)?.generator;
        if (generator?.kind !== 'each') return [];
        return (keys.get(kind) ?? []).flatMap((key, index) => {
          const chance =
            kind === entity ? chanceFor(relation.name, 'each', index) : chanceFor(relation.name, kind, 'each', index);
          const many = Math.min(left, chance.between(generator.least, generator.most));
          left -= many;
          return new Array<Parent>(once ? Math.min(1, many) : many).fill({ entity: kind, key });
        });
      }),
    );
    const says = parentsOf(relation).some(({ entity, role }) =>
      concreteOf(model, entity).some(
        (kind) => role !== null && stated.get(kind)?.generators.get(role)?.generator.kind === 'each',
      ),
    );
    if (!says) continue;
    const wanted = stated.get(child)?.count ?? owners.length;
    assigned.set(relation.name, dealt(owners, wanted, entityOf(model, child).name));
    least = Math.max(least, owners.length);
  }
  return { assigned, least };
}

/** The ends of a relation whose rows have children, each with its role to them. */
function parentsOf(
  relation: KeyRelation | PolymorphicRelation,
): { readonly entity: string; readonly role: string | null; readonly once: boolean }[] {
  if (relation.kind === 'key')
    return [{ entity: relation.parent, role: relation.parentRole, once: relation.form === 'one-to-one' }];
  return relation.targets.map(({ entity, role, knows }) => ({ entity, role, once: knows !== 'many' }));
}

/** The owners, mixed by chance so that one owner's children do not follow each other, and as many as are wanted. */
function dealt<Owner>(owners: readonly Owner[], wanted: number, child: string): Owner[] {
  const mixed = [...owners];
  for (let index = mixed.length - 1; index > 0; index--) {
    const other = chanceFor(child, 'deal', index).between(0, index);
    const [one, two] = [mixed[index], mixed[other]];
    if (one === undefined || two === undefined) continue;
    mixed[index] = two;
    mixed[other] = one;
  }
  return mixed.slice(0, wanted);
}

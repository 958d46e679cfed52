import { type KeyRelation, lineage, type Model, type PolymorphicRelation } from '../model/index.js';
import { concreteOf } from './stated-samples.js';

/** Relations whose keys stand in rows of some entities: in the order of the text. */
export type HeldRelations = (entities: ReadonlySet<string>) => (KeyRelation | PolymorphicRelation)[];

export function heldRelations(model: Model): HeldRelations {
  const byChild = new Map<string, { place: number; relation: KeyRelation | PolymorphicRelation }[]>();
  let place = 0;
  for (const relation of model.relations.values()) {
    place += 1;
    if (relation.kind !== 'key' && relation.kind !== 'polymorphic') continue;
    const known = byChild.get(relation.child);
    if (known === undefined) byChild.set(relation.child, [{ place, relation }]);
    else known.push({ place, relation });
  }
  return (entities) =>
    Array.from(entities)
      .flatMap((entity) => byChild.get(entity) ?? [])
      .sort((a, b) => a.place - b.place)
      .map(({ relation }) => relation);
}

/** Parents before children; where keys form a loop, the entity that comes first in the text. */
export function makingOrder(model: Model, held: HeldRelations): string[] {
  const order: string[] = [];
  const state = new Map<string, 'open' | 'done'>();
  /** What has to be made before an entity: required parents first, so that a loop is cut at a role that may stay empty. */
  const before = (name: string): string[] => {
    const relations = held(new Set(lineage(model, name).map((one) => one.name)));
    const parentsOf = (relation: KeyRelation | PolymorphicRelation) =>
      relation.kind === 'key' ? [relation.parent] : relation.targets.map(({ entity }) => entity);
    return [...relations.filter((r) => r.required), ...relations.filter((r) => !r.required)]
      .flatMap(parentsOf)
      .flatMap((parent) => concreteOf(model, parent));
  };
  // By hand, since a chain of entities can be longer than calls can be deep.
  const visit = (first: string) => {
    if (state.has(first)) return;
    state.set(first, 'open');
    const path = [{ name: first, left: before(first) }];
    for (let at = path.at(-1); at !== undefined; at = path.at(-1)) {
      const next = at.left.shift();
      if (next === undefined) {
        state.set(at.name, 'done');
        order.push(at.name);
        path.pop();
      } else if (!state.has(next)) {
        state.set(next, 'open');
        path.push({ name: next, left: before(next) });
      }
    }
  };
  for (const name of model.entities.keys()) for (const kind of concreteOf(model, name)) visit(kind);
  return order;
}

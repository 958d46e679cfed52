import type { KeyRelation, Model } from './model.js';

/**
 * Relations in which entities each need a row of the next before they can have one: no first row can be put in, unless one
 * of the keys is looked at when the transaction ends only. Those that say so do not count.
 */
export function requiredLoops(model: Pick<Model, 'entities' | 'relations'>): KeyRelation[][] {
  const needs = new Map<string, KeyRelation[]>();
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key' && relation.required && !relation.deferred)
      needs.set(relation.child, [...(needs.get(relation.child) ?? []), relation]);
  }
  const done = new Set<string>();
  const loops: KeyRelation[][] = [];
  const walk = (entity: string, way: readonly KeyRelation[]): void => {
    const start = way.findIndex((relation) => relation.child === entity);
    if (start >= 0) {
      loops.push(way.slice(start));
      return;
    }
    if (done.has(entity)) return;
    for (const relation of needs.get(entity) ?? []) walk(relation.parent, [...way, relation]);
    done.add(entity);
  };
  for (const entity of model.entities.keys()) walk(entity, []);
  return loops;
}

import type { Model, Relation } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

type KeyRelation = Extract<Relation, { kind: 'key' }>;

/**
 * Entities that each need a row of the next before they can have one: no first row can be put in, unless one of the keys
 * is looked at when the transaction ends only. A database that others made may be so; its owner is told.
 */
export const requiredLoop: DesignCheck = {
  code: 'required-loop',
  find(model) {
    const needs = requiredKeys(model);
    const done = new Set<string>();
    const findings: ReturnType<DesignCheck['find']> = [];
    const walk = (entity: string, way: readonly KeyRelation[]): void => {
      const start = way.findIndex((relation) => relation.child === entity);
      if (start >= 0) {
        const loop = way.slice(start);
        const last = loop.at(-1);
        if (last === undefined) return;
        findings.push({
          weight: model.physical.asStated ? 'warning' : 'error',
          code: requiredLoop.code,
          message: `No first row can be put in: ${loop.map((relation) => `${relation.child} needs a ${relation.parent}`).join(', ')}. Make one of them “knows at most one”, or write “deferred” below its relation, so that it is looked at when the transaction ends.`,
          span: last.head,
          fixes: [],
        });
        return;
      }
      if (done.has(entity)) return;
      for (const relation of needs.get(entity) ?? []) walk(relation.parent, [...way, relation]);
      done.add(entity);
    };
    for (const entity of model.entities.keys()) walk(entity, []);
    return findings;
  },
};

function requiredKeys(model: Model): Map<string, KeyRelation[]> {
  const needs = new Map<string, KeyRelation[]>();
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key' && relation.required && !relation.deferred)
      needs.set(relation.child, [...(needs.get(relation.child) ?? []), relation]);
  }
  return needs;
}

import type { Model, Relation } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

interface Cascade {
  readonly from: string;
  readonly to: string;
  readonly relation: Relation;
}

/** Deletes that carry each other on in a circle: one delete can empty every table of it. */
export const cascadeLoop: DesignCheck = {
  code: 'cascade-loop',
  find(model) {
    const below = new Map<string, Cascade[]>();
    for (const cascade of cascadesOf(model)) below.set(cascade.from, [...(below.get(cascade.from) ?? []), cascade]);
    const findings: ReturnType<DesignCheck['find']> = [];
    const done = new Set<string>();
    const walk = (entity: string, way: readonly Cascade[]): void => {
      const start = way.findIndex(({ from }) => from === entity);
      if (start >= 0) {
        const loop = way.slice(start);
        const last = loop.at(-1);
        // One within one table follows a line of descent, as is meant there.
        if (last === undefined || loop.length < 2) return;
        findings.push({
          weight: 'warning',
          code: cascadeLoop.code,
          message: `Deletes go round: ${loop.map(({ from, to }) => `${withArticle(from)} takes its ${to} rows along`).join(', ')}. One delete can empty all of these tables. Let one of them refuse, as with “on delete restrict”.`,
          span: last.relation.onDelete.origin.kind === 'stated' ? last.relation.onDelete.origin.span : last.relation.head,
          fixes:
            last.relation.onDelete.origin.kind === 'stated'
              ? [
                  {
                    title: `Let ${last.relation.name} refuse`,
                    edits: [{ span: last.relation.onDelete.origin.span, text: 'on delete restrict' }],
                  },
                ]
              : [],
        });
        return;
      }
      if (done.has(entity)) return;
      for (const cascade of below.get(entity) ?? []) walk(cascade.to, [...way, cascade]);
      done.add(entity);
    };
    for (const entity of model.entities.keys()) walk(entity, []);
    return findings;
  },
};

function cascadesOf(model: Model): Cascade[] {
  return Array.from(model.relations.values()).flatMap((relation): Cascade[] => {
    if (relation.onDelete.value !== 'cascade') return [];
    if (relation.kind === 'key') return [{ from: relation.parent, to: relation.child, relation }];
    if (relation.kind !== 'polymorphic') return [];
    return relation.targets.map(({ entity }) => ({ from: entity, to: relation.child, relation }));
  });
}

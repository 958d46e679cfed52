import type { KeyRelation } from '../../model/index.js';
import { withArticle } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** An entity that has nothing but a key and two keys of others is a pair, and its pairs may stand twice. */
export const pairEntity: DesignCheck = {
  code: 'pair-entity',
  find: (model) => {
    const required = new Map<string, KeyRelation[]>();
    const pivots = new Set<string>();
    for (const relation of model.relations.values()) {
      if (relation.kind === 'pivot' && relation.entity !== null) pivots.add(relation.entity);
      if (relation.kind !== 'key' || !relation.required) continue;
      const known = required.get(relation.child);
      if (known === undefined) required.set(relation.child, [relation]);
      else known.push(relation);
    }
    return Array.from(model.entities.values()).flatMap((entity) => {
      if (entity.given || entity.kinds !== null || entity.polymorphic.length > 0) return [];
      const keys = required.get(entity.name) ?? [];
      if (keys.length !== 2) return [];
      const columns = keys.flatMap((relation) => relation.columns.map(({ value }) => value));
      const own = entity.fields.filter(({ key, column, mixin }) => !key && mixin === null && !columns.includes(column.value));
      const once = [...entity.uniques.map((unique) => unique.columns), entity.key.columns].some((group) =>
        columns.every((column) => group.includes(column)),
      );
      const pointedAt = entity.roles.some(({ way }) => way.kind !== 'key') || pivots.has(entity.name);
      const [first, second] = keys;
      if (own.length > 0 || once || pointedAt || first === undefined || second === undefined) return [];
      return [
        {
          weight: 'note' as const,
          code: pairEntity.code,
          message: `${entity.name} has nothing of its own but ${withArticle(first.parent)} and ${withArticle(second.parent)}, and nothing keeps that a pair stands once. State one many-to-many: “${first.parent} knows many ${second.parent} as …”, “${second.parent} knows many ${first.parent} as …”, stored in table ${entity.table.value.name}.`,
          span: entity.head,
          fixes: [],
        },
      ];
    });
  },
};

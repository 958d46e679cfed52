import { withArticle } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** An entity that has nothing but a key and two keys of others is a pair, and its pairs may stand twice. */
export const pairEntity: DesignCheck = {
  code: 'pair-entity',
  find: (model) =>
    Array.from(model.entities.values()).flatMap((entity) => {
      if (entity.given || entity.kinds !== null || entity.polymorphic.length > 0) return [];
      const keys = Array.from(model.relations.values()).filter(
        (relation) => relation.kind === 'key' && relation.child === entity.name && relation.required,
      );
      const columns = keys.flatMap((relation) => (relation.kind === 'key' ? relation.columns.map(({ value }) => value) : []));
      const own = entity.fields.filter(({ key, column, mixin }) => !key && mixin === null && !columns.includes(column.value));
      const once = [...entity.uniques.map((unique) => unique.columns), entity.key.columns].some((group) =>
        columns.every((column) => group.includes(column)),
      );
      const walked = Array.from(model.relations.values()).some(
        (relation) => relation.kind === 'pivot' && relation.entity === entity.name,
      );
      const pointedAt = entity.roles.some(({ way }) => way.kind !== 'key') || walked;
      const [first, second] = keys;
      if (keys.length !== 2 || own.length > 0 || once || pointedAt || first?.kind !== 'key' || second?.kind !== 'key') return [];
      return [
        {
          weight: 'note' as const,
          code: pairEntity.code,
          message: `${entity.name} has nothing of its own but ${withArticle(first.parent)} and ${withArticle(second.parent)}, and nothing keeps that a pair stands once. State one many-to-many: “${first.parent} knows many ${second.parent} as …”, “${second.parent} knows many ${first.parent} as …”, stored in table ${entity.table.value.name}.`,
          span: entity.head,
          fixes: [],
        },
      ];
    }),
};

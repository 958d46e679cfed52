import { isMarked } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

/** A one that only some of the targets promise: a unique over type and id would hold it for all of them. */
export const oneOfSeveral: DesignCheck = {
  code: 'one-of-several',
  find: (model) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'polymorphic' || !isMarked(relation)) return [];
      const once = relation.targets.filter(({ knows }) => knows !== 'many');
      if (once.length === 0 || once.length === relation.targets.length) return [];
      return [
        {
          weight: 'warning' as const,
          code: oneOfSeveral.code,
          message: `relation ${relation.name}: ${once.map(({ entity }) => entity).join(', ')} knows at most one ${relation.child}, the others many, and no unique over type and id holds that for some alone. Store one key column for each, as in “stored in one of …”.`,
          span: relation.head,
          fixes: [],
        },
      ];
    }),
};

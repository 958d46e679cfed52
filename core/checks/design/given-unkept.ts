import { holdingsOf, isPivot } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

/** A relation whose keys stand in somebody else's table: nothing is ever put there, so nothing keeps it. */
export const givenUnkept: DesignCheck = {
  code: 'given-unkept',
  find: (model) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      const { holder: entity, pairs } = holdingsOf(relation);
      const given = isPivot(relation) ? relation.given : (model.entities.get(entity ?? '')?.given ?? false);
      const holder = given && (pairs?.name ?? entity);
      if (holder === false) return [];
      return [
        {
          weight: 'note' as const,
          code: givenUnkept.code,
          message: `relation ${relation.name}: its keys stand in ${holder}, which is given, so no foreign key is made and no rule on delete holds. The owner of the table has to keep them.`,
          span: relation.head,
          fixes: [],
        },
      ];
    }),
};

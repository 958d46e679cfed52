import { withArticle } from '../../notation/index.js';
import { foreignTarget } from '../../schema/index.js';
import type { DesignCheck } from '../check.js';

/**
 * What MariaDB refuses when it happens: a trigger that changes the table whose statement fired it (its error 1442). Rules
 * that triggers carry out must not come back to the table where they began.
 */
export const triggeredCascade: DesignCheck = {
  code: 'triggered-cascade',
  find(model, dialect) {
    if (dialect.cascadesFireTriggers) return [];
    return Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'polymorphic' || relation.storage.kind === 'one of' || !relation.storage.triggers) return [];
      const changes = [relation.onDelete.value, relation.onUpdate.value].some(
        (rule) => rule === 'cascade' || rule === 'set null',
      );
      const own = foreignTarget(model, relation.child);
      const held = own.kind === 'table' ? own.table.name : null;
      const back = relation.targets.find(({ entity }) => {
        const target = foreignTarget(model, entity);
        return target.kind === 'table' && target.table.name === held;
      });
      if (!changes || back === undefined) return [];
      return [
        {
          weight: relation.onDelete.origin.kind === 'stated' ? ('error' as const) : ('note' as const),
          code: triggeredCascade.code,
          message: `relation ${relation.name}: ${withArticle(relation.child)} may point at ${withArticle(back.entity)} of the same table, and ${dialect.title} lets no trigger change the table that fired it${relation.onDelete.origin.kind === 'stated' ? '' : ', so that such a delete is refused there'}. Write “on delete restrict”, or store one key column for each, as in “stored in one of …”.`,
          span: relation.onDelete.origin.kind === 'stated' ? relation.onDelete.origin.span : relation.head,
          fixes:
            relation.onDelete.origin.kind === 'stated'
              ? [{ title: 'Let it refuse', edits: [{ span: relation.onDelete.origin.span, text: 'on delete restrict' }] }]
              : [],
        },
      ];
    });
  },
};

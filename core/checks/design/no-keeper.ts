import { holdingsOf, isPolymorphic } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

/** Type and id without triggers: nothing keeps that what is pointed at is there. */
export const noKeeper: DesignCheck = {
  code: 'no-keeper',
  find: (model, _dialect, syntax) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      if (!isPolymorphic(relation) || holdingsOf(relation).keys.every(({ kept }) => kept)) return [];
      const declaration = syntax.declarations.find((one) => one.kind === 'relation' && one.name.text === relation.name);
      const stored = declaration?.kind === 'relation' ? declaration.lines.find((line) => line.kind === 'stored') : undefined;
      const targets = relation.targets.map(({ entity }) => entity).join(', ');
      return [
        {
          weight: 'warning' as const,
          code: noKeeper.code,
          message: `relation ${relation.name}: no foreign key can lead to ${targets} at once, and its triggers are left out. So a row may point at what is gone, and a key used again adopts it. Take “without triggers” away, or store one key column for each, as in “stored in one of …”.`,
          span: stored?.span ?? relation.head,
          fixes: [],
        },
      ];
    }),
};

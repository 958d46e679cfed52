import { entityOf, lineage, type Model } from '../../model/index.js';
import { lostRules } from '../../schema/index.js';
import type { DesignCheck } from '../check.js';

/** Rules that the way in which kinds are stored cannot hold. */
export const lostRulesOfKinds: DesignCheck = {
  code: 'lost-rules',
  find: (model) =>
    Array.from(model.entities.values()).flatMap((entity) => {
      const { kinds } = entity;
      if (kinds === null || kinds.base !== null) return [];
      const lost = lostRules(model, entity.name);
      if (lost.length === 0) return [];
      return [
        {
          weight: 'note' as const,
          code: lostRulesOfKinds.code,
          message: `${entity.name}: in ${wordFor(model, entity.name)} the database no longer holds ${lost.length === 1 ? 'a rule' : `${lost.length} rules`}: ${lost.join('; ')}. The card of ${entity.name} compares the other ways.`,
          span: entity.head,
          fixes: [],
        },
      ];
    }),
};

function wordFor(model: Model, name: string): string {
  const { kinds } = entityOf(model, lineage(model, name)[0]?.name ?? name);
  return kinds?.storage.kind === 'json'
    ? 'a column of JSON'
    : kinds?.storage.kind === 'single table'
      ? 'a single table'
      : (kinds?.storage.kind ?? '');
}

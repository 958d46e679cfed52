import type { PivotRelation, Relation } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

/** Two relations between the same entities that nothing tells apart. */
export const sameRelation: DesignCheck = {
  code: 'same-relation',
  find: (model) => {
    const known = new Map<string, PivotRelation>();
    return Array.from(model.relations.values()).flatMap((relation) => {
      const said = saying(relation);
      if (said === null) return [];
      const other = known.get(said.key);
      if (other === undefined) {
        known.set(said.key, said.relation);
        return [];
      }
      const [one, two] = said.relation.ends.map(({ entity }) => entity);
      return [
        {
          weight: 'note' as const,
          code: sameRelation.code,
          message: `relation ${said.relation.name} and relation ${other.name} say the same: ${one} knows many ${two}, with nothing that tells the pairs apart. Keep one, or write a note on each that says what it means.`,
          span: said.relation.head,
          fixes: [],
        },
      ];
    });
  },
};

function saying(relation: Relation): { key: string; relation: PivotRelation } | null {
  if (relation.kind !== 'pivot' || relation.note !== null || relation.fields.length > 0 || relation.entity !== null) return null;
  const [one, other] = relation.ends.map(({ entity }) => entity);
  // Of an entity with itself the two roles say which is which.
  if (one === other) return null;
  return { key: [one, other].sort().join('\n'), relation };
}

import { holdingsOf } from '../../model/index.js';
import { anyHolds, lookAtEntity, lookAtTable } from '../../plan/index.js';
import type { RowCheck } from '../row-check.js';
import { evidenceOf, many, pairsWhere, rowsWhere } from './questions.js';

/** Rows whose mark no kind has, which are then read as the base; and such as point at an entity that no sentence names. */
export const unknownMark: RowCheck = {
  code: 'unknown-mark',
  ask: (model) => [
    ...Array.from(model.entities.values()).flatMap((entity) => {
      const storage = entity.kinds?.storage;
      if (entity.kinds?.base !== null || storage === undefined || storage.kind === 'separate tables') return [];
      const look = lookAtTable(model, entity.table.value);
      const known = entity.kinds.concrete.map(({ mark }) => mark);
      return [
        rowsWhere(
          model,
          {
            code: unknownMark.code,
            weight: 'warning',
            span: entity.head,
            told: (count) =>
              `${entity.name}: ${many(count, 'row')} ${count === 1 ? 'has' : 'have'} a mark that no kind has, and ${count === 1 ? 'is' : 'are'} read as ${entity.name} alone. Known ${known.length === 1 ? 'is' : 'are'} ${listed(known)}.`,
          },
          {
            entity: entity.name,
            look,
            where: anyHolds([
              look.isEmpty(storage.mark),
              look.asks({ kind: 'marked', column: storage.mark, marks: known, negated: true }),
            ]),
            telling: [{ column: storage.mark, type: { kind: 'text', length: null } }],
          },
        ),
      ];
    }),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      const { holder, pairs, keys } = holdingsOf(relation);
      const [first] = keys.filter(({ mark }) => mark !== null);
      const type = first?.mark?.column;
      if (first === undefined || type === undefined) return [];
      const look = pairs === null ? lookAtEntity(model, holder ?? '') : lookAtTable(model, pairs);
      const known = keys.flatMap(({ mark }) => mark?.marks ?? []);
      const found = {
        look,
        where: look.asks({ kind: 'marked', column: type, marks: known, negated: true }),
        telling: evidenceOf(model, [first]),
      };
      const about = {
        code: unknownMark.code,
        weight: 'warning' as const,
        span: relation.head,
        told: (count: number) =>
          `${holder ?? relation.name}.${type}: ${many(count, holder === null ? 'pair' : 'row')} say${count === 1 ? 's' : ''} something that relation ${relation.name} does not know, and lead${count === 1 ? 's' : ''} nowhere. Known ${known.length === 1 ? 'is' : 'are'} ${listed(known)}.`,
      };
      return [holder === null ? pairsWhere(about, found) : rowsWhere(model, about, { ...found, entity: holder })];
    }),
  ],
};

function listed(marks: readonly string[]): string {
  return marks.map((mark) => `'${mark}'`).join(', ');
}

import type { Entity } from '../../model/index.js';
import { rowsIn, rowsOf } from '../../profile/index.js';
import { allOf, anyOf, column, type SqlExpression, string } from '../../sql/index.js';
import type { RowCheck } from '../row-check.js';
import { many, pairsWhere, rowsWhere } from './questions.js';

/** Rows whose mark no kind has, which are then read as the base; and such as point at an entity that no sentence names. */
export const unknownMark: RowCheck = {
  code: 'unknown-mark',
  ask: (model) => [
    ...Array.from(model.entities.values()).flatMap((entity) => {
      const storage = entity.kinds?.storage;
      if (entity.kinds?.base !== null || storage === undefined || storage.kind === 'separate tables') return [];
      const rows = rowsIn(entity.table.value);
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
            rows,
            where: anyOf([isNull(rows.alias, storage.mark), notAmong(rows.alias, storage.mark, known)]),
            telling: [{ column: storage.mark, type: { kind: 'text', length: null } }],
          },
        ),
      ];
    }),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'polymorphic' && relation.kind !== 'polymorphic pivot') return [];
      const { storage } = relation;
      if (storage.kind === 'one of') return [];
      const holder = relation.kind === 'polymorphic' ? relation.child : relation.entity;
      const [type, id] = [storage.type.value, storage.id.value];
      const rows =
        relation.kind === 'polymorphic'
          ? rowsOf(model, relation.child, [type, id, ...keyColumns(model.entities.get(relation.child))])
          : rowsIn(relation.table.value);
      const known = relation.targets.flatMap(({ marks }) => marks.map(({ mark }) => mark));
      const found = {
        rows,
        where: allOf([notAmong(rows.alias, type, known)]),
        telling: [
          { column: type, type: { kind: 'text' as const, length: null } },
          { column: id, type: storage.idType },
        ],
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

function keyColumns(entity: Entity | undefined): readonly string[] {
  return entity?.key.columns ?? [];
}

function isNull(source: string, name: string): SqlExpression {
  return { kind: 'is null', operand: column(source, name), negated: false };
}

function notAmong(source: string, name: string, values: readonly string[]): SqlExpression {
  return { kind: 'in', operand: column(source, name), items: values.map(string), negated: true };
}

function listed(marks: readonly string[]): string {
  return marks.map((mark) => `'${mark}'`).join(', ');
}

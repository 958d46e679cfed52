import type { Entity, Model } from '../../model/index.js';
import { lookAtEntity } from '../../plan/index.js';
import type { RowCheck, RowQuestion } from '../row-check.js';
import { many } from './questions.js';
import { columnType, standingTwice } from './standing-twice.js';

/** Kinds in separate tables: no unique reaches over several tables, so what must differ is looked at in all of them. */
export const doubled: RowCheck = {
  code: 'doubled',
  ask: (model) =>
    Array.from(model.entities.values()).flatMap((entity) => {
      const { kinds } = entity;
      if (kinds === null || kinds.storage.kind !== 'separate tables' || kinds.concrete.length < 2) return [];
      const own = entity.fields.filter(({ owner, unique }) => owner === entity.name && unique !== null);
      const groups = [
        ...(kinds.base === null ? [entity.key.fields.map(({ column }) => column.value)] : []),
        ...own.map((field) => [field.column.value]),
        ...entity.uniques.map(({ columns }) => columns),
      ];
      return groups.map((columns) => question(model, entity, columns));
    }),
};

function question(model: Model, entity: Entity, columns: readonly string[]): RowQuestion {
  return standingTwice(
    {
      code: doubled.code,
      weight: 'error',
      span: entity.head,
      told: (count) =>
        `${entity.name}: ${many(count, 'value')} of ${columns.join(', ')} ${count === 1 ? 'stands' : 'stand'} more than once over the tables of its kinds.`,
    },
    lookAtEntity(model, entity.name),
    columns.map((name) => ({ column: name, type: columnType(model, entity, name) })),
  );
}

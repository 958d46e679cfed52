import { type Entity, entityOf, type Model } from '../../model/index.js';
import { EMPTY, type Rows, rowsOf, select } from '../../profile/index.js';
import { allOf, column, number, type Select } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { RowCheck, RowQuestion } from '../row-check.js';
import { many, pairsWhere } from './questions.js';

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
  const rows = rowsOf(model, entity.name, columns);
  const filled = allOf(columns.map((name) => ({ kind: 'is null', operand: column(rows.alias, name), negated: true })));
  const grouped: Select = {
    ...select(rows, [...columns.map((name) => ({ expression: column(rows.alias, name), as: name })), COUNT], { where: filled }),
    groupBy: columns.map((name) => column(rows.alias, name)),
  };
  const alias = 'together';
  const together: Rows = { from: { kind: 'select', select: { ...EMPTY, ...grouped } }, alias, where: null };
  return pairsWhere(
    {
      code: doubled.code,
      weight: 'error',
      span: entity.head,
      told: (count) =>
        `${entity.name}: ${many(count, 'value')} of ${columns.join(', ')} ${count === 1 ? 'stands' : 'stand'} more than once over the tables of its kinds.`,
    },
    {
      rows: together,
      where: { kind: 'binary', operator: '>', left: column(alias, COUNT.as), right: number(1) },
      telling: [...columns.map((name) => ({ column: name, type: typeOf(entityOf(model, entity.name), name) })), TIMES],
    },
  );
}

const COUNT = { expression: { kind: 'count rows' as const }, as: 'times' };
const TIMES = { column: COUNT.as, type: { kind: 'integer' as const } };

/** The type of a field's column; that of a key column of a role reads as text. */
function typeOf({ fields, key }: Entity, name: string): ValueType {
  const field = [...fields, ...key.fields].find(({ column }) => column.value === name);
  return field?.type ?? { kind: 'text', length: null };
}

import type { Entity, Field, Model } from '../../model/index.js';
import { type Rows, rowsIn, rowsOf } from '../../profile/index.js';
import { column, type SqlExpression } from '../../sql/index.js';
import type { RowQuestion } from '../row-check.js';
import { type About, anyRowWhere, pairsWhere, rowsWhere } from './questions.js';

/** A column of a field, and the rows that have it. */
export interface FieldColumn {
  readonly owner: string;
  readonly field: Field;
  readonly operand: SqlExpression;
}

/** One thing that is wrong with a field of some rows. */
export interface FieldFault {
  readonly about: About;
  readonly wrong: SqlExpression;
}

/**
 * Asks for a fault in each stored field that has a column of its own: of entities, and of pivots. All fields of one table are
 * looked at in one statement first.
 *
 * @param fault what is wrong with a field and how its rows are told; null where nothing can be
 */
export function askOfFields(model: Model, fault: (at: FieldColumn) => FieldFault | null): RowQuestion[] {
  return [
    ...Array.from(model.entities.values()).flatMap((entity) => {
      const fields = columnFields(entity);
      const rows = rowsOf(model, entity.name, [...fields.map((field) => field.column.value), ...entity.key.columns]);
      return questions(entity.name, fields, rows, fault, (about, where, field) =>
        rowsWhere(model, about, { entity: entity.name, rows, where, telling: [told(field)] }),
      );
    }),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      if ((relation.kind !== 'pivot' && relation.kind !== 'polymorphic pivot') || relation.entity !== null) return [];
      const rows = rowsIn(relation.table.value);
      return questions(relation.table.value.name, relation.fields, rows, fault, (about, where, field) =>
        pairsWhere(about, { rows, where, telling: [told(field)] }),
      );
    }),
  ];
}

function questions(
  owner: string,
  fields: readonly Field[],
  rows: Rows,
  fault: (at: FieldColumn) => FieldFault | null,
  ask: (about: About, where: SqlExpression, field: Field) => RowQuestion,
): RowQuestion[] {
  const faults = fields.flatMap((field) => {
    const found = fault({ owner, field, operand: column(rows.alias, field.column.value) });
    return found === null ? [] : [{ ...found, field }];
  });
  if (faults.length === 0) return [];
  const screen = anyRowWhere(
    rows,
    faults.map(({ wrong }) => wrong),
  );
  return faults.map(({ about, wrong, field }) => ask({ ...about, screen }, wrong, field));
}

/** The fields that an entity declares and that have columns in the table that its rows are read from. */
function columnFields(entity: Entity): Field[] {
  const { kinds } = entity;
  const own = entity.fields.filter(({ owner }) => owner === entity.name);
  return kinds?.storage.kind === 'json' && kinds.base !== null ? [] : own;
}

function told({ column: { value }, type }: Field) {
  return { column: value, type };
}

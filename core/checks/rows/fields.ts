import { type Entity, type Field, isPivot, type Model } from '../../model/index.js';
import { lookAtEntity, lookAtTable, type PlannedExpression, type StoredLook } from '../../plan/index.js';
import type { RowQuestion } from '../row-check.js';
import { type About, anyRowWhere, pairsWhere, rowsWhere } from './questions.js';

/** A field that has a column of its own. */
export interface FieldColumn {
  readonly owner: string;
  readonly field: Field;
  /** The rows that have it. */
  readonly look: StoredLook;
}

/** One thing that is wrong with a field of some rows. */
export interface FieldFault {
  readonly about: About;
  readonly wrong: PlannedExpression;
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
      const look = lookAtEntity(model, entity.name);
      return questions(entity.name, fields, look, fault, (about, where, field) =>
        rowsWhere(model, about, { entity: entity.name, look, where, telling: [told(field)] }),
      );
    }),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      if (!isPivot(relation) || relation.entity !== null) return [];
      const look = lookAtTable(model, relation.table.value);
      return questions(relation.table.value.name, relation.fields, look, fault, (about, where, field) =>
        pairsWhere(about, { look, where, telling: [told(field)] }),
      );
    }),
  ];
}

function questions(
  owner: string,
  fields: readonly Field[],
  look: StoredLook,
  fault: (at: FieldColumn) => FieldFault | null,
  ask: (about: About, where: PlannedExpression, field: Field) => RowQuestion,
): RowQuestion[] {
  const faults = fields.flatMap((field) => {
    const found = fault({ owner, field, look });
    return found === null ? [] : [{ ...found, field }];
  });
  if (faults.length === 0) return [];
  const screen = anyRowWhere(
    look,
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

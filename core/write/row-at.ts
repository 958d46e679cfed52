import { type AnswerRow, keyOfRow } from '../load/index.js';
import { entityOf, KIND_NAME, type Model } from '../model/index.js';
import { splitKey, type ValueType, type Wire } from '../values/index.js';

/** A row that is there: what it is, and its key. */
export interface RowAt {
  readonly entity: string;
  readonly key: Wire;
}

/** The key of a row of an answer. */
export function keyIn(model: Model, entity: string, row: AnswerRow): Wire {
  return keyOfRow(entityOf(model, entity), row);
}

/** What a row of an answer is: its kind, where that differs from row to row. */
export function kindIn(entity: string, row: AnswerRow): string {
  const kind = row[KIND_NAME];
  return typeof kind === 'string' ? kind : entity;
}

/** The parts of a row's key with the columns and the types of each. */
export function keyParts(
  model: Model,
  { entity, key }: RowAt,
): readonly { readonly column: string; readonly type: ValueType; readonly value: Wire }[] {
  const { key: declared } = entityOf(model, entity);
  const values = splitKey(declared.type, key);
  return declared.fields.map(({ type, column }, index) => ({ column: column.value, type, value: values[index] ?? null }));
}

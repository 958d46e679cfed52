import { type Entity, entityOf, type Model } from '../../model/index.js';
import type { StoredLook } from '../../plan/index.js';
import type { ValueType } from '../../values/index.js';
import type { Evidence, RowQuestion } from '../row-check.js';
import { type About, pairsWhere } from './questions.js';

const TIMES: Evidence = { column: 'times', type: { kind: 'integer' } };

/** Asks for values of some columns that stand in more than one row; such as have a null in them are all different. */
export function standingTwice(about: About, look: StoredLook, wanted: readonly Evidence[]): RowQuestion {
  const together = look.repeated(wanted.map(({ column }) => column));
  return pairsWhere(about, { look: together, where: null, telling: [...wanted, TIMES] });
}

/** The type of a column of an entity: that of its field, or of the key that it holds. */
export function columnType(model: Model, { fields, key, roles, polymorphic }: Entity, name: string): ValueType {
  const field = [...fields, ...key.fields].find(({ column: own }) => own.value === name);
  if (field !== undefined) return field.type;
  for (const { way, target } of [...roles, ...polymorphic.flatMap(({ branches }) => branches)]) {
    if (way.kind !== 'key' || !way.columns.includes(name)) continue;
    return way.mark?.held ?? entityOf(model, target).key.fields[way.columns.indexOf(name)]?.type ?? TEXT;
  }
  return TEXT;
}

const TEXT: ValueType = { kind: 'text', length: null };

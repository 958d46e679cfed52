import { type AnyPivotRelation, holdingsOf, type Model, type StoredKey, storedTypes } from '../../model/index.js';
import type { ValueType } from '../../values/index.js';
import type { Evidence } from '../row-check.js';

const TEXT: ValueType = { kind: 'text', length: null };

/** The keys of a pair: one for each way in which its two sides can stand in the table. */
export function pairKeys(model: Model, relation: AnyPivotRelation): Evidence[][] {
  const [near, ...far] = holdingsOf(relation).keys.map((key) => columnsOf(model, key));
  const ways = far.map((columns) => onceEach([...(near ?? []), ...columns]));
  const written = ways.map((way) => way.map(({ column }) => column).join('\n'));
  return ways.filter((_, index) => written.indexOf(written[index] ?? '') === index);
}

/** The columns of a key, before those that a mark tells of the mark. */
function columnsOf(model: Model, key: StoredKey): Evidence[] {
  const types = storedTypes(model, key);
  const columns = key.columns.map(({ value }, index): Evidence => ({ column: value, type: types[index] ?? TEXT }));
  return key.mark === null ? columns : [{ column: key.mark.column, type: TEXT }, ...columns];
}

/** Two keys may share a column. */
function onceEach(columns: readonly Evidence[]): Evidence[] {
  return columns.filter(({ column }, index) => columns.findIndex((other) => other.column === column) === index);
}

import { entityOf } from '../model/index.js';
import { joinKey } from '../values/index.js';
import type { Doing } from './doing.js';
import { type Filling, isNumbered } from './fill.js';
import { noteWritten, refuseUnseen } from './reach.js';
import type { CommandWork } from './steps.js';
import { insertRow } from './stored-row.js';
import type { WrittenRow } from './told.js';

/** Puts a filled row into its tables. */
export function* putRow(doing: Doing, filling: Filling): CommandWork<WrittenRow> {
  const { model } = doing;
  const { entity, cells, told } = filling;
  const { key } = entityOf(model, entity);
  const values = new Map(Array.from(cells, ([column, cell]) => [column, cell.value]));
  const parts = yield* insertRow(doing, entity, values, told);
  const own = joinKey(key.type, parts);
  noteWritten(doing, { entity, key: own });
  yield* refuseUnseen(doing, { entity, key: own }, Array.from(cells.values()), told, entityOf(model, entity).table.value.name);
  const numbered = key.fields.filter((field) => !cells.has(field.column.value) && isNumbered(entityOf(model, entity), field));
  const byEngine = numbered.map(({ name }) => ({ name, by: 'engine' as const, value: own }));
  return { change: 'created', entity, key: own, link: null, cells: [...told, ...byEngine], before: null, after: null };
}

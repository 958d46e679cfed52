import { entityOf, pivotOf, type Role } from '../../model/index.js';
import { type Access, pairsOf } from '../../plan/index.js';
import { column, type Select } from '../../sql/index.js';
import type { Compiling, SourceRow } from './compiling.js';

/** Where a pair may repeat, the same row comes several times: its pairs then stand in the order of their own key. */
export function pairOrder({ model }: Compiling, role: Role, { builder }: SourceRow, rows: Access): Select['orderBy'] {
  if (role.way.kind !== 'pivot' || role.way.symmetric) return [];
  const { repeats, withoutKey, entity } = pivotOf(model, role.relation);
  const { alias } = builder.at(pairsOf(rows));
  const ordered = (name: string) => ({ expression: column(alias, name), descending: false, nulls: false });
  if (entity !== null) return entityOf(model, entity).key.columns.map(ordered);
  return repeats && !withoutKey ? [ordered('id')] : [];
}

import { entityOf, isNarrowed } from '../../model/index.js';
import { type Access, type AccessId, type PlannedExpression, partsOf } from '../../plan/index.js';
import { allOf, columnsOf, equal, number, type SqlExpression } from '../../sql/index.js';
import { type Compiling, entityAt, rowAt, type SourceRow } from './compiling.js';
import { SelectBuilder } from './select-builder.js';

/**
 * The condition of the walls on a row that is joined to others: it stands in “on”, so that no row of those is lost. What has to be
 * joined for it cannot stand there; it is then asked of the same row in a select of its own. Null where there is no wall.
 */
export function wallOn(compiling: Compiling, walls: readonly PlannedExpression[], row: SourceRow): SqlExpression | null {
  if (walls.length === 0) return null;
  const { model } = compiling;
  const entity = entityAt(model, row.access);
  const isOneTable = entity.kinds === null || entity.kinds.storage.kind === 'single table';
  if (isOneTable && walls.every((wall) => staysAt(compiling, row.access, wall)))
    return allOf(walls.map((wall) => compiling.sqlOf(row, wall)));
  return walledByKey(compiling, walls, row, row.builder.key(row.alias));
}

/** The condition of the walls on the pairs of a pivot that are rows of an entity; null where there is none. */
export function wallOnPairs(compiling: Compiling, builder: SelectBuilder, pairs: Access, pivot: string): SqlExpression | null {
  if (pairs.entity === null || !compiling.site.isWalled(pairs.id)) return null;
  const { key } = entityOf(compiling.model, pairs.entity);
  const row: SourceRow = { builder, access: pairs, alias: pivot };
  return walledByKey(compiling, compiling.conditionsOf(pairs), row, columnsOf(pivot, key.columns));
}

/** The condition that the row of this key stands on this side of the walls. */
function walledByKey(
  compiling: Compiling,
  walls: readonly PlannedExpression[],
  { builder, access }: SourceRow,
  key: SqlExpression,
): SqlExpression {
  const entity = entityAt(compiling.model, access);
  const own = new SelectBuilder(compiling.site, builder.aliases);
  const alias = own.aliases.claim(entity.table.value.name);
  own.readFrom(entity.name, alias);
  const row = rowAt(own, access, alias);
  own.conditions.push(equal(own.key(alias), key), ...walls.map((wall) => compiling.sqlOf(row, wall)));
  const select = own.build({ columns: [{ expression: number(1), as: null }], orderBy: [], limit: null, offset: null });
  return { kind: 'exists', select, negated: false };
}

/** Whether a condition asks nothing of rows behind to-one hops, which would have to be joined. */
function staysAt(compiling: Compiling, access: Access, condition: PlannedExpression): boolean {
  const { id } = access;
  if ('access' in condition && condition.access !== id)
    return condition.kind === 'role' && standsIn(compiling, id, condition.access);
  // What is asked of many rows stands in a select of its own.
  if (condition.kind === 'quantified' || condition.kind === 'aggregated') return true;
  return partsOf(condition).every((part) => staysAt(compiling, access, part));
}

/** Whether the key of the row of an access stands in a column of the row that it is reached from. */
function standsIn({ model, accesses }: Compiling, from: AccessId, id: AccessId): boolean {
  const over = accesses.get(id)?.over;
  return over?.kind === 'role' && over.from === from && over.role.way.kind === 'key' && !isNarrowed(model, over.role);
}

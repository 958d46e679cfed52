import { entityOf, pivotOf, type Role } from '../../model/index.js';
import type { Access } from '../../plan/index.js';
import { columnsOf, equal, itemsOf, type SqlExpression } from '../../sql/index.js';
import { type Compiling, rowAt, type SourceRow } from './compiling.js';
import { orderTerms } from './order.js';
import { among } from './readings.js';
import { type Aliases, anchorOf, overRole, pivotSource, type RoleAccess, SelectBuilder } from './select-builder.js';
import { filteredRow, overStep } from './steps.js';
import { wallOnPairs } from './wall-on.js';

/** The condition that a key is one of those of the owners; null where that is said elsewhere. */
export type AmongKeys = (key: SqlExpression) => SqlExpression | null;

/** Rows that are sought for all owners at once. */
export interface Sought {
  readonly row: SourceRow;
  /** The key of a row's owner. */
  readonly stitch: SqlExpression;
  /** The number of a row among those of its owner, where only the first is wanted. */
  readonly place: SqlExpression | null;
}

/** The number of a row among those of its owner, in the order that its access states. */
export function placeAmong(compiling: Compiling, row: SourceRow, stitch: SqlExpression): SqlExpression {
  const partition = itemsOf(stitch);
  return { kind: 'row number', partition, orderBy: orderTerms(compiling, row, row.access.order) };
}

/** The rows behind one role, found by the keys that they, or the pairs in between, hold. */
export function seekStep(
  compiling: Compiling,
  step: RoleAccess,
  keys: AmongKeys,
  aliases: Aliases,
): { readonly row: SourceRow; readonly stitch: SqlExpression } {
  const { model } = compiling;
  const { role, pairs } = step.over;
  const { way } = role;
  const target = entityOf(model, role.target);
  const builder = new SelectBuilder(compiling.site, aliases);
  switch (way.kind) {
    case 'key':
    case 'child': {
      const alias = aliases.claim(target.table.value.name);
      builder.readFrom(target.name, alias, anchorOf(model, role));
      const stitch = way.kind === 'key' ? builder.key(alias) : builder.columns(alias, way.holder, way.columns);
      if (way.kind === 'child' && way.mark !== null)
        builder.conditions.push(among(builder.column(alias, way.holder, way.mark.column), way.mark.values));
      builder.conditions.push(keys(stitch));
      return { row: filteredRow(compiling, rowAt(builder, step, alias)), stitch };
    }
    case 'pivot': {
      const pivot = aliases.claim(way.table.name);
      const alias = aliases.claim(target.table.value.name, role.name);
      const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
      const { source, sought } = pivotSource(role, pivot, fields, keys);
      builder.startFrom(source);
      builder.joinEntity('inner', target.name, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)));
      const stitch = columnsOf(pivot, way.near);
      builder.conditions.push(builder.pairCondition(role, pivot), sought ? null : keys(stitch));
      if (pairs !== null) {
        builder.put(pairs, pivot);
        builder.conditions.push(wallOnPairs(compiling, builder, pairs, pivot));
      }
      return { row: filteredRow(compiling, rowAt(builder, step, alias)), stitch };
    }
    case 'path':
      throw new Error(`${role.name} is a path, which is walked step by step`);
  }
}

/**
 * Steps from the rows of an owner, whose keys are bound. Its own table is read only where it holds the first key, or where the
 * next rows do not hold its key as it is.
 */
export function walked(
  compiling: Compiling,
  role: Role,
  steps: readonly Access[],
  keys: AmongKeys,
  aliases: Aliases,
): { readonly row: SourceRow; readonly stitch: SqlExpression } {
  const [first, ...others] = steps.map(overRole);
  const way = first?.over.role.way;
  const isPlain =
    first !== undefined &&
    (way?.kind === 'child' || way?.kind === 'pivot') &&
    way.mark?.held == null &&
    first.over.role.entity === role.entity;
  if (first !== undefined && isPlain) {
    const { row, stitch } = seekStep(compiling, first, keys, aliases);
    return { row: others.reduce((from, step) => overStep(compiling, row.builder, from, step), row), stitch };
  }
  const owner = entityOf(compiling.model, role.entity);
  const builder = new SelectBuilder(compiling.site, aliases);
  const alias = builder.aliases.claim(owner.table.value.name);
  builder.readFrom(owner.name, alias);
  const stitch = builder.key(alias);
  builder.conditions.push(keys(stitch));
  const owners = builder.site.access(first?.over.from ?? 0);
  const start = rowAt(builder, owners, alias);
  return { row: steps.map(overRole).reduce((from, step) => overStep(compiling, builder, from, step), start), stitch };
}

import { entityOf, type Model, pivotOf, type Role } from '../../model/index.js';
import type { Access } from '../../plan/index.js';
import { allOf, columnsOf, equal, itemsOf, number, type SqlExpression } from '../../sql/index.js';
import { type Compiling, rowAt, type SourceRow } from './compiling.js';
import { orderTerms } from './order.js';
import { anchorOf, overRole, pivotSource, type RoleAccess, SelectBuilder } from './select-builder.js';
import { wallOnPairs } from './wall-on.js';

/** A select that begins at the first step's rows, bound to a row around it, and joins the others step by step. */
export function joinSteps(
  compiling: Compiling,
  row: SourceRow,
  steps: readonly Access[],
): { readonly builder: SelectBuilder; readonly here: SourceRow } {
  const builder = new SelectBuilder(compiling.site, row.builder.aliases);
  const here = steps.map(overRole).reduce((from, step) => overStep(compiling, builder, from, step), row);
  if (!builder.started) throw new Error('a quantifier needs a step');
  return { builder, here };
}

/** Joins what stands behind one step; the first is where the select begins. */
export function overStep(compiling: Compiling, builder: SelectBuilder, from: SourceRow, step: RoleAccess): SourceRow {
  const { model } = compiling;
  const { role, pairs } = step.over;
  const target = entityOf(model, role.target);
  const anchor = anchorOf(model, role);
  const ownerKey = () => from.builder.keyAsHeld(role, from.alias);
  if (role.way.kind === 'pivot' && pairs !== null) {
    const pivot = builder.aliases.claim(role.way.table.name);
    const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
    // A select in “from” may speak of the rows around the whole statement, and not of those that stand beside it.
    const around = compiling.correlates && !builder.started;
    const seek = around ? (near: SqlExpression) => equal(near, ownerKey()) : null;
    const { source, sought } = pivotSource(role, pivot, fields, seek);
    const on = [
      sought ? null : equal(columnsOf(pivot, role.way.near), ownerKey()),
      builder.pairCondition(role, pivot),
      wallOnPairs(compiling, builder, pairs, pivot),
    ];
    if (builder.started) builder.join('inner', source, allOf(on) ?? { kind: 'boolean', value: true });
    else {
      builder.startFrom(source);
      builder.conditions.push(...on);
    }
    builder.put(pairs, pivot);
    const alias = builder.aliases.claim(target.table.value.name, role.name);
    builder.joinEntity('inner', role.target, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)), { anchor });
    return filteredRow(compiling, rowAt(builder, step, alias));
  }
  const alias = builder.aliases.claim(target.table.value.name, role.name);
  const condition = () => builder.behind(step, alias, from);
  if (builder.started) builder.joinEntity('inner', role.target, alias, condition, { anchor });
  else {
    builder.readFrom(role.target, alias, anchor);
    builder.conditions.push(condition());
  }
  return filteredRow(compiling, rowAt(builder, step, alias));
}

/** A row for which the conditions of its access hold. */
export function filteredRow(compiling: Compiling, row: SourceRow): SourceRow {
  for (const condition of compiling.conditionsOf(row.access)) row.builder.conditions.push(compiling.sqlOf(row, condition));
  return row;
}

/** The key of the one row that a path leads to: a select of its own, bound to the row at hand. */
export function firstKey(compiling: Compiling, row: SourceRow, role: Role, steps: readonly Access[]): SqlExpression {
  if (role.way.kind !== 'path') throw new Error(`${role.name} is no path`);
  const { builder, here } = joinSteps(compiling, row, steps);
  const orderBy = orderTerms(compiling, here, here.access.order);
  const select = builder.build({
    columns: itemsOf(builder.key(here.alias)).map((expression) => ({ expression, as: null })),
    orderBy: role.way.first ? orderBy : [],
    limit: number(1),
    offset: null,
  });
  return { kind: 'scalar', select };
}

/** Can one end row be reached on several ways? Then it is still counted once. */
export function repeatsRows(model: Model, roles: readonly Role[]): boolean {
  return roles.some((role, index) => {
    if (role.way.kind === 'pivot') return index > 0 || pivotOf(model, role.relation).repeats;
    return role.way.kind !== 'child' && index > 0;
  });
}

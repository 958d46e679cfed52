import { entityOf } from '../../model/index.js';
import type { Access, JoinPlan } from '../../plan/index.js';
import { allOf, columnsOf, equal, itemsOf, type Select } from '../../sql/index.js';
import { rowAt } from './compiling.js';
import { type CompileOptions, compilingOf } from './compiling-of.js';
import { Aliases, anchorOf, overRole, pivotSource, SelectBuilder } from './select-builder.js';

/** The plain join from an entity's rows to those behind its roles, as a person would write it. It selects the keys of both. */
export function joinSelect({ root, joined }: JoinPlan, options: CompileOptions): Select {
  const { model } = options;
  const aliases = new Aliases();
  const builder = new SelectBuilder(compilingOf(options, [root, ...joined], null).site, aliases);
  const entity = entityOf(model, root.entity ?? '');
  const own = aliases.claim(entity.table.value.name);
  builder.readFrom(entity.name, own);
  rowAt(builder, root, own);
  const keys = [builder.key(own), ...joined.map((access) => builder.key(aliasOf(builder, own, access)))];
  return builder.build({
    columns: keys.flatMap(itemsOf).map((expression) => ({ expression, as: null })),
    orderBy: [],
    limit: null,
    offset: null,
  });
}

/** Joins the rows behind a role, and gives their alias. */
function aliasOf(builder: SelectBuilder, own: string, access: Access): string {
  const { role } = overRole(access).over;
  const { way } = role;
  if (way.kind !== 'pivot') return builder.at(access.id).alias;
  const pivot = builder.aliases.claim(way.table.name);
  const { source } = pivotSource(role, pivot, [], null);
  const near = equal(columnsOf(pivot, way.near), builder.keyAsHeld(role, own));
  builder.join('left', source, allOf([near, builder.pairCondition(role, pivot)]) ?? near);
  const alias = builder.aliases.claim(entityOf(builder.model, role.target).table.value.name, role.name);
  builder.joinEntity('left', role.target, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)), {
    anchor: anchorOf(builder.model, role),
  });
  return alias;
}

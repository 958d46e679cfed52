import { entityOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import { column, equal, itemsOf, type Select, type Source } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import { type Compiling, rowAt } from './compiling.js';
import { compiled } from './expressions.js';
import { orderTerms } from './order.js';
import { seek } from './seek.js';
import type { AmongKeys, Sought } from './seek-step.js';
import { type Aliases, anchorOf, overRole, SelectBuilder } from './select-builder.js';

/** Rows of which each owner has so many at most. */
export interface Limited {
  readonly sought: Sought;
  /** The owners for each of which the rows are asked; or that they are cut off already. */
  readonly each: Source | 'cut' | null;
}

/** The rows of a load for some owners, with what the load itself asks of them. */
export function soughtFor(compiling: Compiling, load: LoadPlan, keys: AmongKeys, aliases: Aliases): Sought {
  const sought = seek(compiling, load, keys, aliases);
  if (load.where !== null) sought.row.builder.conditions.push(compiled(compiling, sought.row, load.where));
  return sought;
}

/**
 * The rows of a load with a limit, asked for owner by owner within one statement, as the engine is quickest at; null where they
 * are rather numbered. With a fitting index no more rows are read than are wanted.
 */
export function limitedFor(compiling: Compiling, load: LoadPlan, parts: readonly ValueType[], aliases: Aliases): Limited | null {
  const [type, ...others] = parts;
  if (load.limit === null || type === undefined || others.length > 0) return null;
  const way = compiling.limitsEach;
  if (way === 'by number') return null;
  const alias = aliases.claim('owners');
  const owners: Source = { from: { kind: 'keys', parameter: 'keys', type: compiling.values.listType(type) }, alias };
  const ofOwner: AmongKeys = (key) => equal(key, column(alias, 'value'));
  if (way === 'within') return { sought: soughtFor(compiling, load, ofOwner, aliases), each: owners };
  return limitedByKey(compiling, load, { owners, ofOwner, aliases });
}

/** The rows whose keys are among those that a select for each owner gives; null where they are reached over others. */
function limitedByKey(
  compiling: Compiling,
  load: LoadPlan,
  { owners, ofOwner, aliases }: { readonly owners: Source; readonly ofOwner: AmongKeys; readonly aliases: Aliases },
): Limited | null {
  const { role, steps, limit } = load;
  const { way } = role;
  const [step] = steps;
  const target = entityOf(compiling.model, role.target);
  const isPlain = way.kind === 'child' && (way.mark === null || way.mark.held === null) && target.key.columns.length === 1;
  if (!isPlain || step === undefined || limit === null) return null;
  const builder = new SelectBuilder(compiling.site, aliases);
  builder.startFrom(owners);
  const alias = aliases.claim(target.table.value.name);
  const inner = soughtFor(compiling, load, ofOwner, aliases);
  const select: Select = inner.row.builder.build({
    columns: itemsOf(inner.row.builder.key(inner.row.alias)).map((expression) => ({ expression, as: null })),
    orderBy: orderTerms(compiling, inner.row, load.order),
    limit: compiled(compiling, inner.row, limit),
    offset: null,
  });
  builder.joinEntity('inner', target.name, alias, () => ({ kind: 'in select', operand: builder.key(alias), select }), {
    anchor: anchorOf(compiling.model, role),
  });
  const row = rowAt(builder, overRole(step), alias);
  return { sought: { row, stitch: builder.columns(alias, way.holder, way.columns), place: null }, each: 'cut' };
}

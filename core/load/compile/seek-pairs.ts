import { entityOf, type Role } from '../../model/index.js';
import type { Access, LoadPlan } from '../../plan/index.js';
import { allOf, column, columnsOf, derived, equal, itemsOf, number, type Select, type SqlExpression } from '../../sql/index.js';
import { type Compiling, rowAt } from './compiling.js';
import { compiled } from './expressions.js';
import { type AmongKeys, placeAmong, type Sought, walked } from './seek-step.js';
import { type Aliases, anchorOf, overRole, pivotSource, SelectBuilder } from './select-builder.js';

/** How the ends of a path are joined to the pairs: by their key, or by the key of another row that they hold. */
type EndJoin = 'by its key' | 'by its key, filtered' | 'by the key that it holds';

/** The owners, each with the ends that it reaches. */
interface Pairs {
  readonly inner: SelectBuilder;
  readonly stitch: SqlExpression;
  /** The key of an end, or the one that it holds. */
  readonly reached: SqlExpression;
  readonly joined: EndJoin;
  readonly place: SqlExpression | null;
}

/** The rows of a path's end for all owners at once: first the pairs of owner and end, each once, then the ends. */
export function seekPairs(compiling: Compiling, load: LoadPlan, keys: AmongKeys, aliases: Aliases): Sought {
  const { role, steps, rows } = load;
  const last = overRole(steps.at(-1) ?? rows);
  const narrowsFirst = rows.id !== last.id;
  const found = narrowsFirst ? ranked(compiling, role, steps, keys, aliases) : pairsTo(compiling, role, steps, keys, aliases);
  const { inner, stitch: owner, reached, joined, place } = found;
  const named = (expressions: readonly SqlExpression[], stem: string) =>
    expressions.map((expression, index) => ({ expression, as: expressions.length === 1 ? stem : `${stem}_${index + 1}` }));
  const owners = named(itemsOf(owner), 'owner');
  const ends = named(itemsOf(reached), 'reached');
  const placed = place === null ? [] : [{ expression: place, as: 'place' }];
  const pairs = inner.build({ columns: [...owners, ...ends, ...placed], orderBy: [], limit: null, offset: null });
  const select: Select = place === null ? { ...pairs, groupBy: [...owners, ...ends].map(({ expression }) => expression) } : pairs;
  const builder = new SelectBuilder(compiling.site, aliases);
  const pairsAlias = aliases.claim('pairs');
  builder.startFrom(derived(select, pairsAlias));
  const target = entityOf(compiling.model, role.target);
  const alias = aliases.claim(target.table.value.name, role.name);
  const reachedKey = columnsOf(
    pairsAlias,
    ends.map(({ as }) => as),
  );
  const end = narrowsFirst ? { ...last.over.role, target: role.target } : last.over.role;
  const anchor = joined === 'by its key' ? role.target : anchorOf(compiling.model, end);
  builder.joinEntity('inner', target.name, alias, () => endCondition(builder, end, joined, alias, reachedKey), { anchor });
  const row = rowAt(builder, rows, alias);
  if (place !== null)
    builder.conditions.push({ kind: 'binary', operator: '=', left: column(pairsAlias, 'place'), right: number(1) });
  if (joined !== 'by its key, filtered')
    for (const condition of compiling.conditionsOf(last)) builder.conditions.push(compiled(compiling, row, condition));
  const stitch = columnsOf(
    pairsAlias,
    owners.map(({ as }) => as),
  );
  return { row, stitch, place: null };
}

function endCondition(builder: SelectBuilder, { way }: Role, joined: EndJoin, alias: string, end: SqlExpression): SqlExpression {
  if (joined !== 'by the key that it holds' || way.kind !== 'child') return equal(builder.key(alias), end);
  return builder.holds(way, alias, end);
}

/** The owners with the keys of the ends that they reach, each with its place among those of its owner. */
function ranked(compiling: Compiling, role: Role, steps: readonly Access[], keys: AmongKeys, aliases: Aliases): Pairs {
  const { row, stitch } = walked(compiling, role, steps, keys, aliases);
  const place = placeAmong(compiling, row, stitch);
  return { inner: row.builder, stitch, reached: row.builder.key(row.alias), joined: 'by its key, filtered', place };
}

/** The owners with the keys of the ends that they reach, or with those that the ends hold: without the table of the ends. */
function pairsTo(compiling: Compiling, role: Role, steps: readonly Access[], keys: AmongKeys, aliases: Aliases): Pairs {
  const place = null;
  const [last, ...more] = steps.slice(-1).map(overRole);
  if (last === undefined || more.length > 0) throw new Error(`${role.name} leads nowhere`);
  const end = last.over.role;
  const { way } = end;
  const before = steps.slice(0, -1);
  const { pairs } = last.over;
  const isFiltered = compiling.conditionsOf(last).length > 0 || (pairs !== null && compiling.site.isWalled(pairs.id));
  if (way.kind === 'pivot' && before.length === 0 && !isFiltered) {
    const builder = new SelectBuilder(compiling.site, aliases);
    const pivot = builder.aliases.claim(way.table.name);
    const { source, sought } = pivotSource(end, pivot, [], keys);
    builder.startFrom(source);
    const stitch = columnsOf(pivot, way.near);
    builder.conditions.push(builder.pairCondition(end, pivot), sought ? null : keys(stitch));
    return { inner: builder, stitch, reached: builder.farKey(end, pivot), joined: 'by its key', place };
  }
  if (before.length > 0 && (way.kind === 'child' || way.kind === 'key' || (way.kind === 'pivot' && !isFiltered))) {
    const { row, stitch } = walked(compiling, role, before, keys, aliases);
    const { builder } = row;
    if (way.kind === 'child') {
      const reached = builder.keyAsHeld(end, row.alias);
      return { inner: builder, stitch, reached, joined: 'by the key that it holds', place };
    }
    if (way.kind === 'key')
      return { inner: builder, stitch, reached: builder.heldKey(end, row.alias), joined: 'by its key', place };
    const pivot = builder.aliases.claim(way.table.name);
    const { source } = pivotSource(end, pivot, [], null);
    const near = equal(columnsOf(pivot, way.near), builder.keyAsHeld(end, row.alias));
    builder.join('inner', source, allOf([near, builder.pairCondition(end, pivot)]) ?? near);
    return { inner: builder, stitch, reached: builder.farKey(end, pivot), joined: 'by its key', place };
  }
  const { row, stitch } = walked(compiling, role, steps, keys, aliases);
  return { inner: row.builder, stitch, reached: row.builder.key(row.alias), joined: 'by its key, filtered', place };
}

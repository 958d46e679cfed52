import { entityOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import { allOf, columnsOf, equal, type Join } from '../../sql/index.js';
import { Columns } from './columns.js';
import type { Compiling } from './compiling.js';
import { soughtFor } from './limited.js';
import { keyTypesOf, ownerKey } from './owner-keys.js';
import { type JoinedRows, type LoadsCompiler, type Owners, placeOf } from './owners.js';
import { APART, type CutOff, rowsOfLoad, statementFor } from './rows-below.js';
import type { SelectBuilder } from './select-builder.js';

/**
 * Joins the rows of a load to their owners. Where they are read from one table it is joined as it is; else a select of theirs
 * stands in the join.
 */
export function joinedLoad(compiling: Compiling, load: LoadPlan, owners: Owners, below: LoadsCompiler): JoinedRows {
  const { names, row } = owners.columns;
  const free = new Set(names);
  const table = row.builder.aliases.attempt(() => joinedAs(compiling, load, owners, { names: free, as: 'table', below }));
  const joined = table ?? joinedAs(compiling, load, owners, { names, as: 'select', below });
  if (joined === null) throw new Error(`${load.role.name} cannot be joined`);
  if (table !== null) for (const name of free) names.add(name);
  return joined;
}

function joinedAs(
  compiling: Compiling,
  load: LoadPlan,
  owners: Owners,
  { names, as, below }: { readonly names: Set<string>; readonly as: 'table' | 'select'; readonly below: LoadsCompiler },
): JoinedRows | null {
  const { role } = load;
  const { parts } = keyTypesOf(compiling, role);
  const sought = soughtFor(compiling, load, () => null, owners.columns.row.builder.aliases);
  const { builder } = sought.row;
  const columns = new Columns(compiling, sought.row, entityOf(compiling.model, role.target), names);
  if (load.output.kind === 'rows') columns.addFields(load.output.fields);
  const rows = rowsOfLoad(compiling, load, sought, columns, { isJoined: true, limits: 'by place' });
  const identity = [...rows.identity(), ...columns.addIdentity()];
  const stitch = as === 'table' ? [] : columns.addKey(sought.stitch, parts);
  const apart = as === 'table' ? rows.cutOff : (rows.cutOff ?? APART);
  const place = placeOf(compiling, load, owners);
  const sure = owners.sure && place.owners === null && isSurelyThere(load, builder, apart);
  const { select, ...statement } = statementFor(compiling, { ...rows, cutOff: apart, sure }, load.loads, below);
  const ofOneTable = apart === null && select.from.from.kind === 'table' && !builder.joinsAny && select.groupBy.length === 0;
  if (as === 'table' && !ofOneTable) return null;
  const key = owners.outside(ownerKey(owners.columns.row, role), parts);
  const own = as === 'table' ? sought.stitch : columnsOf(select.from.alias, stitch);
  const on = equal(own, key);
  const join: Join = {
    kind: sure ? 'inner' : 'left',
    source: select.from,
    on: allOf([on, select.where]) ?? on,
  };
  const { outputs, kind, ordered, joined, nested, loads } = statement;
  return {
    rows: { ...place, outputs, kind, identity, ordered, joined, nested, loads },
    joins: [join, ...select.joins],
    columns: select.columns,
    outputs: statement.columns,
    orderBy: select.orderBy,
  };
}

/** Does the database keep that each owner has such a row, and does the load ask for it whatever it is? */
function isSurelyThere({ role, where, branch }: LoadPlan, builder: SelectBuilder, cutOff: CutOff | null): boolean {
  const asksMore = where !== null || branch || builder.conditions.some((condition) => condition !== null);
  return cutOff === null && !asksMore && builder.isThere(role);
}

import { entityOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import { equal, itemsOf, type OrderTerm, type SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import { Columns } from './columns.js';
import { alone, COUNT_OUTPUT, type CompiledLoad, type CompiledRead } from './compiled.js';
import type { Compiling } from './compiling.js';
import { keyOutputs, singleKey } from './key-outputs.js';
import { type Limited, limitedFor, soughtFor } from './limited.js';
import { keyTypesOf } from './owner-keys.js';
import { type LoadsCompiler, type Owners, placeOf } from './owners.js';
import { type Rows, rowsOfLoad, statementFor } from './rows-below.js';
import type { Sought } from './seek-step.js';
import { Aliases } from './select-builder.js';

/** A statement of its own: for the rows of all owners at once (by batch), or of one owner (by row). */
export function statementLoad(
  compiling: Compiling,
  load: LoadPlan,
  owners: Owners,
  { way, below }: { readonly way: 'batch' | 'row'; readonly below: LoadsCompiler },
): CompiledLoad {
  const { model } = compiling;
  const { role, output } = load;
  const { way: over } = role;
  const { parts, whole } = keyTypesOf(compiling, role);
  const aliases = new Aliases();
  const limited = way === 'batch' && output.kind === 'rows' ? limitedFor(compiling, load, parts, aliases) : null;
  const sought =
    limited?.sought ??
    soughtFor(compiling, load, way === 'batch' ? amongAll(compiling, parts) : isOne(compiling, whole, parts), aliases);
  const columns = new Columns(compiling, sought.row, entityOf(model, role.target));
  const stitchColumns = output.kind === 'rows' ? stitched(columns, load, sought, parts) : [];
  const read =
    output.kind === 'rows'
      ? statementFor(
          compiling,
          rowsOf(compiling, load, sought, columns, { stitch: way === 'batch' ? stitchColumns : [], each: limited?.each ?? null }),
          load.loads,
          below,
        )
      : alone(countsOf(sought, ownerOutputs(compiling, load, whole)));
  return {
    ...read,
    ...placeOf(compiling, load, owners),
    seeks: way === 'batch' ? 'keys' : 'key',
    asText: over.kind !== 'path' && over.mark?.held != null,
    ownerColumns: owners.columns.addHeldKey(role),
    ownersDistinct: over.kind !== 'key',
    stitchColumns,
    keyType: whole,
  };
}

function amongAll({ values }: Compiling, parts: readonly ValueType[]): (operand: SqlExpression) => SqlExpression {
  const types = parts.map((type) => values.listType(type));
  return (operand) => ({ kind: 'in keys', operand, parameter: 'keys', types });
}

function isOne({ values }: Compiling, whole: ValueType, parts: readonly ValueType[]): (operand: SqlExpression) => SqlExpression {
  const key: SqlExpression =
    whole.kind === 'composite'
      ? {
          kind: 'tuple',
          items: parts.map((type, part) => ({ kind: 'key part', parameter: 'key', part, type: values.listType(type) })),
        }
      : { kind: 'parameter', name: 'key', type: values.parameterType(whole) };
  return (operand) => equal(operand, key);
}

/** The columns that say whose a row is, behind those that the answer has of it. */
function stitched(columns: Columns, { output }: LoadPlan, { stitch }: Sought, parts: readonly ValueType[]): readonly string[] {
  if (output.kind === 'rows') columns.addFields(output.fields);
  return columns.addKey(stitch, parts);
}

/** The rows of all owners; those of one owner stand together, so that they are cut off as a run. */
function rowsOf(
  compiling: Compiling,
  load: LoadPlan,
  sought: Sought,
  columns: Columns,
  { stitch, each }: { readonly stitch: readonly string[]; readonly each: Limited['each'] },
): Rows {
  const limits = stitch.length === 0 ? 'at once' : each === null || each === 'cut' ? 'by place' : { each };
  const stated = each === 'cut' ? { ...load, limit: null } : load;
  const rows = rowsOfLoad(compiling, stated, sought, columns, { isJoined: false, limits });
  if (stitch.length === 0) return rows;
  const first = itemsOf(sought.stitch).map((expression): OrderTerm => ({ expression, descending: false, nulls: false }));
  const orderBy = load.role.knows === 'many' ? [...first, ...rows.orderBy] : rows.orderBy;
  return { ...rows, orderBy, identity: () => [...stitch, ...rows.identity()] };
}

function ownerOutputs({ model }: Compiling, { role }: LoadPlan, whole: ValueType): ReturnType<typeof keyOutputs> {
  return whole.kind === 'composite' ? keyOutputs(entityOf(model, role.entity), 'owner') : singleKey(whole, 'owner');
}

/** How many rows there are of each owner that has any: first the number, then the owner's key. */
function countsOf({ row, stitch }: Sought, owner: ReturnType<typeof keyOutputs>): CompiledRead {
  const parts = itemsOf(stitch);
  const select = row.builder.build({
    columns: [
      { expression: { kind: 'count rows' }, as: COUNT_OUTPUT.as },
      ...parts.map((expression, index) => ({ expression, as: owner.names[index] ?? '' })),
    ],
    orderBy: [],
    limit: null,
    offset: null,
  });
  return { select: { ...select, groupBy: parts }, outputs: [COUNT_OUTPUT, ...owner.outputs], kind: null };
}

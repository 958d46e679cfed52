import { entityOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import { column, derived, isSameColumn, itemsOf, type Select, type SqlExpression, selectOf } from '../../sql/index.js';
import { Columns } from './columns.js';
import { COUNT_OUTPUT, type CompiledLoad, type CompiledRead } from './compiled.js';
import type { Compiling } from './compiling.js';
import { compiled } from './expressions.js';
import { keyOutputs, singleKey } from './key-outputs.js';
import { orderTerms } from './order.js';
import { pairOrder } from './pair-order.js';
import { seek } from './seek.js';
import type { Sought } from './seek-step.js';
import { askedOnce } from './shared.js';

/** The statements of loads: each seeks the rows of all owners at once. */
export function compileLoads(compiling: Compiling, loads: readonly LoadPlan[], owner: Columns): CompiledLoad[] {
  return loads.map((load) => compileLoad(compiling, load, owner));
}

function compileLoad(compiling: Compiling, load: LoadPlan, owner: Columns): CompiledLoad {
  const { model, values } = compiling;
  const { role } = load;
  const { way } = role;
  const target = entityOf(model, role.target);
  const { key } = way.kind === 'key' ? target : entityOf(model, role.entity);
  const held = way.kind !== 'path' && way.kind !== 'key' ? (way.mark?.held ?? null) : null;
  const typed = held !== null && (way.kind === 'child' || (way.kind === 'pivot' && way.marked === 'near'));
  const stitchTypes = typed ? [held] : key.fields.map((field) => field.type);
  const types = stitchTypes.map((type) => values.listType(type));
  const keys = (operand: SqlExpression): SqlExpression => ({ kind: 'in keys', operand, parameter: 'keys', types });
  const sought = seek(compiling, load, keys);
  const { row, stitch } = sought;
  if (load.where !== null) row.builder.conditions.push(compiled(compiling, row, load.where));

  const columns = new Columns(compiling, row, target);
  if (load.output.kind === 'rows') columns.addFields(load.output.fields);
  const loads = compileLoads(compiling, load.loads, columns);
  const stitchColumns = columns.addKey(stitch, stitchTypes);
  const ownerColumns = owner.addHeldKey(role);
  const keyType = typed ? held : key.type;
  const read: CompiledRead =
    load.output.kind === 'rows'
      ? { select: rowsOf(compiling, load, sought, columns), outputs: columns.outputs, kind: columns.kind }
      : countsOf(
          sought,
          keyType.kind === 'composite' ? keyOutputs(entityOf(model, role.entity), 'owner') : singleKey(keyType, 'owner'),
        );
  return {
    ...read,
    role: role.name,
    path: load.path,
    entity: target.name,
    many: role.knows === 'many',
    branch: load.branch,
    owners: owner.addOwnersOf(role),
    asText: way.kind !== 'path' && way.mark?.held != null,
    ownerColumns,
    ownersDistinct: way.kind !== 'key',
    stitchColumns,
    keyType,
    loads,
    span: load.span,
  };
}

/** The rows of all owners; those of one owner stand together, so that they are cut off as a run. */
function rowsOf(
  compiling: Compiling,
  { role, rows, order, limit }: LoadPlan,
  { row, stitch, place }: Sought,
  columns: Columns,
): Select {
  const orderBy =
    role.knows === 'many'
      ? [
          ...itemsOf(stitch).map((expression) => ({ expression, descending: false, nulls: false })),
          ...orderTerms(compiling, row, order),
          ...pairOrder(compiling, role, row, rows),
        ]
      : [];
  const select = row.builder.build({ columns: columns.selected, orderBy, limit: null, offset: null });
  if (limit !== null) {
    const number: SqlExpression = {
      kind: 'row number',
      partition: itemsOf(stitch),
      orderBy: orderBy.slice(itemsOf(stitch).length),
    };
    return upTo(select, number, '<=', compiled(compiling, row, limit));
  }
  return place === null ? askedOnce(select) : upTo({ ...select, orderBy: [] }, place, '=', { kind: 'number', text: '1' });
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

/** Of the rows of each owner the first, or the first few, by their place among them; in the order that they had. */
function upTo(select: Select, place: SqlExpression, operator: '=' | '<=', most: SqlExpression): Select {
  const ranked = 'ranked';
  const placed = { expression: place, as: 'place' };
  const stands = (expression: SqlExpression) => select.columns.find((one) => isSameColumn(one.expression, expression));
  const terms = select.orderBy.map((term, index) => {
    const known = stands(term.expression);
    return { term, as: known?.as ?? `order_${index + 1}`, made: known === undefined };
  });
  const added = terms.filter(({ made }) => made).map(({ term, as }) => ({ expression: term.expression, as }));
  return selectOf(derived({ ...select, columns: [...select.columns, ...added, placed], orderBy: [] }, ranked), {
    columns: select.columns.map(({ as }) => ({ expression: column(ranked, as ?? ''), as })),
    where: { kind: 'binary', operator, left: column(ranked, 'place'), right: most },
    orderBy: terms.map(({ term, as }) => ({ ...term, expression: column(ranked, as) })),
  });
}

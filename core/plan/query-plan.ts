import type { Dialect } from '../dialects/index.js';
import { entityOf, type Load, type Model, type Parameter, pivotOf, type Query, type Role } from '../model/index.js';
import { column, columnsOf, equal, type Select, type SqlExpression } from '../sql/index.js';
import { Columns } from './columns.js';
import { orderTerms, overHop, type Planning, plannedSql, type Row, repeatsRows, siteOf, unfolded } from './conditions.js';
import type { Binding, LoadPlan, Output, QueryPlan } from './plan.js';
import { among } from './readings.js';
import { Aliases, anchorOf, pivotSource, SelectBuilder } from './select-builder.js';

export interface PlanOptions {
  readonly dialect: Dialect;
  /** The database keeps every foreign key, since it was made here; else a key may point at nothing. */
  readonly keysHold: boolean;
  /** Each row bears its composite key under `COMPOSITE_KEY`, to be fetched by it again. */
  readonly rowKeys?: boolean;
}

/**
 * The plan of a query: one select for the rows asked for, and one for each loaded relation.
 * @throws PlanTooLarge where scopes that stand on scopes multiply beyond what a statement can hold.
 */
export function planQuery(model: Model, query: Query, options: PlanOptions): QueryPlan {
  const planning = planningOf(model, options);
  const entity = entityOf(model, query.entity);
  const aliases = new Aliases();
  const alias = aliases.claim(entity.table.value.name);
  const builder = new SelectBuilder(siteOf(planning), aliases);
  builder.readFrom(entity.name, alias);
  const row: Row = { builder, entity: entity.name, alias, pivotAlias: null };
  for (const condition of query.where) builder.conditions.push(plannedSql(planning, row, condition));
  const amount = (expression: Query['limit']) => (expression === null ? null : plannedSql(planning, row, expression));

  if (query.cardinality === 'count') {
    const limited = query.limit !== null || query.offset !== null;
    const output: Output = { as: 'count', type: { kind: 'integer' }, name: 'count', pivot: null, parts: null, kinds: null };
    const plain = builder.build({
      columns: limited
        ? [{ expression: firstPart(builder.key(alias)), as: 'counted' }]
        : [{ expression: { kind: 'count rows' }, as: 'count' }],
      orderBy: [],
      limit: amount(query.limit),
      offset: amount(query.offset),
    });
    const select: Select = limited
      ? {
          kind: 'select',
          columns: [{ expression: { kind: 'count rows' }, as: 'count' }],
          joins: [],
          where: null,
          orderBy: [],
          limit: null,
          offset: null,
          from: { from: { kind: 'select', select: plain }, alias: 'counted', entity: null },
        }
      : plain;
    return {
      entity: entity.name,
      cardinality: 'count',
      select,
      outputs: [output],
      kind: null,
      loads: [],
      bindings: bindingsOf(planning, query.parameters),
    };
  }

  const columns = new Columns(planning, row, entity);
  columns.addFields(null);
  columns.addKeyColumns();
  const kind = columns.addKind();
  const loads = planLoads(planning, query.loads, columns, '', []);
  const orderBy = orderTerms(planning, row, query.orderBy.length > 0 ? query.orderBy : entity.orderBy);
  const limit: SqlExpression | null =
    query.cardinality === 'first'
      ? { kind: 'number', text: '1' }
      : query.cardinality === 'one' && query.limit === null
        ? { kind: 'number', text: '2' }
        : amount(query.limit);
  const select = builder.build({ columns: columns.selected, orderBy, limit, offset: amount(query.offset) });
  return {
    entity: entity.name,
    cardinality: query.cardinality,
    select,
    outputs: columns.outputs,
    kind,
    loads,
    bindings: bindingsOf(planning, query.parameters),
  };
}

/** What the statements of one plan share, before any is planned. */
export function planningOf(model: Model, { dialect, keysHold, rowKeys = false }: PlanOptions): Planning {
  const { values, correlates } = dialect;
  return { model, values, correlates, keysHold, rowKeys, bindings: new Map(), size: 0 };
}

function bindingsOf(planning: Planning, parameters: readonly Parameter[]): Binding[] {
  return Array.from(planning.bindings.values(), (binding) => {
    if (binding.from.kind !== 'parameter') return binding;
    const { from } = binding;
    const optional = parameters.find((parameter) => parameter.name === from.parameter)?.optional ?? false;
    return { ...binding, from: { ...from, optional } };
  });
}

/** The loads that a query asks for, and those that come along with every row of the entity. */
function planLoads(
  planning: Planning,
  loads: readonly Load[],
  owner: Columns,
  above: string,
  chain: readonly Load[],
): LoadPlan[] {
  const asked = loads.map((load) => planLoad(planning, load, owner, above, chain, load.span));
  const along = entityOf(planning.model, owner.entity.name).alwaysLoad.flatMap(({ load, once }) => {
    const there = loads.some(({ role }) => role.name === load.role.name && role.relation === load.role.relation);
    return there || (once && chain.includes(load)) ? [] : [planLoad(planning, load, owner, above, [...chain, load], null)];
  });
  return [...asked, ...along];
}

function planLoad(
  planning: Planning,
  load: Load,
  owner: Columns,
  above: string,
  chain: readonly Load[],
  span: LoadPlan['span'],
): LoadPlan {
  const { model, values } = planning;
  const { role } = load;
  const { way } = role;
  const target = entityOf(model, role.target);
  const ownerEntity = entityOf(model, role.entity);
  const path = above === '' ? role.name : `${above}.${role.name}`;
  const { key } = way.kind === 'key' ? target : ownerEntity;
  const held = way.kind !== 'path' && way.kind !== 'key' ? (way.mark?.held ?? null) : null;
  const typed = held !== null && (way.kind === 'child' || (way.kind === 'pivot' && way.marked === 'near'));
  const types = typed ? [values.listType(held)] : key.fields.map((field) => values.listType(field.type));
  const keys = (operand: SqlExpression): SqlExpression => ({ kind: 'in keys', operand, parameter: 'keys', types });
  const { row, stitch } = seek(planning, role, keys);
  const { builder } = row;
  if (load.where !== null) builder.conditions.push(plannedSql(planning, row, load.where));

  const columns = new Columns(planning, row, target);
  columns.addFields(load.fields);
  if (load.fields === null) columns.addKeyColumns();
  const kind = columns.addKind(load.branch);
  if (way.kind === 'pivot') columns.addPivotFields(role.relation, load.fields === null ? null : (load.pivotFields ?? []));
  const loads = planLoads(planning, load.loads, columns, path, chain);
  const stitchType = typed ? [held] : key.fields.map((field) => field.type);
  const stitchColumns = columns.addKey(stitch, stitchType);
  const ownerColumns = owner.addHeldKey(role);
  const many = role.knows === 'many';
  const stated = load.orderBy.length > 0 ? load.orderBy : role.orderBy.length > 0 ? role.orderBy : target.orderBy;
  const stitchParts = stitch.kind === 'tuple' ? stitch.items : [stitch];
  // Owner first, so that the rows of one owner arrive together and are cut off as a run.
  const orderBy = many
    ? [
        ...stitchParts.map((expression) => ({ expression, descending: false, nulls: false })),
        ...orderTerms(planning, row, stated),
        ...pairOrder(planning, role, row.pivotAlias),
      ]
    : [];
  return {
    role: role.name,
    path,
    entity: target.name,
    many,
    branch: load.branch,
    owners: owner.addOwnersOf(role),
    asText: way.kind !== 'path' && way.mark?.held != null,
    ownerColumns,
    ownersDistinct: way.kind !== 'key',
    stitchColumns,
    keyType: typed ? held : key.type,
    kind,
    select: builder.build({ columns: columns.selected, orderBy, limit: null, offset: null }),
    outputs: columns.outputs,
    loads,
    span,
  };
}

/** A select of the rows behind a role for all owners at once, and what says whose a row is. */
function seek(
  planning: Planning,
  role: Role,
  keys: (operand: SqlExpression) => SqlExpression,
): { row: Row; stitch: SqlExpression } {
  const { model } = planning;
  const { way } = role;
  const target = entityOf(model, role.target);
  const aliases = new Aliases();
  const builder = new SelectBuilder(siteOf(planning), aliases);
  switch (way.kind) {
    case 'key':
    case 'child': {
      const alias = aliases.claim(target.table.value.name);
      builder.readFrom(target.name, alias, anchorOf(model, role));
      const stitch = way.kind === 'key' ? builder.key(alias) : builder.columns(alias, way.holder, way.columns);
      if (way.kind === 'child' && way.mark !== null)
        builder.conditions.push(among(builder.column(alias, way.holder, way.mark.column), way.mark.values));
      builder.conditions.push(keys(stitch));
      return { row: { builder, entity: target.name, alias, pivotAlias: null }, stitch };
    }
    case 'pivot': {
      const pivotAlias = aliases.claim(way.table.name);
      const alias = aliases.claim(target.table.value.name, role.name);
      const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
      const { source, sought } = pivotSource(role, pivotAlias, fields, keys);
      builder.startFrom(source);
      builder.joinEntity('inner', target.name, alias, () => equal(builder.key(alias), builder.farKey(role, pivotAlias)));
      const stitch = columnsOf(pivotAlias, way.near);
      builder.conditions.push(builder.pairCondition(role, pivotAlias), sought ? null : keys(stitch));
      return { row: { builder, entity: target.name, alias, pivotAlias }, stitch };
    }
    case 'path':
      return seekPath(planning, role, way, builder, keys);
  }
}

/**
 * What stands behind a path: first the pairs of owner and end row, each once, or one for each owner; then the end rows.
 * The rows between are joined, and never fetched.
 */
function seekPath(
  planning: Planning,
  role: Role,
  way: Extract<Role['way'], { kind: 'path' }>,
  builder: SelectBuilder,
  keys: (operand: SqlExpression) => SqlExpression,
): { row: Row; stitch: SqlExpression } {
  const { model } = planning;
  const { aliases } = builder;
  const owner = entityOf(model, role.entity);
  const target = entityOf(model, role.target);
  const ownerAlias = aliases.claim(owner.table.value.name);
  const inner = new SelectBuilder(siteOf(planning), aliases);
  inner.readFrom(owner.name, ownerAlias);
  const start: Row = { builder: inner, entity: owner.name, alias: ownerAlias, pivotAlias: null };
  const hops = unfolded(way.hops);
  const here = hops.reduce((from, hop) => overHop(planning, inner, from, hop), start);
  const parts = (key: SqlExpression) => (key.kind === 'tuple' ? key.items : [key]);
  const ownerKey = inner.key(ownerAlias);
  inner.conditions.push(keys(ownerKey));
  const named = (expressions: readonly SqlExpression[], stem: string) =>
    expressions.map((expression, index) => ({ expression, as: expressions.length === 1 ? stem : `${stem}_${index + 1}` }));
  const owners = named(parts(ownerKey), 'owner');
  const ends = named(parts(inner.key(here.alias)), 'reached');
  const place: SqlExpression = {
    kind: 'row number',
    partition: parts(ownerKey),
    orderBy: orderTerms(planning, here, role.orderBy),
  };
  const pairs = inner.build({
    columns: [...owners, ...ends, ...(way.first ? [{ expression: place, as: 'place' }] : [])],
    orderBy: [],
    limit: null,
    offset: null,
  });
  const once = !way.first && repeatsRows(model, hops);
  const select: Select = once ? { ...pairs, groupBy: [...owners, ...ends].map(({ expression }) => expression) } : pairs;
  const pairsAlias = aliases.claim('pairs');
  builder.startFrom({ from: { kind: 'select', select }, alias: pairsAlias, entity: null });
  const alias = aliases.claim(target.table.value.name, role.name);
  builder.joinEntity('inner', target.name, alias, () =>
    equal(
      builder.key(alias),
      columnsOf(
        pairsAlias,
        ends.map(({ as }) => as),
      ),
    ),
  );
  if (way.first)
    builder.conditions.push({
      kind: 'binary',
      operator: '=',
      left: column(pairsAlias, 'place'),
      right: { kind: 'number', text: '1' },
    });
  const stitch = columnsOf(
    pairsAlias,
    owners.map(({ as }) => as),
  );
  return { row: { builder, entity: target.name, alias, pivotAlias: null }, stitch };
}

/** Where a pair may repeat, the same row comes several times: its pairs then stand in the order of their own key. */
function pairOrder({ model }: Planning, role: Role, alias: string | null): Select['orderBy'] {
  if (role.way.kind !== 'pivot' || role.way.symmetric) return [];
  const { repeats, withoutKey, entity } = pivotOf(model, role.relation);
  if (entity !== null) {
    const { columns } = entityOf(model, entity).key;
    return columns.map((name) => ({ expression: column(alias, name), descending: false, nulls: false }));
  }
  return repeats && !withoutKey ? [{ expression: column(alias, 'id'), descending: false, nulls: false }] : [];
}

function firstPart(key: SqlExpression): SqlExpression {
  return key.kind === 'tuple' ? (key.items[0] ?? { kind: 'null' }) : key;
}

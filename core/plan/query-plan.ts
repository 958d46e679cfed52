import type { Dialect } from '../dialects/index.js';
import { entityOf, type Hop, type Load, type Model, type Parameter, pivotOf, type Query, type Role } from '../model/index.js';
import { allOf, column, columnsOf, equal, type Select, type SqlExpression } from '../sql/index.js';
import { Columns } from './columns.js';
import { orderTerms, overHop, type Planning, plannedSql, type Row, repeatsRows, siteOf, unfolded } from './conditions.js';
import type { Binding, LoadPlan, Output, QueryPlan } from './plan.js';
import { among } from './readings.js';
import { Aliases, anchorOf, pivotSource, SelectBuilder } from './select-builder.js';
import { askedOnce } from './shared.js';

export interface PlanOptions {
  readonly dialect: Dialect;
  /** The database keeps every foreign key, since it was made here; else a key may point at nothing. */
  readonly keysHold: boolean;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
  /** Each row bears its composite key under `COMPOSITE_KEY`, to be fetched by it again. */
  readonly rowKeys?: boolean;
}

/** The plans of a query, by what they were made for. Whoever lets go of the query lets go of them. */
const made = new WeakMap<Query, { readonly model: Model; readonly options: PlanOptions; readonly plan: QueryPlan }[]>();

/**
 * The plan of a query: one select for the rows asked for, and one for each loaded relation. It is made once for a query, a
 * model and options, and is the same value from then on, so that what is made of it can be kept too.
 *
 * @throws PlanTooLarge where scopes that stand on scopes multiply beyond what a statement can hold.
 */
export function planQuery(model: Model, query: Query, options: PlanOptions): QueryPlan {
  const known = made.get(query) ?? [];
  const before = known.find((one) => one.model === model && sameOptions(one.options, options));
  if (before !== undefined) return before.plan;
  const plan = planAnew(model, query, options);
  made.set(query, [...known, { model, options, plan }]);
  return plan;
}

function sameOptions(one: PlanOptions, other: PlanOptions): boolean {
  return (
    one.dialect === other.dialect &&
    one.keysHold === other.keysHold &&
    one.kept === other.kept &&
    (one.rowKeys ?? false) === (other.rowKeys ?? false)
  );
}

function planAnew(model: Model, query: Query, options: PlanOptions): QueryPlan {
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
  const select = askedOnce(builder.build({ columns: columns.selected, orderBy, limit, offset: amount(query.offset) }));
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

const NONE_KEPT: ReadonlySet<string> = new Set();

/** What the statements of one plan share, before any is planned. */
export function planningOf(model: Model, { dialect, keysHold, kept = NONE_KEPT, rowKeys = false }: PlanOptions): Planning {
  const { values, correlates } = dialect;
  return { model, values, correlates, keysHold, kept, rowKeys, bindings: new Map(), size: 0 };
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
  const { row, stitch, place } = seek(planning, role, keys);
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
  const select = builder.build({ columns: columns.selected, orderBy, limit: null, offset: null });
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
    select: place === null ? askedOnce(select) : onlyFirst(select, place),
    outputs: columns.outputs,
    loads,
    span,
  };
}

/** Rows that are sought for all owners at once. */
interface Sought {
  readonly row: Row;
  /** What says whose a row is. */
  readonly stitch: SqlExpression;
  /** Which of an owner's rows it is, where only the first is wanted. */
  readonly place: SqlExpression | null;
}

/** A select of the rows behind a role for all owners at once, and what says whose a row is. */
function seek(planning: Planning, role: Role, keys: (operand: SqlExpression) => SqlExpression): Sought {
  const { model } = planning;
  const { way } = role;
  if (way.kind === 'path') return seekPath(planning, role, way, keys);
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
      return { row: { builder, entity: target.name, alias, pivotAlias: null }, stitch, place: null };
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
      return { row: { builder, entity: target.name, alias, pivotAlias }, stitch, place: null };
    }
  }
}

/**
 * What stands behind a path, each table joined once: the rows between are walked, and never fetched. Where one end row can be
 * reached in several ways, the pairs of owner and end come first, each once.
 */
function seekPath(
  planning: Planning,
  role: Role,
  way: Extract<Role['way'], { kind: 'path' }>,
  keys: (operand: SqlExpression) => SqlExpression,
): Sought {
  const { model } = planning;
  const all = unfolded(way.hops);
  const end = all.at(-1);
  if (end === undefined) throw new Error(`${role.name} leads nowhere`);
  // Asked for as rows of one kind, its end is narrowed to it.
  const last: Hop = { ...end, role: { ...end.role, target: role.target } };
  const hops = [...all.slice(0, -1), last];
  // The first of all is sought, and is then one of the kind or none.
  const narrowsFirst = way.first && end.role.target !== role.target;
  if (!narrowsFirst && (way.first || !repeatsRows(model, hops))) {
    const { row, stitch } = walked(planning, role, hops, keys);
    const orderBy = orderTerms(planning, row, role.orderBy);
    const place: SqlExpression | null = way.first ? { kind: 'row number', partition: partsOf(stitch), orderBy } : null;
    return { row, stitch, place };
  }
  const {
    inner,
    stitch: owner,
    reached,
    joined,
    place,
  } = narrowsFirst ? ranked(planning, role, all, keys) : pairsTo(planning, role, hops, last, keys);
  const named = (expressions: readonly SqlExpression[], stem: string) =>
    expressions.map((expression, index) => ({ expression, as: expressions.length === 1 ? stem : `${stem}_${index + 1}` }));
  const owners = named(partsOf(owner), 'owner');
  const ends = named(partsOf(reached), 'reached');
  const placed = place === null ? [] : [{ expression: place, as: 'place' }];
  const pairs = inner.build({ columns: [...owners, ...ends, ...placed], orderBy: [], limit: null, offset: null });
  const select: Select = place === null ? { ...pairs, groupBy: [...owners, ...ends].map(({ expression }) => expression) } : pairs;
  const { aliases } = inner;
  const builder = new SelectBuilder(siteOf(planning), aliases);
  const pairsAlias = aliases.claim('pairs');
  builder.startFrom({ from: { kind: 'select', select }, alias: pairsAlias, entity: null });
  const target = entityOf(model, role.target);
  const alias = aliases.claim(target.table.value.name, role.name);
  const reachedKey = columnsOf(
    pairsAlias,
    ends.map(({ as }) => as),
  );
  const anchor = joined === 'by its key' ? role.target : anchorOf(model, last.role);
  builder.joinEntity('inner', target.name, alias, () => endCondition(builder, last.role, joined, alias, reachedKey), { anchor });
  const row: Row = { builder, entity: target.name, alias, pivotAlias: null };
  if (place !== null)
    builder.conditions.push({
      kind: 'binary',
      operator: '=',
      left: column(pairsAlias, 'place'),
      right: { kind: 'number', text: '1' },
    });
  if (joined !== 'by its key, filtered' && last.filter !== null) builder.conditions.push(plannedSql(planning, row, last.filter));
  const stitch = columnsOf(
    pairsAlias,
    owners.map(({ as }) => as),
  );
  return { row, stitch, place: null };
}

type EndJoin = 'by its key' | 'by its key, filtered' | 'by the key that it holds';

function endCondition(builder: SelectBuilder, role: Role, joined: EndJoin, alias: string, end: SqlExpression): SqlExpression {
  const { way } = role;
  if (joined !== 'by the key that it holds' || way.kind !== 'child') return equal(builder.key(alias), end);
  const held = equal(builder.columns(alias, way.holder, way.columns), end);
  const mark = way.mark === null ? null : among(builder.column(alias, way.holder, way.mark.column), way.mark.values);
  return allOf([mark, held]) ?? held;
}

interface Pairs {
  readonly inner: SelectBuilder;
  readonly stitch: SqlExpression;
  readonly reached: SqlExpression;
  readonly joined: EndJoin;
  readonly place: SqlExpression | null;
}

/** The owners with the keys of the ends that they reach, each with its place among those of its owner. */
function ranked(planning: Planning, role: Role, hops: readonly Hop[], keys: (operand: SqlExpression) => SqlExpression): Pairs {
  const { row, stitch } = walked(planning, role, hops, keys);
  const orderBy = orderTerms(planning, row, role.orderBy);
  const place: SqlExpression = { kind: 'row number', partition: partsOf(stitch), orderBy };
  return { inner: row.builder, stitch, reached: row.builder.key(row.alias), joined: 'by its key, filtered', place };
}

/** The owners with the keys of the ends that they reach, or with those that the ends hold: without the table of the ends. */
function pairsTo(
  planning: Planning,
  role: Role,
  hops: readonly Hop[],
  last: Hop,
  keys: (operand: SqlExpression) => SqlExpression,
): Pairs {
  const place = null;
  const { way } = last.role;
  const before = hops.slice(0, -1);
  if (way.kind === 'pivot' && before.length === 0 && last.filter === null) {
    const builder = new SelectBuilder(siteOf(planning), new Aliases());
    const pivot = builder.aliases.claim(way.table.name);
    const { source, sought } = pivotSource(last.role, pivot, [], keys);
    builder.startFrom(source);
    const stitch = columnsOf(pivot, way.near);
    builder.conditions.push(builder.pairCondition(last.role, pivot), sought ? null : keys(stitch));
    return { inner: builder, stitch, reached: builder.farKey(last.role, pivot), joined: 'by its key', place };
  }
  if (before.length > 0 && (way.kind === 'child' || way.kind === 'key' || (way.kind === 'pivot' && last.filter === null))) {
    const { row, stitch } = walked(planning, role, before, keys);
    const { builder } = row;
    if (way.kind === 'child')
      return {
        inner: builder,
        stitch,
        reached: builder.keyAsHeld(last.role, row.alias),
        joined: 'by the key that it holds',
        place,
      };
    if (way.kind === 'key') {
      const reached = builder.heldKey(last.role, row.alias);
      return { inner: builder, stitch, reached, joined: 'by its key', place };
    }
    const pivot = builder.aliases.claim(way.table.name);
    const { source } = pivotSource(last.role, pivot, [], null);
    const near = equal(columnsOf(pivot, way.near), builder.keyAsHeld(last.role, row.alias));
    builder.join('inner', source, allOf([near, builder.pairCondition(last.role, pivot)]) ?? near);
    return { inner: builder, stitch, reached: builder.farKey(last.role, pivot), joined: 'by its key', place };
  }
  const { row, stitch } = walked(planning, role, hops, keys);
  return { inner: row.builder, stitch, reached: row.builder.key(row.alias), joined: 'by its key, filtered', place };
}

/**
 * Hops from the rows of an owner, whose keys are bound. Its own table is read only where it holds the first key, or where the
 * next rows do not hold its key as it is.
 */
function walked(
  planning: Planning,
  role: Role,
  hops: readonly Hop[],
  keys: (operand: SqlExpression) => SqlExpression,
): { row: Row; stitch: SqlExpression } {
  const [first, ...others] = hops;
  const { model } = planning;
  const way = first?.role.way;
  const isPlain =
    first !== undefined &&
    (way?.kind === 'child' || way?.kind === 'pivot') &&
    way.mark?.held == null &&
    first.role.entity === role.entity;
  if (first !== undefined && isPlain) {
    const { row, stitch } = seek(planning, first.role, keys);
    if (first.filter !== null) row.builder.conditions.push(plannedSql(planning, row, first.filter));
    return { row: others.reduce((from, hop) => overHop(planning, row.builder, from, hop), row), stitch };
  }
  const owner = entityOf(model, role.entity);
  const builder = new SelectBuilder(siteOf(planning), new Aliases());
  const alias = builder.aliases.claim(owner.table.value.name);
  builder.readFrom(owner.name, alias);
  const stitch = builder.key(alias);
  builder.conditions.push(keys(stitch));
  const start: Row = { builder, entity: owner.name, alias, pivotAlias: null };
  return { row: hops.reduce((from, hop) => overHop(planning, builder, from, hop), start), stitch };
}

function partsOf(key: SqlExpression): readonly SqlExpression[] {
  return key.kind === 'tuple' ? key.items : [key];
}

/** Of the rows of each owner the first, by their place among them. */
function onlyFirst(select: Select, place: SqlExpression): Select {
  const ranked = 'ranked';
  const inner: Select = { ...select, columns: [...select.columns, { expression: place, as: 'place' }], orderBy: [] };
  return {
    kind: 'select',
    columns: select.columns.map(({ as }) => ({ expression: column(ranked, as ?? ''), as })),
    from: { from: { kind: 'select', select: inner }, alias: ranked, entity: null },
    joins: [],
    where: { kind: 'binary', operator: '=', left: column(ranked, 'place'), right: { kind: 'number', text: '1' } },
    orderBy: [],
    limit: null,
    offset: null,
  };
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

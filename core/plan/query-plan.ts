import type { Dialect } from '../dialects/index.js';
import {
  COMPOSITE_KEY,
  type Entity,
  type Expression,
  entityOf,
  fieldOf,
  type Load,
  type Model,
  type Order,
  type Parameter,
  pivotOf,
  type Query,
  type Role,
} from '../model/index.js';
import { column, columnsOf, equal, type Select, type SqlExpression } from '../sql/index.js';
import type { ValueType } from '../values/index.js';
import { type Planning, plannedSql, type Row } from './conditions.js';
import type { Binding, LoadPlan, Output, QueryPlan } from './plan.js';
import { Aliases, pivotSource, SelectBuilder, tableSource } from './select-builder.js';

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
  const planning: Planning = {
    model,
    values: options.dialect.values,
    correlates: options.dialect.correlates,
    keysHold: options.keysHold,
    rowKeys: options.rowKeys ?? false,
    bindings: new Map(),
    size: 0,
  };
  const entity = entityOf(model, query.entity);
  const aliases = new Aliases();
  const alias = aliases.claim(entity.table.value.name);
  const builder = new SelectBuilder(model, aliases, tableSource(model, entity.name, alias), options.keysHold);
  const row: Row = { builder, entity: entity.name, alias, pivotAlias: null };
  for (const condition of query.where) builder.conditions.push(plannedSql(planning, row, condition));
  const amount = (expression: Query['limit']) => (expression === null ? null : plannedSql(planning, row, expression));

  if (query.cardinality === 'count') {
    const limited = query.limit !== null || query.offset !== null;
    const output: Output = { as: 'count', type: { kind: 'integer' }, name: 'count', pivot: null, parts: null };
    const plain = builder.build({
      columns: limited
        ? [{ expression: column(alias, entity.key.columns[0] ?? ''), as: null }]
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
      loads: [],
      bindings: bindingsOf(planning, query.parameters),
    };
  }

  const columns = new Columns(planning, row, entity);
  columns.addFields(null);
  columns.addKeyColumns();
  const loads = query.loads.map((load) => planLoad(planning, load, columns, ''));
  const orderBy = orderOf(planning, row, entity, query.orderBy.length > 0 ? query.orderBy : entity.orderBy);
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
    loads,
    bindings: bindingsOf(planning, query.parameters),
  };
}

function bindingsOf(planning: Planning, parameters: readonly Parameter[]): Binding[] {
  return Array.from(planning.bindings.values(), (binding) => {
    if (binding.from.kind !== 'parameter') return binding;
    const { from } = binding;
    const optional = parameters.find((parameter) => parameter.name === from.parameter)?.optional ?? false;
    return { ...binding, from: { ...from, optional } };
  });
}

/** The columns of a select, each taken once, with what becomes of them in the answer. */
class Columns {
  readonly selected: { expression: SqlExpression; as: string }[] = [];
  readonly outputs: Output[] = [];
  private readonly names = new Set<string>();

  constructor(
    private readonly planning: Planning,
    private readonly row: Row,
    private readonly entity: Entity,
  ) {}

  /** The named fields, or all that are not hidden; the key always, since the answer's rows are told apart by it. */
  addFields(fields: readonly string[] | null): void {
    const { entity } = this;
    const wanted = fields ?? [
      ...entity.fields.filter((field) => !field.hidden).map((field) => field.name),
      ...entity.derived.map((derived) => derived.name),
    ];
    for (const field of entity.key.fields) {
      if (wanted.includes(field.name)) continue;
      this.add(column(this.row.alias, field.column.value), field.name, field.type, field.name, null);
    }
    if (this.planning.rowKeys && entity.key.type.kind === 'composite')
      this.addComposite(columnsOf(this.row.alias, entity.key.columns), COMPOSITE_KEY, entity.key.type);
    for (const name of wanted) {
      const derived = entity.derived.find((candidate) => candidate.name === name);
      if (derived === undefined) {
        this.addStored(name, name);
      } else {
        if (derived.type.kind === 'row') {
          const { key } = entityOf(this.planning.model, derived.type.entity);
          const value = plannedSql(this.planning, this.row, derived.expression);
          if (value.kind === 'tuple') this.addComposite(value, name, key.type);
          else this.add(value, name, key.type, name, null);
          continue;
        }
        const type: ValueType =
          derived.type.kind === 'interval' || derived.type.kind === 'null' ? { kind: 'text', length: null } : derived.type;
        this.add(plannedSql(this.planning, this.row, derived.expression), name, type, name, null);
      }
    }
  }

  /** The key columns that no field declares, under their physical names: what a row points at is part of it. */
  addKeyColumns(): void {
    for (const role of this.entity.roles) {
      if (role.way.kind !== 'key') continue;
      const { fields } = entityOf(this.planning.model, role.target).key;
      for (const [index, name] of role.way.columns.entries()) {
        const part = fields[index];
        const there = [...this.entity.fields, ...this.entity.key.fields].some((field) => field.column.value === name);
        if (part === undefined || there || this.outputs.some((output) => output.name === name)) continue;
        this.add(column(this.row.alias, name), name, part.type, name, null);
      }
    }
  }

  addPivotFields(relation: string, fields: readonly string[] | null): void {
    const pivot = pivotOf(this.planning.model, relation);
    const wanted = fields ?? pivot.fields.filter((field) => !field.hidden).map((field) => field.name);
    for (const name of wanted) {
      const field = fieldOf(pivot.fields, name);
      this.add(column(this.row.pivotAlias, field.column.value), field.name, field.type, field.name, pivot.table.value.name);
    }
  }

  /** Columns that only serve to find related rows; those that are there already where there are. */
  addKey(source: string | null, names: readonly string[], { fields }: Entity['key']): string[] {
    return names.map((name, index) => {
      const there = this.selected.find(({ expression }) => sameColumn(expression, column(source, name)));
      const type = fields[index]?.type ?? { kind: 'text', length: null };
      return there?.as ?? this.add(column(source, name), name, type, null, null);
    });
  }

  /** A composite key as one value of the answer: its parts are selected, and put together when they have arrived. */
  private addComposite(key: SqlExpression, name: string, type: ValueType): void {
    const items = key.kind === 'tuple' ? key.items : [key];
    const types = type.kind === 'composite' ? type.parts : [type];
    const parts = items.map((item, index) => {
      const there = this.selected.find(({ expression }) => sameColumn(expression, item));
      return there?.as ?? this.add(item, `${name}_${index + 1}`, types[index] ?? { kind: 'text', length: null }, null, null);
    });
    this.outputs.push({ as: this.free(name), type, name, pivot: null, parts });
  }

  get keyAlias(): string {
    return this.row.alias;
  }

  private addStored(name: string, output: string | null): void {
    const field = fieldOf(this.entity.fields, name);
    this.add(column(this.row.alias, field.column.value), field.name, field.type, output, null);
  }

  private add(expression: SqlExpression, wish: string, type: ValueType, name: string | null, pivot: string | null): string {
    const as = this.free(wish);
    this.selected.push({ expression, as });
    this.outputs.push({ as, type, name, pivot, parts: null });
    return as;
  }

  private free(wish: string): string {
    let as = wish;
    for (let count = 2; this.names.has(as.toLowerCase()); count++) as = `${wish}_${count}`;
    this.names.add(as.toLowerCase());
    return as;
  }
}

function sameColumn(a: SqlExpression, b: SqlExpression): boolean {
  return a.kind === 'column' && b.kind === 'column' && a.source === b.source && a.column === b.column;
}

function planLoad(planning: Planning, load: Load, owner: Columns, above: string): LoadPlan {
  const { model } = planning;
  const { role } = load;
  const target = entityOf(model, role.target);
  const ownerEntity = entityOf(model, role.entity);
  const path = above === '' ? role.name : `${above}.${role.name}`;
  const aliases = new Aliases();
  const { key } = role.way.kind === 'key' ? target : ownerEntity;
  const types = key.fields.map((field) => planning.values.listType(field.type));
  const keys = (operand: SqlExpression): SqlExpression => ({ kind: 'in keys', operand, parameter: 'keys', types });

  let builder: SelectBuilder;
  let alias: string;
  let pivotAlias: string | null = null;
  let stitch: { source: string | null; names: readonly string[] };
  if (role.way.kind === 'pivot') {
    pivotAlias = aliases.claim(role.way.table.name);
    alias = aliases.claim(target.table.value.name, role.name);
    const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
    const { source, sought } = pivotSource(role, pivotAlias, fields, keys);
    builder = new SelectBuilder(model, aliases, source, planning.keysHold);
    builder.join({
      kind: 'inner',
      source: tableSource(model, target.name, alias),
      on: equal(columnsOf(alias, target.key.columns), columnsOf(pivotAlias, role.way.far)),
    });
    stitch = { source: pivotAlias, names: role.way.near };
    if (!sought) builder.conditions.push(keys(columnsOf(pivotAlias, role.way.near)));
  } else {
    alias = aliases.claim(target.table.value.name);
    builder = new SelectBuilder(model, aliases, tableSource(model, target.name, alias), planning.keysHold);
    stitch = { source: alias, names: role.way.kind === 'key' ? target.key.columns : role.way.columns };
    builder.conditions.push(keys(columnsOf(alias, stitch.names)));
  }
  const row: Row = { builder, entity: target.name, alias, pivotAlias };
  if (load.where !== null) builder.conditions.push(plannedSql(planning, row, load.where));

  const columns = new Columns(planning, row, target);
  columns.addFields(load.fields);
  if (load.fields === null) columns.addKeyColumns();
  if (role.way.kind === 'pivot') columns.addPivotFields(role.relation, load.fields === null ? null : (load.pivotFields ?? []));
  const loads = load.loads.map((deeper) => planLoad(planning, deeper, columns, path));
  const stitchColumns = columns.addKey(stitch.source, stitch.names, key);
  const ownerColumns = owner.addKey(owner.keyAlias, role.way.kind === 'key' ? role.way.columns : ownerEntity.key.columns, key);
  const many = role.knows === 'many';
  const stated = load.orderBy.length > 0 ? load.orderBy : role.orderBy.length > 0 ? role.orderBy : target.orderBy;
  // Owner first, so that the rows of one owner arrive together and are cut off as a run.
  const orderBy = many
    ? [
        ...stitch.names.map((name) => ({ expression: column(stitch.source, name), descending: false, nulls: false })),
        ...orderOf(planning, row, target, stated),
        ...pairOrder(planning, role, pivotAlias),
      ]
    : [];
  return {
    role: role.name,
    path,
    entity: target.name,
    many,
    ownerColumns,
    ownersDistinct: role.way.kind !== 'key',
    stitchColumns,
    keyType: key.type,
    select: builder.build({ columns: columns.selected, orderBy, limit: null, offset: null }),
    outputs: columns.outputs,
    loads,
    span: load.span,
  };
}

/** The stated order, and the key last, so that the order is total. Each value is ordered as all engines order it. */
function orderOf(planning: Planning, row: Row, entity: Entity, orders: readonly Order[]): Select['orderBy'] {
  const { values } = planning;
  const stated: SqlExpression[] = [];
  const terms = orders.flatMap(({ expression, descending }) => {
    const sql = plannedSql(planning, row, expression);
    const parts = sql.kind === 'tuple' ? sql.items : [sql];
    stated.push(...parts);
    return parts.map((part, index) => {
      const type = partType(planning, expression.type, index);
      const ordered = type === null ? part : values.ordered(type, part);
      return { expression: ordered, descending, nulls: canBeNull(planning, expression) };
    });
  });
  const rest = entity.key.fields.filter(
    ({ column: { value } }) => !stated.some((part) => sameColumn(part, column(row.alias, value))),
  );
  return [
    ...terms,
    ...rest.map(({ type, column: { value } }) => {
      return { expression: values.ordered(type, column(row.alias, value)), descending: false, nulls: false };
    }),
  ];
}

/** Where a pair may repeat, the same row comes several times: its pairs then stand in the order of their own key. */
function pairOrder({ model }: Planning, role: Role, alias: string | null): Select['orderBy'] {
  if (role.way.kind !== 'pivot' || role.way.symmetric) return [];
  const { repeats, withoutKey } = pivotOf(model, role.relation);
  return repeats && !withoutKey ? [{ expression: column(alias, 'id'), descending: false, nulls: false }] : [];
}

/** The type of a value, or of one part of the key of a row. */
function partType({ model }: Planning, type: Expression['type'], part: number): ValueType | null {
  if (type.kind === 'interval' || type.kind === 'null') return null;
  if (type.kind !== 'row') return type;
  return entityOf(model, type.entity).key.fields[part]?.type ?? null;
}

/** Only the row's own required fields surely have a value. */
function canBeNull({ model }: Planning, expression: Expression): boolean {
  if (expression.kind !== 'field' || expression.hops.length > 0) return true;
  return !fieldOf(entityOf(model, expression.entity).fields, expression.field).required;
}

import { type Expression, entityOf, fieldOf, type Hop, type Model, pivotOf, type Role } from '../model/index.js';
import { type Leaves, literalSql, toSql } from '../schema/index.js';
import { column, columnsOf, equal, type Join, number, type Select, type Source, type SqlExpression } from '../sql/index.js';
import type { EngineValues, ValueType } from '../values/index.js';
import type { Binding } from './plan.js';
import { hopCondition, pivotSource, SelectBuilder, tableSource } from './select-builder.js';

/** What the whole of a query's statements share. */
export interface Planning {
  readonly model: Model;
  readonly values: EngineValues;
  /** Whether a select in `from` can speak of the rows around it. */
  readonly correlates: boolean;
  /** The database keeps every foreign key: it was made here. */
  readonly keysHold: boolean;
  /** Each row bears its composite key, to be fetched by it again. */
  readonly rowKeys: boolean;
  readonly bindings: Map<string, Binding>;
  /** How many parts the plan has so far; scopes that stand on scopes can multiply without end. */
  size: number;
}

/** The row at hand: the source that it comes from, and its pivot's, where it was reached over one. */
export interface Row {
  readonly builder: SelectBuilder;
  readonly entity: string;
  readonly alias: string;
  readonly pivotAlias: string | null;
}

const LARGEST_PLAN = 20_000;

/** A plan that has grown beyond what a statement can hold. */
export class PlanTooLarge extends Error {}

/** An expression as SQL over the sources of a row; hops join what they need. */
export function plannedSql(planning: Planning, row: Row, expression: Expression): SqlExpression {
  planning.size += 1;
  if (planning.size > LARGEST_PLAN) throw new PlanTooLarge();
  return toSql(expression, leavesOf(planning, row));
}

function leavesOf(planning: Planning, row: Row): Leaves {
  const { model, values } = planning;
  return {
    values,
    constant: false,
    field: (expression) => {
      if (expression.kind === 'pivot field') {
        const field = fieldOf(pivotOf(model, expression.relation).fields, expression.field);
        return values.operand(field.type, column(row.pivotAlias, field.column.value));
      }
      const { alias } = row.builder.walk(row.alias, expression.hops);
      const field = fieldOf(entityOf(model, expression.entity).fields, expression.field);
      return values.operand(field.type, column(alias, field.column.value));
    },
    role: ({ hops }) => {
      const last = hops.at(-1);
      // The key of the row behind a key column stands in that column; no join is needed to read it.
      if (last?.way.kind === 'key') return columnsOf(row.builder.walk(row.alias, hops.slice(0, -1)).alias, last.way.columns);
      const target = entityOf(model, last?.target ?? row.entity);
      return columnsOf(row.builder.walk(row.alias, hops).alias, target.key.columns);
    },
    named: (expression) => {
      const last = expression.hops.at(-1);
      if (last === undefined) return plannedSql(planning, row, expression.expression);
      const { alias, sure } = row.builder.walk(row.alias, expression.hops);
      const there: Row = { builder: row.builder, entity: last.target, alias, pivotAlias: null };
      const inner = plannedSql(planning, there, expression.expression);
      if (sure) return inner;
      // Any part of a key tells whether there is a row.
      const key = column(alias, entityOf(model, last.target).key.columns[0] ?? '');
      return {
        kind: 'case',
        branches: [{ when: { kind: 'is null', operand: key, negated: true }, then: inner }],
        otherwise: null,
      };
    },
    quantified: (expression) => quantifiedSql(planning, row, expression),
    bound: (expression) => boundSql(planning, expression),
    value: (expression) => {
      if (expression.type.kind !== 'row') return literalSql(values, expression);
      const type = entityOf(model, expression.type.entity).key.type;
      return literalSql(values, { ...expression, type });
    },
  };
}

/** A bound value; a composite key is bound as one list and taken apart where it is used. */
function boundSql(
  planning: Planning,
  expression: Extract<Expression, { kind: 'parameter' | 'clock' | 'sample row' }>,
): SqlExpression {
  const name = bindingFor(planning, expression);
  const type = expression.type.kind === 'row' ? entityOf(planning.model, expression.type.entity).key.type : null;
  const { values } = planning;
  if (type?.kind === 'composite') {
    const items = type.parts.map((inner, part): SqlExpression => {
      return { kind: 'key part', parameter: name, part, type: values.listType(inner) };
    });
    return { kind: 'tuple', items };
  }
  return { kind: 'parameter', name, type: values.parameterType(boundType(planning, expression.type)) };
}

/** The type under which a value is bound: for a row, that of its key. */
function boundType({ model }: Planning, type: Expression['type']): ValueType {
  if (type.kind === 'row') return entityOf(model, type.entity).key.type;
  return type.kind === 'interval' || type.kind === 'null' ? { kind: 'text', length: null } : type;
}

function bindingFor(planning: Planning, expression: Extract<Expression, { kind: 'parameter' | 'clock' | 'sample row' }>): string {
  const { bindings } = planning;
  const [wish, from]: [string, Binding['from']] =
    expression.kind === 'clock'
      ? [expression.which, { kind: 'clock', which: expression.which }]
      : expression.kind === 'parameter'
        ? [expression.name, { kind: 'parameter', parameter: expression.name, type: expression.type, optional: false }]
        : [`${expression.entity}_${expression.row}`, { kind: 'sample row', entity: expression.entity, row: expression.row }];
  const known = Array.from(bindings.values()).find((binding) => JSON.stringify(binding.from) === JSON.stringify(from));
  if (known !== undefined) return known.name;
  const clean = wish.replace(/\W/g, '_').toLowerCase();
  let name = clean === 'keys' || clean === '' ? `value_${clean}` : clean;
  for (let count = 2; bindings.has(name); count++) name = `${clean}_${count}`;
  bindings.set(name, { name, from, type: boundType(planning, expression.type) });
  return name;
}

function quantifiedSql(planning: Planning, row: Row, expression: Extract<Expression, { kind: 'quantified' }>): SqlExpression {
  const { quantifier, hops, test } = expression;
  const counts = quantifier === 'count';
  const inner = hopsSelect(planning, row, hops, test, counts);
  if (counts) return { kind: 'scalar', select: inner };
  return { kind: 'exists', select: inner, negated: quantifier !== 'any' };
}

/** A select over a to-many path: sources joined hop by hop, each hop's conditions in its where. */
function hopsSelect(planning: Planning, row: Row, hops: readonly Hop[], test: Expression | null, counts: boolean): Select {
  const { model } = planning;
  const { aliases } = row.builder;
  let here: Row = row;
  let builder: SelectBuilder | null = null;
  for (const { role, filter } of hops) {
    const target = entityOf(model, role.target);
    const owner = entityOf(model, role.entity);
    const ownerKey = columnsOf(here.alias, owner.key.columns);
    let pivotAlias: string | null = null;
    const sources: { source: Source; on: SqlExpression }[] = [];
    if (role.way.kind === 'pivot') {
      pivotAlias = aliases.claim(role.way.table.name);
      const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
      const seek = planning.correlates ? (near: SqlExpression) => equal(near, ownerKey) : null;
      const { source, sought } = pivotSource(role, pivotAlias, fields, seek);
      sources.push({
        source,
        on: sought
          ? { kind: 'binary', operator: '=', left: number(1), right: number(1) }
          : equal(columnsOf(pivotAlias, role.way.near), ownerKey),
      });
    }
    const alias = aliases.claim(target.table.value.name, role.name);
    const on =
      role.way.kind === 'pivot'
        ? equal(columnsOf(alias, target.key.columns), columnsOf(pivotAlias, role.way.far))
        : hopCondition(model, role, here.alias, alias);
    sources.push({ source: tableSource(model, role.target, alias), on });
    for (const { source, on: condition } of sources) {
      if (builder === null) {
        builder = new SelectBuilder(model, aliases, source, planning.keysHold);
        if (!isTrivial(condition)) builder.conditions.push(condition);
      } else {
        const join: Join = { kind: 'inner', source, on: condition };
        builder.join(join);
      }
    }
    if (builder === null) break;
    here = { builder, entity: role.target, alias, pivotAlias };
    if (filter !== null) builder.conditions.push(plannedSql(planning, here, filter));
  }
  if (builder === null) throw new Error('a quantifier needs a hop');
  if (test !== null) builder.conditions.push({ kind: 'is not true', operand: plannedSql(planning, here, test) });
  const end = entityOf(model, here.entity);
  const counted: SqlExpression = repeatsRows(model, hops)
    ? { kind: 'count distinct', operand: columnsOf(here.alias, end.key.columns) }
    : { kind: 'count rows' };
  return builder.build({
    columns: [{ expression: counts ? counted : number(1), as: null }],
    orderBy: [],
    limit: null,
    offset: null,
  });
}

function isTrivial(condition: SqlExpression): boolean {
  return condition.kind === 'binary' && condition.left.kind === 'number' && condition.right.kind === 'number';
}

/** Can one end row be reached on several ways? Then it is still counted once. */
function repeatsRows(model: Model, hops: readonly Hop[]): boolean {
  return hops.some(({ role }: { role: Role }, index) => {
    if (role.way.kind === 'pivot') return index > 0 || pivotOf(model, role.relation).repeats;
    return role.way.kind === 'key' && index > 0;
  });
}

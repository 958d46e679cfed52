import {
  type Expression,
  entityOf,
  fieldOf,
  type Hop,
  isDeclared,
  isNarrowed,
  lineage,
  type Model,
  type Order,
  pivotOf,
  type Role,
  someExpression,
} from '../model/index.js';
import { type Leaves, literalSql, toSql } from '../schema/index.js';
import { allOf, anyOf, column, columnsOf, equal, number, type Select, type SqlExpression, string } from '../sql/index.js';
import type { EngineValues, ValueType } from '../values/index.js';
import type { Binding } from './plan.js';
import { among } from './readings.js';
import { anchorOf, type BuilderSite, pivotSource, SelectBuilder } from './select-builder.js';

/** What the whole of a query's statements share. */
export interface Planning {
  readonly model: Model;
  readonly values: EngineValues;
  /** Whether a select in `from` can speak of the rows around it. */
  readonly correlates: boolean;
  /** The database keeps every foreign key: it was made here. */
  readonly keysHold: boolean;
  /** The relations of which it keeps that itself, where not all do. */
  readonly kept: ReadonlySet<string>;
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
    place: 'query',
    field: (expression) => {
      if (expression.kind === 'pivot field') {
        const field = fieldOf(pivotOf(model, expression.relation).fields, expression.field);
        return values.operand(field.type, column(row.pivotAlias, field.column.value), isDeclared(planning.model, field));
      }
      const { alias } = row.builder.walk(row.alias, expression.hops);
      const field = fieldOf(entityOf(model, expression.entity).fields, expression.field);
      const stored = row.builder.reading(alias).field(field.owner, field);
      return values.operand(field.type, stored, isDeclared(planning.model, field));
    },
    role: ({ hops }) => {
      const last = hops.at(-1);
      // The key of the row behind a key column stands in that column; no join is needed to read it.
      if (last?.way.kind === 'key' && !isNarrowed(model, last))
        return row.builder.heldKey(last, row.builder.walk(row.alias, hops.slice(0, -1)).alias);
      return row.builder.key(row.builder.walk(row.alias, hops).alias);
    },
    kind: (expression) => kindSql(row, expression),
    sameRow: (expression) => sameRowSql(planning, row, expression),
    named: (expression) => {
      const last = expression.hops.at(-1);
      if (last === undefined) return plannedSql(planning, row, expression.expression);
      const { alias, sure } = row.builder.walk(row.alias, expression.hops);
      const there: Row = { builder: row.builder, entity: last.target, alias, pivotAlias: null };
      const inner = plannedSql(planning, there, expression.expression);
      if (sure) return inner;
      return {
        kind: 'case',
        branches: [{ when: { kind: 'is null', operand: firstPart(row.builder.key(alias)), negated: true }, then: inner }],
        otherwise: null,
      };
    },
    quantified: (expression) => countedOnce(planning, row, expression),
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

/** The same count of the same row is one part of the statement, however often it is named. */
function countedOnce(planning: Planning, row: Row, expression: Extract<Expression, { kind: 'quantified' }>): SqlExpression {
  if (expression.quantifier !== 'count') return quantifiedSql(planning, row, expression);
  const known = row.builder.counts;
  const name = `${row.alias}\n${row.pivotAlias ?? ''}\n${JSON.stringify(expression, (key, value: unknown) => (SPANS.has(key) ? undefined : value))}`;
  const counted = known.get(name) ?? quantifiedSql(planning, row, expression);
  known.set(name, counted);
  return counted;
}

/** Where something stands in the text makes no difference to what it is. */
const SPANS: ReadonlySet<string> = new Set(['span', 'head', 'note']);

function quantifiedSql(planning: Planning, row: Row, expression: Extract<Expression, { kind: 'quantified' }>): SqlExpression {
  const { quantifier, hops, test } = expression;
  const counts = quantifier === 'count';
  const inner = hopsSelect(planning, row, hops, test, counts);
  if (counts) return { kind: 'scalar', select: inner };
  return { kind: 'exists', select: inner, negated: quantifier !== 'any' };
}

/** What kind a row is, or whether it points at anything; never unknown. */
function kindSql({ builder, alias }: Row, expression: Extract<Expression, { kind: 'is kind' | 'points at' }>): SqlExpression {
  const there = builder.walk(alias, expression.hops);
  const test =
    expression.kind === 'is kind'
      ? builder.isKind(there.alias, expression.kinds)
      : pointsAt(builder, there.alias, expression.branches);
  return { kind: 'is true', operand: test, negated: expression.negated };
}

/**
 * Whether a role to several leads to a row: by the columns that hold the key, each compared as it stands, so that an index
 * finds it. Unknown where they hold none.
 */
function sameRowSql(planning: Planning, row: Row, expression: Extract<Expression, { kind: 'same row' }>): SqlExpression {
  const { builder } = row;
  const { branch, branches, hops } = expression;
  const { way } = branch;
  if (way.kind !== 'key') throw new Error(`${branch.name} holds no key`);
  const { alias } = builder.walk(row.alias, hops);
  const held = builder.columns(alias, branch.entity, way.columns);
  const key = plannedSql(planning, row, expression.row);
  const kindTold = !isNarrowed(planning.model, branch) || (way.mark !== null && marksKind(planning.model, branch));
  const ofKind = kindTold ? null : kindSql(row, { ...expression, kind: 'is kind', ...narrowedBy(planning.model, branch, hops) });
  if (way.mark === null) {
    const others = branches.flatMap(({ way: other, entity }): SqlExpression[] => {
      if (other.kind !== 'key' || other.columns.join() === way.columns.join()) return [];
      return [{ kind: 'is null', operand: firstPart(builder.columns(alias, entity, other.columns)), negated: false }];
    });
    return allOf([equal(held, key), ...others, ofKind]) ?? { kind: 'null' };
  }
  const mark = among(builder.column(alias, branch.entity, way.mark.column), way.mark.values);
  const asHeld = way.mark.held === null ? key : keyAsText(planning, branch, expression.row, key);
  return allOf([mark, equal(held, asHeld), ofKind]) ?? { kind: 'null' };
}

/** Each kind with a table of its own has a mark of its own. */
function marksKind(model: Model, { target }: Role): boolean {
  return entityOf(model, target).kinds?.storage.kind === 'separate tables';
}

/** The hops to the row behind a branch, and the kinds that it may be of. */
function narrowedBy(model: Model, branch: Role, hops: readonly Role[]) {
  const relation = model.relations.get(branch.relation);
  const targets = relation?.kind === 'polymorphic' ? relation.targets.map(({ entity }) => entity) : [];
  const base = lineage(model, branch.target).find(({ name }) => targets.includes(name))?.name ?? branch.target;
  const kinds = entityOf(model, branch.target).kinds?.concrete.map(({ entity }) => entity) ?? [];
  return { hops: [...hops, { ...branch, target: base }], kinds, negated: false };
}

/** A key as a column for keys of several types holds it: one that stands in the text is written so at once. */
function keyAsText({ model, values }: Planning, { target }: Role, row: Expression, key: SqlExpression): SqlExpression {
  const { type } = entityOf(model, target).key;
  const plain = type.kind === 'integer' || type.kind === 'bigint' || type.kind === 'uuid' || type.kind === 'text';
  if (row.kind === 'value' && row.value !== null && plain) return string(String(row.value));
  return values.toText(type, key);
}

function pointsAt(builder: SelectBuilder, alias: string, branches: readonly Role[]): SqlExpression {
  const marks = new Map<string, string[]>();
  const filled: SqlExpression[] = [];
  for (const { way, entity } of branches) {
    if (way.kind !== 'key') continue;
    if (way.mark === null) {
      filled.push({ kind: 'is null', operand: firstPart(builder.columns(alias, entity, way.columns)), negated: true });
    } else {
      const key = `${entity}\n${way.mark.column}`;
      marks.set(key, [...(marks.get(key) ?? []), ...way.mark.values]);
    }
  }
  const marked = Array.from(marks, ([key, values]) => {
    const [entity = '', name = ''] = key.split('\n');
    return among(builder.column(alias, entity, name), values);
  });
  return anyOf([...marked, ...filled]) ?? { kind: 'null' };
}

/** Any part of a key tells whether there is a row. */
function firstPart(key: SqlExpression): SqlExpression {
  return key.kind === 'tuple' ? (key.items[0] ?? { kind: 'null' }) : key;
}

/** A select over a to-many path: sources joined hop by hop, each hop's conditions in its where. */
function hopsSelect(planning: Planning, row: Row, hops: readonly Hop[], test: Expression | null, counts: boolean): Select {
  const { builder, here } = joinHops(planning, row, hops);
  if (test !== null) builder.conditions.push({ kind: 'is true', operand: plannedSql(planning, here, test), negated: true });
  const counted: SqlExpression = repeatsRows(planning.model, unfolded(hops))
    ? { kind: 'count distinct', operand: builder.key(here.alias) }
    : { kind: 'count rows' };
  return builder.build({
    columns: [{ expression: counts ? counted : number(1), as: null }],
    orderBy: [],
    limit: null,
    offset: null,
  });
}

/** Hops of which none is a path to many rows: such a path is walked hop by hop. */
export function unfolded(hops: readonly Hop[]): Hop[] {
  return hops.flatMap(({ role, filter }): Hop[] => {
    const { way } = role;
    if (way.kind !== 'path' || way.first) return [{ role, filter }];
    const inner = unfolded(way.hops);
    const last = inner.at(-1);
    if (last === undefined) return [];
    // Asked for as rows of one kind, its end is narrowed to it.
    const end = { ...last.role, target: role.target };
    return [...inner.slice(0, -1), { role: end, filter: bothOf(last.filter, filter) }];
  });
}

function bothOf(left: Expression | null, right: Expression | null): Expression | null {
  if (left === null || right === null) return left ?? right;
  return { kind: 'binary', operator: 'and', left, right, type: { kind: 'boolean' }, span: right.span };
}

/** A select that begins at the first hop's rows, bound to a row around it, and joins the others hop by hop. */
export function joinHops(planning: Planning, row: Row, hops: readonly Hop[]): { builder: SelectBuilder; here: Row } {
  const builder = new SelectBuilder(siteOf(planning), row.builder.aliases);
  const here = unfolded(hops).reduce((from, hop) => overHop(planning, builder, from, hop), row);
  if (!builder.started) throw new Error('a quantifier needs a hop');
  return { builder, here };
}

/** Joins what stands behind one hop; the first is where the select begins. */
export function overHop(planning: Planning, builder: SelectBuilder, from: Row, { role, filter }: Hop): Row {
  const { model } = planning;
  const target = entityOf(model, role.target);
  const anchor = anchorOf(model, role);
  let pivotAlias: string | null = null;
  const ownerKey = () => from.builder.keyAsHeld(role, from.alias);
  if (role.way.kind === 'pivot') {
    const pivot = builder.aliases.claim(role.way.table.name);
    pivotAlias = pivot;
    const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
    // A select in “from” may speak of the rows around the whole statement, and not of those that stand beside it.
    const around = planning.correlates && !builder.started;
    const seek = around ? (near: SqlExpression) => equal(near, ownerKey()) : null;
    const { source, sought } = pivotSource(role, pivot, fields, seek);
    const on = [sought ? null : equal(columnsOf(pivot, role.way.near), ownerKey()), builder.pairCondition(role, pivot)];
    if (builder.started) builder.join('inner', source, allOf(on) ?? { kind: 'boolean', value: true });
    else {
      builder.startFrom(source);
      builder.conditions.push(...on);
    }
    const alias = builder.aliases.claim(target.table.value.name, role.name);
    builder.joinEntity('inner', role.target, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)), { anchor });
    return filteredRow(planning, { builder, entity: role.target, alias, pivotAlias }, filter);
  }
  const alias = builder.aliases.claim(target.table.value.name, role.name);
  const condition = () => hopBetween(builder, from, role, alias);
  if (builder.started) builder.joinEntity('inner', role.target, alias, condition, { anchor });
  else {
    builder.readFrom(role.target, alias, anchor);
    builder.conditions.push(condition());
  }
  return filteredRow(planning, { builder, entity: role.target, alias, pivotAlias }, filter);
}

/** The condition between rows of two selects, of which the outer one may have what the key stands in. */
function hopBetween(builder: SelectBuilder, from: Row, role: Role, alias: string): SqlExpression {
  const { way } = role;
  switch (way.kind) {
    case 'key':
      return from.builder.pointsTo(role, from.alias, builder.key(alias));
    case 'child': {
      const held = equal(builder.columns(alias, way.holder, way.columns), from.builder.keyAsHeld(role, from.alias));
      const mark = way.mark === null ? null : among(builder.column(alias, way.holder, way.mark.column), way.mark.values);
      return allOf([mark, held]) ?? held;
    }
    case 'path':
      return equal(builder.key(alias), builder.site.firstKey(from.builder, role.entity, from.alias, role));
    case 'pivot':
      throw new Error(`${role.name} leads over a pivot, which needs a source of its own`);
  }
}

function filteredRow(planning: Planning, row: Row, filter: Expression | null): Row {
  if (filter !== null) row.builder.conditions.push(plannedSql(planning, row, filter));
  return row;
}

/** What builders of a plan's selects share. */
export function siteOf(planning: Planning): BuilderSite {
  const { model, values, keysHold, kept } = planning;
  return {
    model,
    values,
    keysHold,
    kept,
    firstKey: (builder, entity, alias, role) => firstKey(planning, { builder, entity, alias, pivotAlias: null }, role),
  };
}

/** The key of the one row that a path with `first` leads to: a select of its own, bound to the row at hand. */
function firstKey(planning: Planning, row: Row, role: Role): SqlExpression {
  if (role.way.kind !== 'path') throw new Error(`${role.name} is no path`);
  const { builder, here } = joinHops(planning, row, role.way.hops);
  const orderBy = orderTerms(planning, here, role.orderBy);
  const key = builder.key(here.alias);
  const parts = key.kind === 'tuple' ? key.items : [key];
  const select = builder.build({
    columns: parts.map((expression) => ({ expression, as: null })),
    orderBy: role.way.first ? orderBy : [],
    limit: number(1),
    offset: null,
  });
  return { kind: 'scalar', select };
}

/** Terms of an order, and the key of the row last, so that the order is total. Each value is ordered as all engines order it. */
export function orderTerms(planning: Planning, row: Row, orders: readonly Order[]): Select['orderBy'] {
  const { model, values } = planning;
  const stated: SqlExpression[] = [];
  const terms = orders.flatMap(({ expression, descending }) => {
    // What is the same for all rows orders none; a number alone would be taken for a column's place.
    if (!readsRow(expression)) return [];
    const sql = plannedSql(planning, row, expression);
    const parts = sql.kind === 'tuple' ? sql.items : [sql];
    stated.push(...parts);
    return parts.map((part, index) => {
      const type = partType(planning, expression.type, index);
      const ordered = type === null ? part : values.ordered(type, part);
      return { expression: ordered, descending, nulls: canBeNull(planning, row, expression) };
    });
  });
  const key = row.builder.key(row.alias);
  const parts = key.kind === 'tuple' ? key.items : [key];
  const { fields } = entityOf(model, row.entity).key;
  return [
    ...terms,
    ...parts.flatMap((part, index) => {
      const type = fields[index]?.type;
      if (type === undefined || stated.some((other) => sameColumn(other, part))) return [];
      return [{ expression: values.ordered(type, part), descending: false, nulls: false }];
    }),
  ];
}

/** Does an expression speak of the row at hand at all? */
function readsRow(expression: Expression): boolean {
  return someExpression(
    expression,
    ({ kind }) =>
      ![
        'value',
        'clock',
        'parameter',
        'sample row',
        'interval',
        'negate',
        'binary',
        'not',
        'in',
        'between',
        'like',
        'is null',
        'function',
        'case',
      ].includes(kind),
  );
}

/** Are two expressions the same column of the same source? */
export function sameColumn(a: SqlExpression, b: SqlExpression): boolean {
  return a.kind === 'column' && b.kind === 'column' && a.source === b.source && a.column === b.column;
}

/** The type of a value, or of one part of the key of a row. */
function partType({ model }: Planning, type: Expression['type'], part: number): ValueType | null {
  if (type.kind === 'interval' || type.kind === 'null') return null;
  if (type.kind !== 'row') return type;
  return entityOf(model, type.entity).key.fields[part]?.type ?? null;
}

/** Required fields surely have a value: those of the row itself, and of a row that is surely there. */
function canBeNull({ model }: Planning, row: Row, expression: Expression): boolean {
  if (expression.kind !== 'field') return true;
  const { required } = fieldOf(entityOf(model, expression.entity).fields, expression.field);
  return !required || !row.builder.walk(row.alias, expression.hops).sure;
}

/** Can one end row be reached on several ways? Then it is still counted once. */
export function repeatsRows(model: Model, hops: readonly Hop[]): boolean {
  return hops.some(({ role }: { role: Role }, index) => {
    if (role.way.kind === 'pivot') return index > 0 || pivotOf(model, role.relation).repeats;
    return role.way.kind !== 'child' && index > 0;
  });
}

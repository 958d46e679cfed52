import type { Dialect } from '../../dialects/index.js';
import {
  type Constant,
  type ExpressionType,
  entityOf,
  fieldOf,
  isDeclared,
  isNarrowed,
  type Model,
  pivotOf,
  type Role,
} from '../../model/index.js';
import type { Access, AccessId, PlannedExpression, PlannedOrder, PlannedPart } from '../../plan/index.js';
import { type Leaves, literalSql, toSql } from '../../schema/index.js';
import { allOf, anyOf, column, columnsOf, equal, number, type Select, type SqlExpression, string } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Binding } from './compiled.js';
import { type Compiling, entityAt, rowAt, type SourceRow } from './compiling.js';
import { among } from './readings.js';
import { anchorOf, overRole, pivotSource, type RoleAccess, SelectBuilder } from './select-builder.js';
import { storedSql } from './stored-parts.js';

/** A planned expression as SQL over the sources of a row; hops join what they need. */
export function compiled(compiling: Compiling, row: SourceRow, expression: PlannedExpression): SqlExpression {
  return toSql(expression, leavesOf(compiling, row));
}

function leavesOf(compiling: Compiling, row: SourceRow): Leaves<PlannedPart> {
  const { model, values } = compiling;
  return {
    values,
    place: 'query',
    row: (part) => partSql(compiling, row, part),
    bound: (expression) => boundSql(compiling, expression),
    value: (expression) => {
      if (expression.type.kind !== 'row') return literalSql(values, expression);
      const type = entityOf(model, expression.type.entity).key.type;
      return literalSql(values, { ...expression, type });
    },
  };
}

function partSql(compiling: Compiling, row: SourceRow, part: PlannedPart): SqlExpression {
  const { model, values } = compiling;
  const { builder } = row;
  switch (part.kind) {
    case 'pivot field': {
      const field = fieldOf(pivotOf(model, part.relation).fields, part.field);
      return values.operand(field.type, column(builder.at(part.access).alias, field.column.value), isDeclared(model, field));
    }
    case 'field': {
      const { alias } = builder.at(part.access);
      const field = fieldOf(entityOf(model, part.entity).fields, part.field);
      const stored = builder.reading(alias).field(field.owner, field);
      return values.operand(field.type, stored, isDeclared(model, field));
    }
    case 'role':
      return keySql(compiling, row, part.access);
    case 'is kind':
      return kindSql(row, part);
    case 'points at': {
      const { alias } = builder.at(part.access);
      return { kind: 'is true', operand: pointsAt(builder, alias, part.branches.map(roleOf)), negated: part.negated };
    }
    case 'same row':
      return sameRowSql(compiling, row, part);
    case 'named':
      return namedSql(compiling, row, part);
    case 'quantified':
      return countedOnce(compiling, row, part);
    case 'stored':
      return storedSql(compiling, row, part);
  }
}

function roleOf(access: Access): Role {
  return overRole(access).over.role;
}

/** The key of the row of an access. That of the row behind a key column stands in that column: no join is needed to read it. */
function keySql({ model, accesses }: Compiling, { builder, access: own }: SourceRow, id: AccessId): SqlExpression {
  const access = accesses.get(id);
  if (access !== undefined && id !== own.id && access.over.kind === 'role') {
    const { role, from } = access.over;
    if (role.way.kind === 'key' && !isNarrowed(model, role)) return builder.heldKey(role, builder.at(from).alias);
  }
  return builder.key(builder.at(id).alias);
}

/** A derived field or a scope of the row of an access; null where there is no such row. */
function namedSql(compiling: Compiling, row: SourceRow, part: Extract<PlannedPart, { kind: 'named' }>): SqlExpression {
  if (part.access === row.access.id) return compiled(compiling, row, part.expression);
  const { builder } = row;
  const { alias, sure } = builder.at(part.access);
  const access = builder.site.access(part.access);
  const inner = compiled(compiling, { builder, access, alias }, part.expression);
  if (sure) return inner;
  return {
    kind: 'case',
    branches: [{ when: { kind: 'is null', operand: firstPart(builder.key(alias)), negated: true }, then: inner }],
    otherwise: null,
  };
}

/** A bound value; a composite key is bound as one list and taken apart where it is used. */
function boundSql(
  compiling: Compiling,
  expression: Extract<Constant, { kind: 'parameter' | 'clock' | 'sample row' }>,
): SqlExpression {
  const name = bindingFor(compiling, expression);
  const type = expression.type.kind === 'row' ? entityOf(compiling.model, expression.type.entity).key.type : null;
  const { values } = compiling;
  if (type?.kind === 'composite') {
    const items = type.parts.map((inner, part): SqlExpression => {
      return { kind: 'key part', parameter: name, part, type: values.listType(inner) };
    });
    return { kind: 'tuple', items };
  }
  return { kind: 'parameter', name, type: values.parameterType(boundType(compiling, expression.type)) };
}

/** The type under which a value is bound: for a row, that of its key. */
function boundType({ model }: Compiling, type: ExpressionType): ValueType {
  if (type.kind === 'row') return entityOf(model, type.entity).key.type;
  return type.kind === 'interval' || type.kind === 'null' ? { kind: 'text', length: null } : type;
}

function bindingFor(compiling: Compiling, expression: Extract<Constant, { kind: 'parameter' | 'clock' | 'sample row' }>): string {
  const { bindings } = compiling;
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
  bindings.set(name, { name, from, type: boundType(compiling, expression.type) });
  return name;
}

type Quantified = Extract<PlannedPart, { kind: 'quantified' }>;

/** The same count of the same row is one part of the statement, however often it is named. */
function countedOnce(compiling: Compiling, row: SourceRow, part: Quantified): SqlExpression {
  if (part.quantifier !== 'count') return quantifiedSql(compiling, row, part);
  const known = row.builder.counts;
  const counted = known.get(part) ?? quantifiedSql(compiling, row, part);
  known.set(part, counted);
  return counted;
}

function quantifiedSql(compiling: Compiling, row: SourceRow, { quantifier, steps, test }: Quantified): SqlExpression {
  const counts = quantifier === 'count';
  const inner = stepsSelect(compiling, row, steps, test, counts);
  if (counts) return { kind: 'scalar', select: inner };
  return { kind: 'exists', select: inner, negated: quantifier !== 'any' };
}

/** What kind a row is; never unknown. */
function kindSql({ builder }: SourceRow, { access, kinds, negated }: Extract<PlannedPart, { kind: 'is kind' }>): SqlExpression {
  return { kind: 'is true', operand: builder.isKind(builder.at(access).alias, kinds), negated };
}

/**
 * Whether a role to several leads to a row: by the columns that hold the key, each compared as it stands, so that an index
 * finds it. Unknown where they hold none.
 */
function sameRowSql(compiling: Compiling, row: SourceRow, part: Extract<PlannedPart, { kind: 'same row' }>): SqlExpression {
  const { builder } = row;
  const branch = roleOf(part.branch);
  const { way } = branch;
  if (way.kind !== 'key') throw new Error(`${branch.name} holds no key`);
  const { alias } = builder.at(part.access);
  const held = builder.columns(alias, branch.entity, way.columns);
  const key = compiled(compiling, row, part.row);
  const ofKind = part.ofKind === null ? null : compiled(compiling, row, part.ofKind);
  if (way.mark === null) {
    const others = part.branches.map(roleOf).flatMap(({ way: other, entity }): SqlExpression[] => {
      if (other.kind !== 'key' || other.columns.join() === way.columns.join()) return [];
      return [{ kind: 'is null', operand: firstPart(builder.columns(alias, entity, other.columns)), negated: false }];
    });
    return allOf([equal(held, key), ...others, ofKind]) ?? { kind: 'null' };
  }
  const mark = among(builder.column(alias, branch.entity, way.mark.column), way.mark.values);
  const asHeld = way.mark.held === null ? key : keyAsText(compiling, branch, part.row, key);
  return allOf([mark, equal(held, asHeld), ofKind]) ?? { kind: 'null' };
}

/** A key as a column for keys of several types holds it: one that stands in the text is written so at once. */
function keyAsText({ model, values }: Compiling, { target }: Role, row: PlannedExpression, key: SqlExpression): SqlExpression {
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

/** A select over a to-many path: sources joined step by step, each step's conditions in its where. */
function stepsSelect(
  compiling: Compiling,
  row: SourceRow,
  steps: readonly Access[],
  test: PlannedExpression | null,
  counts: boolean,
): Select {
  const { builder, here } = joinSteps(compiling, row, steps);
  if (test !== null) builder.conditions.push({ kind: 'is true', operand: compiled(compiling, here, test), negated: true });
  const counted: SqlExpression = repeatsRows(compiling.model, steps.map(roleOf))
    ? { kind: 'count distinct', operand: builder.key(here.alias) }
    : { kind: 'count rows' };
  return builder.build({
    columns: [{ expression: counts ? counted : number(1), as: null }],
    orderBy: [],
    limit: null,
    offset: null,
  });
}

/** A select that begins at the first step's rows, bound to a row around it, and joins the others step by step. */
export function joinSteps(
  compiling: Compiling,
  row: SourceRow,
  steps: readonly Access[],
): { readonly builder: SelectBuilder; readonly here: SourceRow } {
  const builder = new SelectBuilder(compiling.site, row.builder.aliases);
  const here = steps.map(overRole).reduce((from, step) => overStep(compiling, builder, from, step), row);
  if (!builder.started) throw new Error('a quantifier needs a step');
  return { builder, here };
}

/** Joins what stands behind one step; the first is where the select begins. */
export function overStep(compiling: Compiling, builder: SelectBuilder, from: SourceRow, step: RoleAccess): SourceRow {
  const { model } = compiling;
  const { role, pairs } = step.over;
  const target = entityOf(model, role.target);
  const anchor = anchorOf(model, role);
  const ownerKey = () => from.builder.keyAsHeld(role, from.alias);
  if (role.way.kind === 'pivot' && pairs !== null) {
    const pivot = builder.aliases.claim(role.way.table.name);
    const fields = pivotOf(model, role.relation).fields.map((field) => field.column.value);
    // A select in “from” may speak of the rows around the whole statement, and not of those that stand beside it.
    const around = compiling.correlates && !builder.started;
    const seek = around ? (near: SqlExpression) => equal(near, ownerKey()) : null;
    const { source, sought } = pivotSource(role, pivot, fields, seek);
    const on = [sought ? null : equal(columnsOf(pivot, role.way.near), ownerKey()), builder.pairCondition(role, pivot)];
    if (builder.started) builder.join('inner', source, allOf(on) ?? { kind: 'boolean', value: true });
    else {
      builder.startFrom(source);
      builder.conditions.push(...on);
    }
    builder.put(pairs, pivot);
    const alias = builder.aliases.claim(target.table.value.name, role.name);
    builder.joinEntity('inner', role.target, alias, () => equal(builder.key(alias), builder.farKey(role, pivot)), { anchor });
    return filteredRow(compiling, rowAt(builder, step, alias));
  }
  const alias = builder.aliases.claim(target.table.value.name, role.name);
  const condition = () => stepCondition(builder, from, step, alias);
  if (builder.started) builder.joinEntity('inner', role.target, alias, condition, { anchor });
  else {
    builder.readFrom(role.target, alias, anchor);
    builder.conditions.push(condition());
  }
  return filteredRow(compiling, rowAt(builder, step, alias));
}

/** The condition between rows of two selects, of which the outer one may have what the key stands in. */
function stepCondition(builder: SelectBuilder, from: SourceRow, step: RoleAccess, alias: string): SqlExpression {
  const { role } = step.over;
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
      return equal(builder.key(alias), builder.site.firstKey(from.builder, from.alias, step));
    case 'pivot':
      throw new Error(`${role.name} leads over a pivot, which needs a source of its own`);
  }
}

/** A row for which the conditions of its access hold. */
export function filteredRow(compiling: Compiling, row: SourceRow): SourceRow {
  for (const condition of row.access.conditions) row.builder.conditions.push(compiled(compiling, row, condition));
  return row;
}

/** What a plan is compiled for. */
export interface CompileOptions {
  readonly model: Model;
  readonly dialect: Dialect;
  /** The database was made here: it keeps every foreign key and check; else a key may point at nothing. */
  readonly madeHere: boolean;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
}

const NONE_KEPT: ReadonlySet<string> = new Set();

/** What the statements of one plan share, before any is compiled. */
export function compilingOf(
  { model, dialect, madeHere, kept = NONE_KEPT }: CompileOptions,
  accesses: readonly Access[],
): Compiling {
  const { values, correlates, print } = dialect;
  const byId = new Map(accesses.map((access) => [access.id, access]));
  const access = (id: AccessId): Access => {
    const found = byId.get(id);
    if (found === undefined) throw new Error(`the plan has no access ${id}`);
    return found;
  };
  const compiling: Compiling = {
    model,
    values,
    print,
    correlates,
    accesses: byId,
    bindings: new Map(),
    sqlOf: (row, expression) => compiled(compiling, row, expression),
    site: {
      model,
      values,
      madeHere,
      kept,
      access,
      firstKey: (builder, alias, { over: { role, from, steps } }) =>
        firstKey(compiling, { builder, access: access(from), alias }, role, steps),
    },
  };
  return compiling;
}

/** The key of the one row that a path leads to: a select of its own, bound to the row at hand. */
function firstKey(compiling: Compiling, row: SourceRow, role: Role, steps: readonly Access[]): SqlExpression {
  if (role.way.kind !== 'path') throw new Error(`${role.name} is no path`);
  const { builder, here } = joinSteps(compiling, row, steps);
  const orderBy = orderTerms(compiling, here, here.access.order);
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
export function orderTerms(compiling: Compiling, row: SourceRow, orders: readonly PlannedOrder[]): Select['orderBy'] {
  const { model, values } = compiling;
  const stated: SqlExpression[] = [];
  const terms = orders.flatMap(({ expression, descending }) => {
    const sql = compiled(compiling, row, expression);
    const parts = sql.kind === 'tuple' ? sql.items : [sql];
    stated.push(...parts);
    return parts.map((part, index) => {
      const type = partType(compiling, expression.type, index);
      const ordered = type === null ? part : values.ordered(type, part);
      return { expression: ordered, descending, nulls: canBeNull(compiling, row, expression) };
    });
  });
  const key = row.builder.key(row.alias);
  const parts = key.kind === 'tuple' ? key.items : [key];
  const { fields } = entityAt(model, row.access).key;
  return [
    ...terms,
    ...parts.flatMap((part, index) => {
      const type = fields[index]?.type;
      if (type === undefined || stated.some((other) => sameColumn(other, part))) return [];
      return [{ expression: values.ordered(type, part), descending: false, nulls: false }];
    }),
  ];
}

/** Are two expressions the same column of the same source? */
export function sameColumn(a: SqlExpression, b: SqlExpression): boolean {
  return a.kind === 'column' && b.kind === 'column' && a.source === b.source && a.column === b.column;
}

/** The type of a value, or of one part of the key of a row. */
function partType({ model }: Compiling, type: ExpressionType, part: number): ValueType | null {
  if (type.kind === 'interval' || type.kind === 'null') return null;
  if (type.kind !== 'row') return type;
  return entityOf(model, type.entity).key.fields[part]?.type ?? null;
}

/** Required fields surely have a value: those of the row itself, and of a row that is surely there. */
function canBeNull({ model }: Compiling, row: SourceRow, expression: PlannedExpression): boolean {
  if (expression.kind !== 'field') return true;
  const { required } = fieldOf(entityOf(model, expression.entity).fields, expression.field);
  return !required || !row.builder.at(expression.access).sure;
}

/** Can one end row be reached on several ways? Then it is still counted once. */
export function repeatsRows(model: Model, roles: readonly Role[]): boolean {
  return roles.some((role, index) => {
    if (role.way.kind === 'pivot') return index > 0 || pivotOf(model, role.relation).repeats;
    return role.way.kind !== 'child' && index > 0;
  });
}

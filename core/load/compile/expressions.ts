import { entityOf, fieldOf, isDeclared, isNarrowed, pivotOf, type Role } from '../../model/index.js';
import type { Access, AccessId, PlannedExpression, PlannedPart } from '../../plan/index.js';
import { type Leaves, literalSql, toSql } from '../../schema/index.js';
import {
  allOf,
  anyOf,
  column,
  equal,
  firstItemOf,
  itemsOf,
  number,
  type Select,
  type SqlExpression,
  string,
} from '../../sql/index.js';
import { boundSql } from './bound.js';
import { type Compiling, type GroupSource, rowAt, type SourceRow } from './compiling.js';
import { among } from './readings.js';
import { overRole, SelectBuilder } from './select-builder.js';
import { joinSteps, repeatsRows } from './steps.js';
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
      return { kind: 'is true', operand: pointsAt(compiling, builder, alias, part.branches), negated: part.negated };
    }
    case 'same row':
      return sameRowSql(compiling, row, part);
    case 'named':
      return namedSql(compiling, row, part);
    case 'quantified':
      return part.quantifier === 'count'
        ? once(row, part, () => quantifiedSql(compiling, row, part))
        : quantifiedSql(compiling, row, part);
    case 'aggregated':
      return once(row, part, () => aggregatedSql(compiling, row, part));
    case 'of group':
      return groupOf(row).aggregate(part);
    case 'group term':
      return groupOf(row).term(part.term);
    case 'stored':
      return storedSql(compiling, row, part);
  }
}

function roleOf(access: Access): Role {
  return overRole(access).over.role;
}

/** The key of the row of an access. That of the row behind a key column stands in that column: no join is needed to read it. */
function keySql({ model, accesses, site }: Compiling, { builder, access: own }: SourceRow, id: AccessId): SqlExpression {
  const access = accesses.get(id);
  // Whether the row may be seen, its own table says.
  if (access !== undefined && id !== own.id && access.over.kind === 'role' && !site.isWalled(id)) {
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
    branches: [{ when: { kind: 'is null', operand: firstItemOf(builder.key(alias)), negated: true }, then: inner }],
    otherwise: null,
  };
}

type Quantified = Extract<PlannedPart, { kind: 'quantified' }>;

/** The same count or aggregate of the same row is one part of the statement, however often it is named. */
function once({ builder: { counts } }: SourceRow, part: PlannedPart, made: () => SqlExpression): SqlExpression {
  const sql = counts.get(part) ?? made();
  counts.set(part, sql);
  return sql;
}

function groupOf({ group }: SourceRow): GroupSource {
  if (group === undefined) throw new Error('no group of rows is spoken of here');
  return group;
}

/**
 * What comes of the values behind a path. A row that can be reached on several ways has its value once: it is then sought among
 * those that are reached.
 */
function aggregatedSql(compiling: Compiling, row: SourceRow, part: Extract<PlannedPart, { kind: 'aggregated' }>): SqlExpression {
  const { steps, value, aggregate } = part;
  const last = steps.at(-1);
  const { type } = value;
  if (last === undefined || type.kind === 'row' || type.kind === 'interval' || type.kind === 'null')
    throw new Error(`${aggregate} is taken of values`);
  const rowsOnce = !speaksOfPair(value) && repeatsRows(compiling.model, steps.map(roleOf));
  const here = rowsOnce ? reachedOnce(compiling, row, steps, last) : joinSteps(compiling, row, steps).here;
  const expression = compiling.values.aggregate(aggregate, { sql: compiled(compiling, here, value), type });
  return { kind: 'scalar', select: here.builder.build({ columns: [{ expression, as: null }], ...WHOLE }) };
}

const WHOLE = { orderBy: [], limit: null, offset: null };

function speaksOfPair(value: PlannedExpression): boolean {
  return value.kind === 'pivot field';
}

/** The rows whose keys a path reaches, each once. */
function reachedOnce(compiling: Compiling, row: SourceRow, steps: readonly Access[], last: Access): SourceRow {
  const { role } = overRole(last).over;
  const target = entityOf(compiling.model, role.target);
  const select = keysReached(compiling, row, steps, last);
  const around = new SelectBuilder(compiling.site, row.builder.aliases);
  const alias = around.aliases.claim(target.table.value.name, role.name);
  around.readFrom(role.target, alias);
  around.conditions.push({ kind: 'in select', operand: around.key(alias), select });
  return rowAt(around, last, alias);
}

/** The keys that a path reaches; those that stand in the rows before its end are read there. */
function keysReached(compiling: Compiling, row: SourceRow, steps: readonly Access[], last: Access): Select {
  const { role } = overRole(last).over;
  const before = steps.slice(0, -1);
  const isHeld = role.way.kind === 'key' && compiling.conditionsOf(last).length === 0 && !isNarrowed(compiling.model, role);
  const { builder, here } = joinSteps(compiling, row, isHeld && before.length > 0 ? before : steps);
  const key = isHeld && before.length > 0 ? builder.heldKey(role, here.alias) : builder.key(here.alias);
  return builder.build({ columns: itemsOf(key).map((expression) => ({ expression, as: null })), ...WHOLE });
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
  if ([part.branch, ...part.branches].some(({ id }) => compiling.site.isWalled(id)))
    return sameRowSeen(compiling, row, part, key, ofKind);
  if (way.mark === null) {
    const others = part.branches.map(roleOf).flatMap(({ way: other, entity }): SqlExpression[] => {
      if (other.kind !== 'key' || other.columns.join() === way.columns.join()) return [];
      return [{ kind: 'is null', operand: firstItemOf(builder.columns(alias, entity, other.columns)), negated: false }];
    });
    return allOf([equal(held, key), ...others, ofKind]) ?? { kind: 'null' };
  }
  const mark = among(builder.column(alias, branch.entity, way.mark.column), way.mark.values);
  const asHeld = way.mark.held === null ? key : keyAsText(compiling, branch, part.row, key);
  return allOf([mark, equal(held, asHeld), ofKind]) ?? { kind: 'null' };
}

/** The same where walls may hide what the role leads to: what is hidden leads nowhere. */
function sameRowSeen(
  compiling: Compiling,
  { builder }: SourceRow,
  part: Extract<PlannedPart, { kind: 'same row' }>,
  key: SqlExpression,
  ofKind: SqlExpression | null,
): SqlExpression {
  const { alias } = builder.at(part.access);
  const there = builder.key(builder.at(part.branch.id).alias);
  const seen = pointsAt(compiling, builder, alias, part.branches);
  const isIt: SqlExpression = {
    kind: 'is true',
    operand: allOf([equal(there, key), ofKind]) ?? { kind: 'null' },
    negated: false,
  };
  return { kind: 'case', branches: [{ when: seen, then: isIt }], otherwise: null };
}

/** A key as a column for keys of several types holds it: one that stands in the text is written so at once. */
function keyAsText({ model, values }: Compiling, { target }: Role, row: PlannedExpression, key: SqlExpression): SqlExpression {
  const { type } = entityOf(model, target).key;
  const plain = type.kind === 'integer' || type.kind === 'bigint' || type.kind === 'uuid' || type.kind === 'text';
  if (row.kind === 'value' && row.value !== null && plain) return string(String(row.value));
  return values.toText(type, key);
}

/** Whether the row under an alias points over any of these branches at something that may be seen. */
function pointsAt({ site }: Compiling, builder: SelectBuilder, alias: string, branches: readonly Access[]): SqlExpression {
  const marks = new Map<string, string[]>();
  const filled: SqlExpression[] = [];
  for (const branch of branches) {
    const { way, entity } = roleOf(branch);
    if (way.kind !== 'key') continue;
    if (site.isWalled(branch.id)) {
      const there = builder.key(builder.at(branch.id).alias);
      filled.push({ kind: 'is null', operand: firstItemOf(there), negated: true });
      continue;
    }
    if (way.mark === null) {
      filled.push({ kind: 'is null', operand: firstItemOf(builder.columns(alias, entity, way.columns)), negated: true });
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

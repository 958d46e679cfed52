import { type Entity, entityOf, type Model, type PivotEnd, type PivotRelation, type Relation } from '../model/index.js';
import { allOf, anyOf, column, columnsOf, equal, type Select, type SqlExpression, type TableName } from '../sql/index.js';

/** A statement and what its rows are: groups as (children, parents), or one count. */
export type ProfileStatement =
  | { readonly kind: 'groups'; readonly entity: string; readonly role: string | null; readonly select: Select }
  | { readonly kind: 'parents'; readonly entity: string; readonly role: string | null; readonly select: Select }
  | { readonly kind: 'rows'; readonly select: Select }
  | { readonly kind: 'empty'; readonly column: string; readonly select: Select }
  | { readonly kind: 'dangling'; readonly column: string; readonly select: Select };

/** What to ask of a relation's rows. Children are grouped by their key first and only then joined to parents, which is the quicker order on any size. */
export function profileStatements(model: Model, relation: Relation): ProfileStatement[] {
  return relation.kind === 'key' ? ofKey(model, relation) : ofPivot(model, relation);
}

function ofKey(model: Model, relation: Extract<Relation, { kind: 'key' }>): ProfileStatement[] {
  const [child, parent] = [entityOf(model, relation.child), entityOf(model, relation.parent)];
  const table = child.table.value;
  const key = relation.columns.map((column) => column.value);
  const named = key.join(', ');
  return [
    { kind: 'rows', select: counted(table, null) },
    ...end(parent, relation.parentRole, table, key),
    { kind: 'empty', column: named, select: counted(table, anyNull(table.name, key)) },
    { kind: 'dangling', column: named, select: counted(table, pointsNowhere(table, key, parent)) },
  ];
}

function ofPivot(model: Model, relation: PivotRelation): ProfileStatement[] {
  const table = relation.table.value;
  const [first, second] = relation.ends;
  const symmetric = relation.form === 'symmetric';
  const ends = symmetric ? [first] : [first, second];
  return [
    { kind: 'rows', select: counted(table, null) },
    ...ends.flatMap((side) => {
      const owner = entityOf(model, side.entity);
      return symmetric
        ? bothWays(owner, side.role, table, namesOf(first), namesOf(second))
        : end(owner, side.role, table, namesOf(side));
    }),
    ...[first, second].map(
      (side): ProfileStatement => ({
        kind: 'dangling',
        column: namesOf(side).join(', '),
        select: counted(table, pointsNowhere(table, namesOf(side), entityOf(model, side.entity))),
      }),
    ),
  ];
}

function namesOf({ columns }: PivotEnd): string[] {
  return columns.map((name) => name.value);
}

/** The columns of a key under the names `owner`, `owner_2`, …, by which groups are joined to parents. */
function owners(source: string, key: readonly string[]): { expression: SqlExpression; as: string }[] {
  return key.map((name, index) => ({ expression: column(source, name), as: ownerName(index) }));
}

function ownerName(index: number): string {
  return index === 0 ? 'owner' : `owner_${index + 1}`;
}

function anyNull(source: string, key: readonly string[]): SqlExpression | null {
  return anyOf(key.map((name) => ({ kind: 'is null', operand: column(source, name), negated: false })));
}

function noneNull(source: string, key: readonly string[]): SqlExpression | null {
  return allOf(key.map((name) => ({ kind: 'is null', operand: column(source, name), negated: true })));
}

function end(parent: Entity, role: string | null, table: TableName, key: readonly string[]): ProfileStatement[] {
  const grouped = select(table, [...owners(table.name, key), count('children')], {
    where: noneNull(table.name, key),
    groupBy: key.map((name) => column(table.name, name)),
  });
  return ends(parent, role, grouped);
}

/** A pair that counts for both of its rows. */
function bothWays(
  parent: Entity,
  role: string | null,
  table: TableName,
  one: readonly string[],
  other: readonly string[],
): ProfileStatement[] {
  const reading = (key: readonly string[]) => select(table, owners(table.name, key), {});
  const names = one.map((_, index) => ownerName(index));
  const grouped: Select = {
    ...EMPTY,
    columns: [...names.map((name) => ({ expression: column('pairs', name), as: name })), count('children')],
    from: {
      from: { kind: 'select', select: { kind: 'union all', selects: [reading(one), reading(other)] } },
      alias: 'pairs',
      entity: null,
    },
    groupBy: names.map((name) => column('pairs', name)),
  };
  return ends(parent, role, grouped);
}

function ends(parent: Entity, role: string | null, grouped: Select): ProfileStatement[] {
  const owner = parent.table.value;
  const groups: Select = {
    ...EMPTY,
    columns: [{ expression: column('grouped', 'children'), as: 'children' }, count('parents')],
    from: { from: { kind: 'select', select: grouped }, alias: 'grouped', entity: null },
    joins: [
      {
        kind: 'inner',
        source: { from: { kind: 'table', table: owner }, alias: owner.name, entity: parent.name },
        on: equal(
          columnsOf(owner.name, parent.key.columns),
          columnsOf(
            'grouped',
            parent.key.columns.map((_, index) => ownerName(index)),
          ),
        ),
      },
    ],
    groupBy: [column('grouped', 'children')],
    orderBy: [{ expression: column('grouped', 'children'), descending: false, nulls: false }],
  };
  const common = { entity: parent.name, role };
  return [
    { kind: 'parents', ...common, select: counted(owner, null) },
    { kind: 'groups', ...common, select: groups },
  ];
}

function pointsNowhere(table: TableName, key: readonly string[], parent: Entity): SqlExpression | null {
  const target = parent.table.value;
  const alias = target.name === table.name ? 'there' : target.name;
  const inner: Select = {
    ...EMPTY,
    columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
    from: { from: { kind: 'table', table: target }, alias, entity: parent.name },
    where: equal(columnsOf(alias, parent.key.columns), columnsOf(table.name, key)),
  };
  return allOf([noneNull(table.name, key), { kind: 'exists', select: inner, negated: true }]);
}

const EMPTY = { kind: 'select' as const, joins: [], where: null, orderBy: [], limit: null, offset: null };

function counted(table: TableName, where: SqlExpression | null): Select {
  return select(table, [count('count')], { where });
}

function count(as: string): { expression: SqlExpression; as: string } {
  return { expression: { kind: 'count rows' }, as };
}

function select(table: TableName, columns: Select['columns'], more: Partial<Pick<Select, 'where' | 'groupBy'>>): Select {
  return { ...EMPTY, columns, from: { from: { kind: 'table', table }, alias: table.name, entity: null }, ...more };
}

import { type Entity, entityOf, type Model, type PivotRelation, type Relation } from '../model/index.js';
import { column, equal, type Select, type SqlExpression, type TableName } from '../sql/index.js';

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
  const key = relation.column.value;
  return [
    { kind: 'rows', select: counted(table, null) },
    ...end(parent, relation.parentRole, table, key),
    { kind: 'empty', column: key, select: counted(table, { kind: 'is null', operand: column(table.name, key), negated: false }) },
    { kind: 'dangling', column: key, select: counted(table, pointsNowhere(table, key, parent)) },
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
        ? bothWays(owner, side.role, table, first.column.value, second.column.value)
        : end(owner, side.role, table, side.column.value);
    }),
    ...[first, second].map(
      (side): ProfileStatement => ({
        kind: 'dangling',
        column: side.column.value,
        select: counted(table, pointsNowhere(table, side.column.value, entityOf(model, side.entity))),
      }),
    ),
  ];
}

function end(parent: Entity, role: string | null, table: TableName, key: string): ProfileStatement[] {
  const grouped = select(table, [{ expression: column(table.name, key), as: 'owner' }, count('children')], {
    where: { kind: 'is null', operand: column(table.name, key), negated: true },
    groupBy: [column(table.name, key)],
  });
  return ends(parent, role, grouped);
}

/** A pair that counts for both of its rows. */
function bothWays(parent: Entity, role: string | null, table: TableName, one: string, other: string): ProfileStatement[] {
  const reading = (key: string) => select(table, [{ expression: column(table.name, key), as: 'owner' }], {});
  const grouped: Select = {
    ...EMPTY,
    columns: [{ expression: column('pairs', 'owner'), as: 'owner' }, count('children')],
    from: {
      from: { kind: 'select', select: { kind: 'union all', selects: [reading(one), reading(other)] } },
      alias: 'pairs',
      entity: null,
    },
    groupBy: [column('pairs', 'owner')],
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
        on: equal(column(owner.name, parent.key.column.value), column('grouped', 'owner')),
      },
    ],
    groupBy: [column('grouped', 'children')],
    orderBy: [{ expression: column('grouped', 'children'), descending: false }],
  };
  const common = { entity: parent.name, role };
  return [
    { kind: 'parents', ...common, select: counted(owner, null) },
    { kind: 'groups', ...common, select: groups },
  ];
}

function pointsNowhere(table: TableName, key: string, parent: Entity): SqlExpression {
  const target = parent.table.value;
  const alias = target.name === table.name ? 'there' : target.name;
  const inner: Select = {
    ...EMPTY,
    columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
    from: { from: { kind: 'table', table: target }, alias, entity: parent.name },
    where: equal(column(alias, parent.key.column.value), column(table.name, key)),
  };
  return {
    kind: 'binary',
    operator: 'and',
    left: { kind: 'is null', operand: column(table.name, key), negated: true },
    right: { kind: 'exists', select: inner, negated: true },
  };
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

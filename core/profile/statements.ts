import {
  type Entity,
  entityOf,
  type Model,
  type PivotEnd,
  type PivotRelation,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type Relation,
} from '../model/index.js';
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
  switch (relation.kind) {
    case 'key':
      return ofKey(model, relation);
    case 'pivot':
      return ofPivot(model, relation);
    case 'polymorphic':
      return ofPolymorphic(model, relation);
    case 'polymorphic pivot':
      return ofPolymorphicPivot(model, relation);
  }
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

/** Each target is a parent of its own: children are counted for it by its mark, or in its own column. */
function ofPolymorphic(model: Model, relation: PolymorphicRelation): ProfileStatement[] {
  const child = entityOf(model, relation.child);
  const table = child.table.value;
  const { storage } = relation;
  if (storage.kind === 'one of') {
    const columns = storage.columns.map(({ value }) => value);
    const none = allOf(columns.map((name) => ({ kind: 'is null', operand: column(table.name, name), negated: false })));
    return [
      { kind: 'rows', select: counted(table, null) },
      ...relation.targets.flatMap((target, index) => {
        const key = [columns[index] ?? ''];
        return end(entityOf(model, target.entity), target.role, table, key);
      }),
      { kind: 'empty', column: columns.join(', '), select: counted(table, none) },
      ...relation.targets.map((target, index): ProfileStatement => {
        const key = [columns[index] ?? ''];
        return {
          kind: 'dangling',
          column: key.join(),
          select: counted(table, pointsNowhere(table, key, entityOf(model, target.entity))),
        };
      }),
    ];
  }
  return [
    { kind: 'rows', select: counted(table, null) },
    ...typedEnds(model, relation, table),
    { kind: 'empty', column: storage.id.value, select: counted(table, anyNull(table.name, [storage.id.value])) },
  ];
}

function ofPolymorphicPivot(model: Model, relation: PolymorphicPivotRelation): ProfileStatement[] {
  const table = relation.table.value;
  const near = namesOf(relation.near);
  const owner = entityOf(model, relation.near.entity);
  return [
    { kind: 'rows', select: counted(table, null) },
    ...end(owner, relation.near.role, table, near),
    ...typedEnds(model, relation, table),
    { kind: 'dangling', column: near.join(', '), select: counted(table, pointsNowhere(table, near, owner)) },
  ];
}

/** Children by type and id, for each target: the keys that point at nothing are those that no trigger kept. */
function typedEnds(
  model: Model,
  { targets, storage }: Pick<PolymorphicPivotRelation, 'targets'> & { readonly storage: PolymorphicRelation['storage'] },
  table: TableName,
): ProfileStatement[] {
  if (storage.kind === 'one of') return [];
  const key = [storage.id.value];
  return targets.flatMap(({ entity: name, marks, role }) => {
    const entity = entityOf(model, name);
    const marked: SqlExpression = {
      kind: 'in',
      operand: column(table.name, storage.type.value),
      items: marks.map(({ mark }) => ({ kind: 'string', value: mark })),
      negated: false,
    };
    // Where the column holds keys of several types, as texts, a join on it would compare unlike with like.
    if (JSON.stringify(entity.key.type) !== JSON.stringify(storage.idType)) return [];
    const here = `${storage.type.value} ${marks.map(({ mark }) => `'${mark}'`).join(', ')}`;
    return [
      ...end(entity, role, table, key, marked),
      {
        kind: 'dangling' as const,
        column: `${storage.id.value}, ${here}`,
        select: counted(table, allOf([marked, pointsNowhere(table, key, entity)])),
      },
    ];
  });
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

function end(
  parent: Entity,
  role: string | null,
  table: TableName,
  key: readonly string[],
  among: SqlExpression | null = null,
): ProfileStatement[] {
  const grouped = select(table, [...owners(table.name, key), count('children')], {
    where: allOf([among, noneNull(table.name, key)]),
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

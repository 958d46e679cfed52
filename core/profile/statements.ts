import {
  type Entity,
  entityOf,
  type Model,
  type PivotEnd,
  type PivotRelation,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type Relation,
  snakeCase,
} from '../model/index.js';
import { foreignTarget } from '../schema/index.js';
import {
  allOf,
  anyOf,
  column,
  columnsOf,
  equal,
  type Select,
  type Source,
  type SqlExpression,
  type TableName,
} from '../sql/index.js';

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

/** Where rows of an entity, or pairs, are read for counting: a table, some rows of one, or several tables as one. */
interface Rows {
  readonly from: Source['from'];
  readonly alias: string;
  /** What keeps out rows of other kinds that stand there. */
  readonly where: SqlExpression | null;
}

function rowsIn(table: TableName): Rows {
  return { from: { kind: 'table', table }, alias: table.name, where: null };
}

/** The rows of an entity, with the columns that are asked for. */
function rowsOf(model: Model, name: string, columns: readonly string[]): Rows {
  const target = foreignTarget(model, name);
  if (target.kind === 'tables') {
    const selects = target.tables.map(
      (table): Select => ({
        ...EMPTY,
        columns: columns.map((wanted) => ({ expression: column(table.name, wanted), as: wanted })),
        from: { from: { kind: 'table', table }, alias: table.name, entity: null },
      }),
    );
    return { from: { kind: 'select', select: { kind: 'union all', selects } }, alias: snakeCase(name), where: null };
  }
  const rows = rowsIn(target.table);
  if (target.among === null) return rows;
  const { column: mark, values } = target.among;
  const items = values.map((value): SqlExpression => ({ kind: 'string', value }));
  return { ...rows, where: { kind: 'in', operand: column(rows.alias, mark), items, negated: false } };
}

function ofKey(model: Model, relation: Extract<Relation, { kind: 'key' }>): ProfileStatement[] {
  const parent = entityOf(model, relation.parent);
  const key = relation.columns.map((column) => column.value);
  const table = rowsOf(model, relation.child, key);
  const named = key.join(', ');
  return [
    { kind: 'rows', select: counted(table, null) },
    ...end(model, parent, relation.parentRole, table, key),
    { kind: 'empty', column: named, select: counted(table, anyNull(table.alias, key)) },
    { kind: 'dangling', column: named, select: counted(table, pointsNowhere(model, table, key, parent)) },
  ];
}

/** Each target is a parent of its own: children are counted for it by its mark, or in its own column. */
function ofPolymorphic(model: Model, relation: PolymorphicRelation): ProfileStatement[] {
  const { storage } = relation;
  const held = storage.kind === 'one of' ? storage.columns : [storage.type, storage.id];
  const columns = held.map(({ value }) => value);
  const table = rowsOf(model, relation.child, columns);
  if (storage.kind === 'one of') {
    const none = allOf(columns.map((name) => ({ kind: 'is null', operand: column(table.alias, name), negated: false })));
    return [
      { kind: 'rows', select: counted(table, null) },
      ...relation.targets.flatMap((target, index) => {
        const key = [columns[index] ?? ''];
        return end(model, entityOf(model, target.entity), target.role, table, key);
      }),
      { kind: 'empty', column: columns.join(', '), select: counted(table, none) },
      ...relation.targets.map((target, index): ProfileStatement => {
        const key = [columns[index] ?? ''];
        return {
          kind: 'dangling',
          column: key.join(),
          select: counted(table, pointsNowhere(model, table, key, entityOf(model, target.entity))),
        };
      }),
    ];
  }
  return [
    { kind: 'rows', select: counted(table, null) },
    ...typedEnds(model, relation, table),
    { kind: 'empty', column: storage.id.value, select: counted(table, anyNull(table.alias, [storage.id.value])) },
  ];
}

function ofPolymorphicPivot(model: Model, relation: PolymorphicPivotRelation): ProfileStatement[] {
  const table = rowsIn(relation.table.value);
  const near = namesOf(relation.near);
  const owner = entityOf(model, relation.near.entity);
  return [
    { kind: 'rows', select: counted(table, null) },
    ...end(model, owner, relation.near.role, table, near),
    ...typedEnds(model, relation, table),
    { kind: 'dangling', column: near.join(', '), select: counted(table, pointsNowhere(model, table, near, owner)) },
  ];
}

/** Children by type and id, for each target: the keys that point at nothing are those that no trigger kept. */
function typedEnds(
  model: Model,
  { targets, storage }: Pick<PolymorphicPivotRelation, 'targets'> & { readonly storage: PolymorphicRelation['storage'] },
  table: Rows,
): ProfileStatement[] {
  if (storage.kind === 'one of') return [];
  const key = [storage.id.value];
  return targets.flatMap(({ entity: name, marks, role }) => {
    const entity = entityOf(model, name);
    const marked: SqlExpression = {
      kind: 'in',
      operand: column(table.alias, storage.type.value),
      items: marks.map(({ mark }) => ({ kind: 'string', value: mark })),
      negated: false,
    };
    // Where the column holds keys of several types, as texts, a join on it would compare unlike with like.
    if (JSON.stringify(entity.key.type) !== JSON.stringify(storage.idType)) return [];
    const here = `${storage.type.value} ${marks.map(({ mark }) => `'${mark}'`).join(', ')}`;
    return [
      ...end(model, entity, role, table, key, marked),
      {
        kind: 'dangling' as const,
        column: `${storage.id.value}, ${here}`,
        select: counted(table, allOf([marked, pointsNowhere(model, table, key, entity)])),
      },
    ];
  });
}

function ofPivot(model: Model, relation: PivotRelation): ProfileStatement[] {
  const table = rowsIn(relation.table.value);
  const [first, second] = relation.ends;
  const symmetric = relation.form === 'symmetric';
  const ends = symmetric ? [first] : [first, second];
  return [
    { kind: 'rows', select: counted(table, null) },
    ...ends.flatMap((side) => {
      const owner = entityOf(model, side.entity);
      return symmetric
        ? bothWays(model, owner, side.role, table, namesOf(first), namesOf(second))
        : end(model, owner, side.role, table, namesOf(side));
    }),
    ...[first, second].map(
      (side): ProfileStatement => ({
        kind: 'dangling',
        column: namesOf(side).join(', '),
        select: counted(table, pointsNowhere(model, table, namesOf(side), entityOf(model, side.entity))),
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
  model: Model,
  parent: Entity,
  role: string | null,
  table: Rows,
  key: readonly string[],
  among: SqlExpression | null = null,
): ProfileStatement[] {
  const grouped = select(table, [...owners(table.alias, key), count('children')], {
    where: allOf([among, noneNull(table.alias, key)]),
    groupBy: key.map((name) => column(table.alias, name)),
  });
  return ends(model, parent, role, grouped);
}

/** A pair that counts for both of its rows. */
function bothWays(
  model: Model,
  parent: Entity,
  role: string | null,
  table: Rows,
  one: readonly string[],
  other: readonly string[],
): ProfileStatement[] {
  const reading = (key: readonly string[]) => select(table, owners(table.alias, key), {});
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
  return ends(model, parent, role, grouped);
}

function ends(model: Model, parent: Entity, role: string | null, grouped: Select): ProfileStatement[] {
  const owner = rowsOf(model, parent.name, parent.key.columns);
  const groups: Select = {
    ...EMPTY,
    columns: [{ expression: column('grouped', 'children'), as: 'children' }, count('parents')],
    from: { from: { kind: 'select', select: grouped }, alias: 'grouped', entity: null },
    joins: [
      {
        kind: 'inner',
        source: { from: owner.from, alias: owner.alias, entity: parent.name },
        on: equal(
          columnsOf(owner.alias, parent.key.columns),
          columnsOf(
            'grouped',
            parent.key.columns.map((_, index) => ownerName(index)),
          ),
        ),
      },
    ],
    where: owner.where,
    groupBy: [column('grouped', 'children')],
    orderBy: [{ expression: column('grouped', 'children'), descending: false, nulls: false }],
  };
  const common = { entity: parent.name, role };
  return [
    { kind: 'parents', ...common, select: counted(owner, null) },
    { kind: 'groups', ...common, select: groups },
  ];
}

function pointsNowhere(model: Model, table: Rows, key: readonly string[], parent: Entity): SqlExpression | null {
  const target = rowsOf(model, parent.name, parent.key.columns);
  const alias = target.alias === table.alias ? 'there' : target.alias;
  const inner: Select = {
    ...EMPTY,
    columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
    from: { from: target.from, alias, entity: parent.name },
    where: equal(columnsOf(alias, parent.key.columns), columnsOf(table.alias, key)),
  };
  return allOf([noneNull(table.alias, key), { kind: 'exists', select: inner, negated: true }]);
}

const EMPTY = { kind: 'select' as const, joins: [], where: null, orderBy: [], limit: null, offset: null };

function counted(rows: Rows, where: SqlExpression | null): Select {
  return select(rows, [count('count')], { where });
}

function count(as: string): { expression: SqlExpression; as: string } {
  return { expression: { kind: 'count rows' }, as };
}

function select(rows: Rows, columns: Select['columns'], more: Partial<Pick<Select, 'where' | 'groupBy'>>): Select {
  const from = { from: rows.from, alias: rows.alias, entity: null };
  return { ...EMPTY, columns, from, ...more, where: allOf([rows.where, more.where ?? null]) };
}

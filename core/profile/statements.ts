import { entityOf, type Model, type PivotRelation, type PolymorphicRelation, type Relation } from '../model/index.js';
import { allOf, column, columnsOf, equal, type Select, type SqlExpression } from '../sql/index.js';
import type { EngineValues } from '../values/index.js';
import { type HeldKey, heldKeys } from './held-keys.js';
import { anyNull, count, counted, EMPTY, noneNull, type Rows, rowsIn, rowsOf, select } from './rows.js';

/** A statement and what its rows are: groups as (children, parents), or one count. */
export type ProfileStatement =
  | { readonly kind: 'groups'; readonly entity: string; readonly role: string | null; readonly select: Select }
  | { readonly kind: 'parents'; readonly entity: string; readonly role: string | null; readonly select: Select }
  | { readonly kind: 'rows'; readonly select: Select }
  | { readonly kind: 'empty'; readonly column: string; readonly select: Select }
  | { readonly kind: 'dangling'; readonly column: string; readonly select: Select };

/**
 * What to ask of a relation's rows. Children are grouped by their key first and only then joined to parents, which is
 * the quicker order on any size. Each target of a polymorphic relation is a parent of its own.
 */
export function profileStatements(model: Model, relation: Relation, values: EngineValues): ProfileStatement[] {
  const keys = heldKeys(model, relation, values);
  const rows = keys[0]?.rows;
  if (rows === undefined) return [];
  const ends =
    relation.kind === 'pivot' && relation.form === 'symmetric'
      ? bothWays(model, relation)
      : keys.flatMap((held) => endOf(model, held));
  const empty = emptyOf(relation);
  return [
    { kind: 'rows', select: counted(rows, relation.kind === 'pivot' ? (keys[0]?.marked ?? null) : null) },
    ...ends,
    ...(empty === null
      ? []
      : [{ kind: 'empty' as const, column: empty.columns.join(', '), select: counted(rows, empty.where(rows)) }]),
    ...keys.flatMap(({ column, lost }): ProfileStatement[] =>
      lost === null ? [] : [{ kind: 'dangling', column, select: counted(rows, lost) }],
    ),
  ];
}

interface Empty {
  readonly columns: readonly string[];
  where(rows: Rows): SqlExpression | null;
}

/** The columns that may be empty, and when none of them leads anywhere; null for pairs, which are always filled. */
function emptyOf(relation: Relation): Empty | null {
  if (relation.kind !== 'key' && relation.kind !== 'polymorphic') return null;
  const columns = relation.kind === 'key' ? relation.columns.map(({ value }) => value) : idColumns(relation);
  if (relation.kind === 'key' || relation.storage.kind !== 'one of')
    return { columns, where: (rows) => anyNull(rows.alias, columns) };
  return {
    columns,
    where: (rows) => allOf(columns.map((name) => ({ kind: 'is null', operand: column(rows.alias, name), negated: false }))),
  };
}

function idColumns({ storage }: PolymorphicRelation): readonly string[] {
  return storage.kind === 'one of' ? storage.columns.map(({ value }) => value) : [storage.id.value];
}

/** The columns of a key under the names `owner`, `owner_2`, …, by which groups are joined to parents. */
function owners(source: string, key: readonly string[]): { expression: SqlExpression; as: string }[] {
  return key.map((name, index) => ({ expression: column(source, name), as: ownerName(index) }));
}

function ownerName(index: number): string {
  return index === 0 ? 'owner' : `owner_${index + 1}`;
}

function endOf(model: Model, held: HeldKey): ProfileStatement[] {
  const { rows, key, marked } = held;
  const grouped = select(rows, [...owners(rows.alias, key), count('children')], {
    where: allOf([marked, noneNull(rows.alias, key)]),
    groupBy: key.map((name) => column(rows.alias, name)),
  });
  return ends(model, held, grouped);
}

/** A pair that counts for both of its rows. */
function bothWays(model: Model, { table, ends: [first, second] }: PivotRelation): ProfileStatement[] {
  const rows = rowsIn(table.value);
  const reading = ({ columns }: typeof first) =>
    select(
      rows,
      owners(
        rows.alias,
        columns.map(({ value }) => value),
      ),
    );
  const names = first.columns.map((_, index) => ownerName(index));
  const grouped: Select = {
    ...EMPTY,
    columns: [...names.map((name) => ({ expression: column('pairs', name), as: name })), count('children')],
    from: {
      from: { kind: 'select', select: { kind: 'union all', selects: [reading(first), reading(second)] } },
      alias: 'pairs',
      entity: null,
    },
    groupBy: names.map((name) => column('pairs', name)),
  };
  return ends(model, { target: first.entity, role: first.role, held: equal }, grouped);
}

function ends(
  model: Model,
  { target, role, held }: Pick<HeldKey, 'target' | 'role' | 'held'>,
  grouped: Select,
): ProfileStatement[] {
  const { name, key } = entityOf(model, target);
  const owner = rowsOf(model, name, key.columns);
  const groups: Select = {
    ...EMPTY,
    columns: [{ expression: column('grouped', 'children'), as: 'children' }, count('parents')],
    from: { from: { kind: 'select', select: grouped }, alias: 'grouped', entity: null },
    joins: [
      {
        kind: 'inner',
        source: { from: owner.from, alias: owner.alias, entity: name },
        on: held(
          columnsOf(owner.alias, key.columns),
          columnsOf(
            'grouped',
            key.columns.map((_, index) => ownerName(index)),
          ),
        ),
      },
    ],
    where: owner.where,
    groupBy: [column('grouped', 'children')],
    orderBy: [{ expression: column('grouped', 'children'), descending: false, nulls: false }],
  };
  const common = { entity: name, role };
  return [
    { kind: 'parents', ...common, select: counted(owner, null) },
    { kind: 'groups', ...common, select: groups },
  ];
}

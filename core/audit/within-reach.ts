import type { Prepared } from '../load/index.js';
import {
  type AnyPivotRelation,
  type Entity,
  entityOf,
  hasTable,
  isNarrowed,
  isPivot,
  type Model,
  type Role,
  tableEntity,
} from '../model/index.js';
import {
  allOf,
  anyOf,
  column,
  columnsOf,
  placeOf,
  type Select,
  type SqlExpression,
  selectOf,
  tableSource,
  withSources,
} from '../sql/index.js';
import type { BoundParameter } from '../values/index.js';

/** The keys of the rows of an entity that somebody reaches, as a select; and what is bound in it. */
export interface Reachable {
  readonly keys: Select;
  readonly parameters: Readonly<Record<string, BoundParameter>>;
}

/** The rows of the whole database that somebody reaches: of an entity that is missing, all. */
export type ReachableRows = ReadonlyMap<string, Reachable>;

/** Whether a key that leads to a row out of reach is empty, also where the text declares it as a field. */
export type HeldKeys = 'declared ones stay' | 'all are emptied' | 'all stay';

/** The tables of a database by their places, with the names of their columns. */
export type ColumnsOfTables = ReadonlyMap<string, readonly string[]>;

/**
 * A plan of the system over a database in which the rows that somebody does not reach are not there at all: what it answers is what
 * they may be told, whatever the plan asks. Each table that it names is taken for a select of the reachable rows of it; no wall
 * is looked at, and nothing of the plan is changed otherwise.
 */
export function withinReach(
  prepared: Prepared,
  model: Model,
  tables: ColumnsOfTables,
  reachable: ReachableRows,
  heldKeys: HeldKeys,
): Prepared {
  const parts = partsWithinReach(model, tables, reachable, heldKeys);
  const bound = Array.from(reachable.values(), ({ parameters }) => parameters);
  return {
    ...prepared,
    compiled: withSources(prepared.compiled, parts),
    parameters: Object.assign({}, prepared.parameters, ...bound),
  };
}

const ROWS = 'within_reach';

/** For each table of which some rows, or keys in them, are out of reach, the select of the others, by its place. */
export function partsWithinReach(
  model: Model,
  tables: ColumnsOfTables,
  reachable: ReachableRows,
  heldKeys: HeldKeys,
): ReadonlyMap<string, Select> {
  const parts = new Map<string, Select>();
  for (const entity of model.entities.values()) {
    const place = placeOf(entity.table.value);
    const names = tables.get(place);
    if (!hasTable(entity) || names === undefined) continue;
    const own = reachable.get(entity.name);
    const where = own === undefined ? null : among(entity.key.columns, own);
    const emptied = emptiedIn(model, entity, names, reachable, heldKeys);
    if (where === null && emptied.size === 0) continue;
    const columns = names.map((name) => ({ expression: emptied.get(name) ?? column(ROWS, name), as: name }));
    parts.set(place, selectOf(tableSource(entity.table.value, ROWS), { columns, where }));
  }
  for (const relation of model.relations.values()) {
    // Pairs that are rows of an entity are seen by its own walls.
    if (!isPivot(relation) || relation.entity !== null) continue;
    const place = placeOf(relation.table.value);
    const names = tables.get(place);
    const where = pairsReached(model, relation, reachable);
    if (names === undefined || where === null) continue;
    const columns = names.map((name) => ({ expression: column(ROWS, name), as: name }));
    parts.set(place, selectOf(tableSource(relation.table.value, ROWS), { columns, where }));
  }
  return parts;
}

function among(columns: readonly string[], { keys }: Reachable): SqlExpression {
  return { kind: 'in select', operand: columnsOf(ROWS, columns), select: keys };
}

/** That both rows of a pair are within reach. */
function pairsReached(model: Model, relation: AnyPivotRelation, reachable: ReachableRows): SqlExpression | null {
  const conditions: (SqlExpression | null)[] = [];
  for (const role of rolesOver(model, relation)) {
    const { way, target } = role;
    const own = reachable.get(target);
    if (way.kind !== 'pivot' || own === undefined || isNarrowed(model, role)) continue;
    // Of pairs that lead to several entities, each over a key of its own, this one may lead to another.
    const isThere = relation.kind === 'pivot' ? among(way.far, own) : elsewhereOr(way.far, among(way.far, own));
    const { mark } = way;
    if (mark !== null && (way.marked !== 'far' || mark.held !== null)) continue;
    conditions.push(mark === null ? isThere : anyOf([isNoneOf(mark.column, mark.values), isThere]));
  }
  return allOf(conditions);
}

function elsewhereOr(columns: readonly string[], isThere: SqlExpression): SqlExpression {
  const [first] = columns;
  if (first === undefined) return isThere;
  return anyOf([{ kind: 'is null', operand: column(ROWS, first), negated: false }, isThere]) ?? isThere;
}

function rolesOver(model: Model, { name }: AnyPivotRelation): readonly Role[] {
  return Array.from(model.entities.values()).flatMap(({ roles, polymorphic }) =>
    [...roles, ...polymorphic.flatMap(({ branches }) => branches)].filter(({ relation }) => relation === name),
  );
}

function isNoneOf(name: string, values: readonly string[]): SqlExpression {
  const items = values.map((value): SqlExpression => ({ kind: 'string', value }));
  return { kind: 'in', operand: column(ROWS, name), items, negated: true };
}

/** The columns of an entity's table that hold keys of rows which may be out of reach, as what they are for whoever looks. */
function emptiedIn(
  model: Model,
  entity: Entity,
  names: readonly string[],
  reachable: ReachableRows,
  heldKeys: HeldKeys,
): Map<string, SqlExpression> {
  const emptied = new Map<string, SqlExpression>();
  if (heldKeys === 'all stay') return emptied;
  for (const role of keyRolesIn(model, entity, names)) {
    const { way, target } = role;
    const own = reachable.get(target);
    if (way.kind !== 'key' || own === undefined || isNarrowed(model, role)) continue;
    if (way.mark !== null && way.mark.held !== null) continue;
    const isThere = among(way.columns, own);
    const stays = way.mark === null ? isThere : (anyOf([isNoneOf(way.mark.column, way.mark.values), isThere]) ?? isThere);
    for (const name of way.columns) {
      if (heldKeys === 'declared ones stay' && isDeclared(model, role, name)) continue;
      const then = emptied.get(name) ?? column(ROWS, name);
      emptied.set(name, { kind: 'case', branches: [{ when: stays, then }], otherwise: null });
    }
  }
  return emptied;
}

/** The roles whose keys stand in the table of an entity: its own, and those of its kinds where they have none. */
function keyRolesIn(model: Model, entity: Entity, names: readonly string[]): readonly Role[] {
  const readers = entity.kinds === null ? [entity] : [entity, ...kindsBelow(model, entity)];
  const seen = new Set<string>();
  return readers
    .flatMap(({ roles, polymorphic }) => [...roles, ...polymorphic.flatMap(({ branches }) => branches)])
    .filter(({ relation, name, target, way }) => {
      const place = `${relation}\n${name}\n${target}`;
      if (way.kind !== 'key' || seen.has(place) || !way.columns.every((one) => names.includes(one))) return false;
      seen.add(place);
      return true;
    });
}

function kindsBelow(model: Model, { name, kinds }: Entity): readonly Entity[] {
  return (kinds?.kinds ?? [])
    .map((kind) => entityOf(model, kind))
    .flatMap((kind) => [kind, ...kindsBelow(model, kind)])
    .filter((kind) => tableEntity(model, kind.name, kind.name) === name || !hasTable(kind));
}

function isDeclared(model: Model, { entity }: Role, name: string): boolean {
  return entityOf(model, entity).fields.some(({ column: own }) => own.value === name);
}

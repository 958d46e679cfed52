import {
  type AnyPivotRelation,
  type Expression,
  entityOf,
  isNumbered,
  keysOfTargets,
  type Model,
  type PivotRelation,
  type Role,
  storedColumnTypes,
  type WrittenValue,
} from '../model/index.js';
import { polymorphicCells } from '../samples/index.js';
import { allOf, anyOf, column, type SqlExpression, selectOf, type TableName, tableSource } from '../sql/index.js';
import { type BoundValue, joinKey, splitKey, type Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import type { Cell } from './cell.js';
import { type Doing, Refused, refuse } from './doing.js';
import { cellOf, cellsOfRole, defaultOf, Filling, fillDefaults, fillGiven, refuseLacking, relationOf } from './fill.js';
import { pairCondition } from './pair-condition.js';
import { fillPins, keepPins } from './pins.js';
import { putRow } from './put-row.js';
import { inReach, keysOf, oneInReach, type RowsToWrite } from './reach.js';
import type { RowAt } from './row-at.js';
import type { BrokenConstraint, CommandWork } from './steps.js';
import { decoded, deleteRows, holds, updateRows } from './stored-row.js';
import type { RowChange, WrittenCell, WrittenRow } from './told.js';

/** Links a row to one behind a role of its own: by a pair, or by the key that one of the two holds. */
export function* linkRow(
  doing: Doing,
  owner: RowAt,
  role: Role,
  other: RowAt,
  fields: readonly WrittenValue[],
): CommandWork<WrittenRow> {
  const relation = relationOf(doing.model, role);
  if (relation.kind === 'pivot' || relation.kind === 'polymorphic pivot')
    return yield* linkPair(doing, { relation, role, owner, other }, fields);
  if (fields.length > 0) refuse(`${role.name} is kept by a key, so that a link has no fields of its own.`);
  const [holder, cells] = heldBetween(doing, role, owner, other, true);
  const rows = yield* oneInReach(doing, holder, `${owner.entity}.${role.name}`);
  if (yield* holds(doing, holder, cells)) return linked('already linked', owner, role, other, []);
  const told: WrittenCell[] = [{ name: role.name, by: 'given', value: other.key }];
  keepPins(doing, holder.entity, byColumn(cells));
  yield* updateRows(doing, rows, cells, told);
  return linked('linked', owner, role, other, told);
}

/** Takes apart what is linked. */
export function* unlinkRow(
  doing: Doing,
  owner: RowAt,
  role: Role,
  other: RowAt,
  pairs: Expression | null,
): CommandWork<WrittenRow> {
  const relation = relationOf(doing.model, role);
  if (relation.kind === 'pivot' || relation.kind === 'polymorphic pivot')
    return yield* unlinkPair(doing, { relation, role, owner, other }, pairs);
  const [holder, cells] = heldBetween(doing, role, owner, other, false);
  const [, there] = heldBetween(doing, role, owner, other, true);
  const rows = yield* oneInReach(doing, holder, `${owner.entity}.${role.name}`);
  if (!(yield* holds(doing, holder, there))) return linked('not linked', owner, role, other, []);
  keepPins(doing, holder.entity, byColumn(cells));
  yield* updateRows(doing, rows, cells, []);
  return linked('unlinked', owner, role, other, []);
}

function linked(change: RowChange, owner: RowAt, role: Role, other: RowAt, cells: readonly WrittenCell[]): WrittenRow {
  const link = { role: role.name, entity: other.entity, key: other.key };
  return { change, entity: owner.entity, key: owner.key, link, cells, before: null, after: null };
}

function byColumn(cells: readonly Cell[]): ReadonlyMap<string, Cell> {
  return new Map(cells.map((cell) => [cell.column, cell]));
}

/** The row that holds the key, and the cells in which it does: of the other row, or empty. */
function heldBetween({ model }: Doing, role: Role, owner: RowAt, other: RowAt, points: boolean): readonly [RowAt, Cell[]] {
  const [holder, target] = role.way.kind === 'key' ? [owner, other] : [other, owner];
  return [holder, cellsOfRole(model, role, points ? target : null)];
}

/** Two rows that a pair links, or is to link. */
interface Pair {
  readonly relation: AnyPivotRelation;
  readonly role: Role;
  readonly owner: RowAt;
  readonly other: RowAt;
}

function* linkPair(doing: Doing, pair: Pair, fields: readonly WrittenValue[]): CommandWork<WrittenRow> {
  const { relation, role, owner, other } = pair;
  const { model } = doing;
  const cells = pairCells(model, pair);
  if (relation.form === 'symmetric' && owner.key === other.key)
    refuse(`${owner.entity}(${String(owner.key)}).${role.name}: a row is no partner of itself. Name another.`);
  yield* oneInReach(doing, owner, `${owner.entity}.${role.name}`);
  const repeats = relation.repeats || (relation.kind === 'pivot' && relation.withoutKey);
  if (!repeats && (yield* pairsThere(doing, relation, ofPair(doing, pair, cells))) > 0)
    return linked('already linked', owner, role, other, []);
  const filling = new Filling(relation.entity ?? relation.name);
  filling.fill(role.name, 'given', other.key, cells);
  yield* fillGiven(doing, filling, fields, null);
  if (relation.entity !== null) {
    fillPins(doing, filling);
    fillDefaults(doing, filling);
    refuseLacking(doing, filling);
    const made = yield* putRow(doing, filling);
    return linked('linked', owner, role, other, made.cells);
  }
  fillPairDefaults(doing, filling, relation);
  yield* insertPair(doing, relation, filling);
  return linked('linked', owner, role, other, filling.told);
}

function fillPairDefaults(doing: Doing, filling: Filling, { fields }: AnyPivotRelation): void {
  for (const field of fields) {
    const given = filling.has(field.column.value) || field.physical.generated !== null;
    const value = given ? undefined : defaultOf(doing, field);
    if (value !== undefined) filling.fill(field.name, 'default', value, [cellOf(field, value)]);
    else if (!given && field.required && field.default === null)
      throw new Refused({ kind: 'lacking', of: filling.entity, lacked: { kind: 'pair field', name: field.name } });
  }
}

/** Puts a pair in; of a symmetric one the lesser key first, by the engine's own comparison, which its check keeps. */
function* insertPair(doing: Doing, relation: AnyPivotRelation, filling: Filling): CommandWork<void> {
  const first = yield* tryPair(doing, relation, Array.from(filling.cells.values()));
  if (first === null) return;
  const turned =
    relation.kind === 'pivot' && relation.form === 'symmetric' ? turnedCells(relation, Array.from(filling.cells.values())) : null;
  if (turned !== null && (yield* tryPair(doing, relation, turned)) === null) return;
  throw new Refused({ kind: 'constraint', broken: first, table: relation.table.value.name, cells: filling.told });
}

/** Tries to put a pair in; why it was refused, or null where it is in. */
function* tryPair(doing: Doing, relation: AnyPivotRelation, cells: readonly Cell[]): CommandWork<BrokenConstraint | null> {
  const { values } = doing.dialect;
  const insert = {
    kind: 'insert' as const,
    into: relation.table.value,
    columns: cells.map((cell) => cell.column),
    rows: [cells.map((_, at): SqlExpression => ({ kind: 'placeholder', number: at + 1 }))],
    // A pair that may repeat is found again by its number alone.
    ...(isNumbered(relation) ? { returning: ['id'] } : {}),
  };
  const { refusal } = yield* doing.attempt(
    insert,
    cells.map(({ type, value }) => values.bind(type, value)),
  );
  return refusal;
}

/** The cells of a symmetric pair with each key where the other stood. */
function turnedCells({ ends: [one, other] }: PivotRelation, cells: readonly Cell[]): Cell[] {
  const opposite = new Map<string, string>();
  one.columns.forEach(({ value }, index) => {
    const there = other.columns[index]?.value;
    if (there !== undefined) opposite.set(value, there).set(there, value);
  });
  const held = new Map(cells.map((cell) => [cell.column, cell.value]));
  return cells.map((cell) => ({ ...cell, value: held.get(opposite.get(cell.column) ?? cell.column) ?? null }));
}

/** Takes apart the pairs of two rows that hold to a condition; all of them where none is given, if they are no more than one. */
function* unlinkPair(doing: Doing, pair: Pair, meant: Expression | null): CommandWork<WrittenRow> {
  const { relation, role, owner, other } = pair;
  const of = ofPair(doing, pair, pairCells(doing.model, pair));
  const only = meant === null ? { where: null, bound: [] } : pairCondition(doing.dialect, relation, meant, of.bound.length);
  const where = allOf([of.where, only.where].flatMap((one) => one ?? []));
  const bound = [...of.bound, ...only.bound];
  yield* oneInReach(doing, owner, `${owner.entity}.${role.name}`);
  const own = yield* pairsInReach(doing, relation, { where, bound });
  const there = own === null ? yield* pairsThere(doing, relation, { where, bound }) : keysOf(own).length;
  if (there === 0) return linked('not linked', owner, role, other, []);
  const [field] = relation.fields;
  // Pairs that hold nothing of their own cannot be told apart.
  if (there > 1 && meant === null && field !== undefined)
    refuse(
      `${owner.entity}.${role.name}: these two are linked ${there} times. Say which pairs, by what they hold, as in “${role.name}[${relation.table.value.name}.${field.name} = …] from …”.`,
    );
  if (own !== null) yield* deleteRows(doing, own);
  else yield* doing.change({ kind: 'delete', from: relation.table.value, where }, bound, []);
  return linked('unlinked', owner, role, other, []);
}

/** Pairs that are rows of an entity, of a condition, as far as whoever is at work may write them; null where no wall can stand on them. */
function* pairsInReach(
  doing: Doing,
  { table, entity }: AnyPivotRelation,
  { where, bound }: Meant,
): CommandWork<RowsToWrite | null> {
  if (doing.actor === SYSTEM || entity === null) return null;
  return yield* inReach(doing, entity, yield* keysOfPairs(doing, { table: table.value, entity, where, bound }));
}

function* keysOfPairs(
  doing: Doing,
  { table, entity, where, bound }: Meant & { readonly table: TableName; readonly entity: string },
): CommandWork<readonly Wire[]> {
  const { key } = entityOf(doing.model, entity);
  const columns = key.fields.map((field) => ({ expression: column(null, field.column.value), as: null }));
  const sql = doing.dialect.printQuery(selectOf(tableSource(table), { columns, where }));
  const answer = yield { kind: 'read', sql, values: bound };
  const rows = answer.kind === 'written' ? answer.result.rows : [];
  return rows.map((row) =>
    joinKey(
      key.type,
      key.fields.map(({ type }, at) => decoded(doing, type, row[at])),
    ),
  );
}

/** A condition on the rows of a table, with its values. */
interface Meant {
  readonly where: SqlExpression | null;
  readonly bound: readonly BoundValue[];
}

/** How many pairs there are of a condition, as whoever is at work sees them. */
function* pairsThere(doing: Doing, { table, entity }: AnyPivotRelation, { where, bound }: Meant): CommandWork<number> {
  const { dialect } = doing;
  if (doing.actor !== SYSTEM && entity !== null) {
    const keys = yield* keysOfPairs(doing, { table: table.value, entity, where, bound });
    return (yield* doing.rowsByKey(entity, keys)).size;
  }
  const columns = [{ expression: { kind: 'count rows' } as const, as: null }];
  const select = selectOf(tableSource(table.value), { columns, where });
  const answer = yield { kind: 'read', sql: dialect.printQuery(select), values: bound };
  return answer.kind === 'written' ? Number(answer.result.rows[0]?.[0] ?? 0) : 0;
}

/** The condition that a pair is of these two; of a symmetric one, in either order. */
function ofPair(
  { dialect }: Doing,
  { relation }: Pair,
  cells: readonly Cell[],
): { readonly where: SqlExpression | null; readonly bound: readonly BoundValue[] } {
  const bound: BoundValue[] = [];
  const all = (some: readonly Cell[]) =>
    allOf(
      some.map(({ column: name, type, value }): SqlExpression => {
        if (value === null) return { kind: 'is null', operand: column(null, name), negated: false };
        bound.push(dialect.values.bind(type, value));
        return { kind: 'binary', operator: '=', left: column(null, name), right: { kind: 'placeholder', number: bound.length } };
      }),
    );
  const symmetric = relation.kind === 'pivot' && relation.form === 'symmetric';
  const either = [all(cells), ...(symmetric ? [all(turnedCells(relation, cells))] : [])];
  return { where: anyOf(either.flatMap((one) => one ?? [])), bound };
}

/** The cells of a pair that hold the keys of both. */
function pairCells(model: Model, { relation, role, owner, other }: Pair): Cell[] {
  const { way } = role;
  if (way.kind !== 'pivot') throw new Error(`${role.name} leads over no pivot`);
  const types = storedColumnTypes(model, relation);
  const holder = relation.entity ?? role.entity;
  const cell = (name: string, value: Wire): Cell => ({
    column: name,
    type: types.get(name) ?? { kind: 'text', length: null },
    value,
    owner: holder,
  });
  const plain = (columns: readonly string[], { entity, key }: RowAt): Cell[] => {
    const parts = splitKey(entityOf(model, entity).key.type, key);
    return columns.map((name, index) => cell(name, parts[index] ?? null));
  };
  if (relation.kind === 'pivot') return [...plain(way.near, owner), ...plain(way.far, other)];
  const near = relation.near.columns.map(({ value }) => value);
  const [holding, led] = near.join() === way.near.join() ? [owner, other] : [other, owner];
  return [
    ...plain(near, holding),
    ...Array.from(polymorphicCells(model, keysOfTargets(relation), led), ([name, value]) => cell(name, value)),
  ];
}

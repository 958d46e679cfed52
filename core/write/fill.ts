import type { CommandRows, WrittenValue } from '../model/index.js';
import {
  type Entity,
  type Expression,
  entityOf,
  type Field,
  holdingsOf,
  lineage,
  type Model,
  type Relation,
  type Role,
  readsRow,
  someExpression,
  storedColumnTypes,
} from '../model/index.js';
import { evaluate, polymorphicCells } from '../samples/index.js';
import { parseWire, splitKey, type ValueType, type Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import type { Cell } from './cell.js';
import type { Computed } from './computed.js';
import { type Doing, NO_ROW, Refused, refuse } from './doing.js';
import { findOne, findRows } from './find-rows.js';
import type { RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';
import type { FilledBy, Lacked, WrittenCell } from './told.js';

/** The values of a row that is to be written, by their columns, with what filled each. */
export class Filling {
  readonly cells = new Map<string, Cell>();
  readonly told: WrittenCell[] = [];
  private readonly filledBy = new Map<string, string>();

  constructor(readonly entity: string) {}

  /** Fills columns; where another has filled one with another value, the two disagree, and nothing is written. */
  fill(name: string, by: FilledBy, value: Wire, cells: readonly Cell[]): void {
    for (const cell of cells) {
      const before = this.cells.get(cell.column);
      if (before !== undefined && JSON.stringify(before.value) !== JSON.stringify(cell.value))
        refuse(
          `${this.entity}.${name} and ${this.entity}.${this.filledBy.get(cell.column)} both fill ${cell.column}, with ${shown(cell.value)} and with ${shown(before.value)}. Leave one of the two out.`,
        );
      this.cells.set(cell.column, cell);
      if (before === undefined) this.filledBy.set(cell.column, name);
    }
    this.told.push({ name, by, value });
  }

  has(column: string): boolean {
    return this.cells.has(column);
  }
}

function shown(value: Wire): string {
  return typeof value === 'string' ? `'${value}'` : JSON.stringify(value);
}

/** Fills in the values that a command gives. @param computed those that read the row as it is; null where there is none yet */
export function* fillGiven(
  doing: Doing,
  filling: Filling,
  values: readonly WrittenValue[],
  computed: Computed | null,
): CommandWork<void> {
  for (const value of values) {
    if (value.kind === 'field') {
      const known = computed?.get(value);
      const wire = known === undefined ? wireOf(doing, value.field, value.expression) : fitted(value.field, known);
      filling.fill(value.field.name, readsRow(value.expression) ? 'computed' : 'given', wire, [cellOf(value.field, wire)]);
      continue;
    }
    const { role, rows } = value;
    const target = rows === null ? null : yield* targetOf(doing, rows, `${filling.entity}.${role.name}`);
    filling.fill(role.name, 'given', target?.key ?? null, cellsOfRole(doing.model, role, target));
  }
}

/** The row that a role is set to: one that is there, or that another command is still to make. */
function* targetOf(doing: Doing, rows: CommandRows, what: string): CommandWork<RowAt> {
  // What was found ahead was found past all walls.
  const ahead = doing.actor === SYSTEM ? doing.ahead.of(rows) : null;
  if (ahead !== null) return ahead;
  const toCome = doing.ahead.toCome(rows, doing.line);
  if (toCome === null) return yield* findOne(doing, rows, what);
  const [there] = yield* findRows(doing, rows);
  return there ?? toCome;
}

/** A field's value as its column holds it. */
export function cellOf(field: Field, value: Wire): Cell {
  return { column: field.column.value, type: field.type, value, owner: field.owner };
}

/** The value of an expression that reads no row, as a field's type has it. */
function wireOf({ inputs, actor }: Doing, field: Field, expression: Expression): Wire {
  if (readsRow(expression))
    return refuse(`${field.name}: a row that is made has no values yet to be computed with. Give the value itself.`);
  if (actor === SYSTEM && someExpression(expression, ({ kind }) => kind === 'me')) return refuse(NO_ROW);
  const mine = (part: Expression) => {
    const value = part.kind === 'me' && actor !== SYSTEM ? (actor.me?.get(part.name) ?? null) : undefined;
    return typeof value === 'object' && value !== null ? undefined : value;
  };
  const value = expression.kind === 'value' ? expression.value : evaluate(expression, () => null, inputs.now, mine);
  return value === undefined
    ? refuse(`${field.name}: this cannot be computed for a row that is put in. Give the value itself.`)
    : fitted(field, value);
}

/** A value as a field's type has it. */
function fitted(field: Field, value: Wire): Wire {
  if (value === null || typeof value === 'boolean' || typeof value === 'object' || field.type.kind === 'json') return value;
  const parsed = parseWire(field.type, String(value));
  return parsed.ok ? parsed.value : refuse(`${field.name}: ${parsed.problem}`);
}

/** The cells by which a row points at another over a role; all null where it points at none. */
export function cellsOfRole(model: Model, role: Role, target: RowAt | null): Cell[] {
  const relation = relationOf(model, role);
  const { holder } = holdingsOf(relation);
  const owner = holder ?? role.entity;
  if (relation.kind === 'key') {
    const { key } = entityOf(model, relation.parent);
    const values = target === null ? [] : splitKey(key.type, target.key);
    return relation.columns.map(({ value: column }, index) => ({
      column,
      type: key.fields[index]?.type ?? key.type,
      value: values[index] ?? null,
      owner,
    }));
  }
  const types = storedColumnTypes(model, relation);
  const keys = holdingsOf(relation).keys.filter(
    ({ target: one }) => relation.kind !== 'polymorphic pivot' || one !== relation.near.entity,
  );
  return Array.from(polymorphicCells(model, keys, target), ([column, value]) => ({
    column,
    type: types.get(column) ?? { kind: 'text', length: null },
    value,
    owner,
  }));
}

/** The relation of a role. @throws where the model has none, which only a bug can bring about */
export function relationOf(model: Model, { relation }: Role): Relation {
  const found = model.relations.get(relation);
  if (found === undefined) throw new Error(`no relation ${relation}`);
  return found;
}

/** Fills in what nothing was said of: defaults of the text, and a key that tells rows apart by a uuid. */
export function fillDefaults(doing: Doing, filling: Filling): void {
  const { fields, key } = entityOf(doing.model, filling.entity);
  for (const field of fields) {
    if (filling.has(field.column.value) || field.physical.generated !== null) continue;
    const value = defaultOf(doing, field);
    if (value !== undefined) filling.fill(field.name, 'default', value, [cellOf(field, value)]);
    else if (field.default === null && field.key && field.type.kind === 'uuid' && key.fields.length === 1) {
      const uuid = doing.nextUuid();
      filling.fill(field.name, 'computed', uuid, [cellOf(field, uuid)]);
    }
  }
}

/** The value that a field has where nothing is said of it; undefined where it has none, or the database computes it. */
export function defaultOf({ inputs }: Doing, { type, default: value }: Field): Wire | undefined {
  if (value === null || value.kind === 'sql') return undefined;
  return value.kind === 'value' ? value.value : momentOf(type, value.kind, inputs.now);
}

/** Fills in the fields that are the moment at which their row was changed. */
export function fillChanged({ model, inputs }: Doing, filling: Filling): void {
  for (const field of entityOf(model, filling.entity).fields) {
    if (!field.onUpdateNow || filling.has(field.column.value)) continue;
    const moment = momentOf(field.type, 'now', inputs.now);
    filling.fill(field.name, 'computed', moment, [cellOf(field, moment)]);
  }
}

/** Now or today as a type has it. */
function momentOf(type: ValueType, which: 'now' | 'today', now: string): Wire {
  if (type.kind === 'date') return now.slice(0, 10);
  if (type.kind === 'time') return now.slice(11, 19);
  return which === 'now' ? now : `${now.slice(0, 10)}T00:00:00.000000Z`;
}

/** Refuses a row that lacks what it has to have, before a constraint does. */
export function refuseLacking({ model }: Doing, filling: Filling): void {
  const { entity, cells } = filling;
  const isFilled = (column: string) => (cells.has(column) ? cells.get(column)?.value !== null : null);
  const [first] = lackedBy(model, entity, isFilled);
  if (first === undefined) return;
  throw new Refused({ kind: 'lacking', of: entity, lacked: first });
}

/** What a row lacks. @param isFilled whether a column holds something; null where nothing is said of it */
export function lackedBy(model: Model, name: string, isFilled: (column: string) => boolean | null): readonly Lacked[] {
  const entity = entityOf(model, name);
  const roles = rolesHeld(model, entity).filter(
    (role) =>
      role.knows === 'one' &&
      cellsOfRole(model, role, null).some(({ column }) => isFilled(column) !== true && !hasDefault(entity, column)),
  );
  const fields = entity.fields.filter(
    (field) =>
      field.required &&
      field.default === null &&
      field.physical.generated === null &&
      isFilled(field.column.value) !== true &&
      (!isNumbered(entity, field) || isFilled(field.column.value) !== null),
  );
  return [
    ...roles.map(({ name: role, target }): Lacked => ({ kind: 'role', name: role, target })),
    ...fields.map((field): Lacked => ({ kind: 'field', name: field.name })),
  ];
}

/** The roles of an entity whose keys it holds itself; of one that leads to several entities its first branch. */
function rolesHeld(model: Model, entity: Entity): Role[] {
  const own = entity.roles.filter(({ way }) => way.kind === 'key');
  const several = entity.polymorphic.flatMap(({ branches: [first] }) => (first?.way.kind === 'key' ? [first] : []));
  // Of a key for each of several entities one is filled, which the table's own check keeps.
  return [...own, ...several.filter((role) => cellsOfRole(model, role, null).length <= 2)];
}

function hasDefault({ fields }: Entity, column: string): boolean {
  return fields.some((field) => field.column.value === column && field.default !== null);
}

/** Does the engine number a field, where nothing is said of it? */
export function isNumbered({ key }: Entity, field: Field): boolean {
  return field.key && key.fields.length === 1 && (field.type.kind === 'integer' || field.type.kind === 'bigint');
}

/** The rules of a row: its own and those of the bases above it. */
export function rulesOf(
  model: Model,
  entity: string,
): readonly { readonly owner: string; readonly rule: Entity['rules'][number] }[] {
  return lineage(model, entity).flatMap((one) => one.rules.map((rule) => ({ owner: one.name, rule })));
}

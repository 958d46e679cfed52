import { nameText, valueText } from '../../edits/index.js';
import {
  type Entity,
  type Expression,
  entityOf,
  type Field,
  type Model,
  type Role,
  someExpression,
  type Wall,
} from '../../model/index.js';
import { parseWire, splitKey, type ValueType, type Wire } from '../../values/index.js';
import type { RowAt } from '../../write/index.js';
import { isRow, keyRoles, namedRow, type Witness } from './way.js';

/** Rows that commands are tried with, as somebody. */
export interface WriteSite {
  readonly model: Model;
  readonly entity: Entity;
  /** The walls that stand for them. */
  readonly walls: readonly Wall[];
  /** A row that they may not change: also not read, or read alone. */
  readonly kept: Witness;
  readonly isRead: boolean;
  /** Walls that keep rows from being written keep it, too: no other row may come to hold the same. */
  readonly isKeptOnWrite: boolean;
  /** A row of the same entity that they may change; null where there is none. */
  readonly own: Witness | null;
  /** For each role that leads to the entity, a row of the role's entity that they may change. */
  readonly owners: readonly { readonly role: Role; readonly owner: Witness }[];
}

/**
 * Commands that are tried on somebody's behalf, and how it is told whether a wall has held. *as missing*: with the key of a row that
 * is not there they come to the same, in the same words. *refused*: they write nothing. *untouched*: the row is not among those
 * that they tell of.
 */
export interface Attempt {
  readonly way: string;
  readonly commands: string;
  readonly holds:
    | { readonly kind: 'as missing'; readonly instead: string }
    | { readonly kind: 'refused' }
    | { readonly kind: 'untouched' };
}

/** The commands by which a row could be written that is kept from somebody. */
export function attemptsOn(site: WriteSite): readonly Attempt[] {
  return [...onRow(site), ...asTarget(site), ...soughtAnew(site), ...copies(site)];
}

/** A key that no row is likely to have: beside another of the same type. */
export function missingKey(type: ValueType, key: Wire): Wire | null {
  if (type.kind === 'composite') {
    const parts = splitKey(type, key);
    const [first] = type.parts;
    const other = first === undefined ? null : missingKey(first, parts[0] ?? null);
    const text = [other, ...parts.slice(1)];
    return other === null ? null : JSON.stringify(text);
  }
  switch (type.kind) {
    case 'integer':
      return 2_000_000_011;
    case 'bigint':
      return '9000000000000000011';
    case 'text':
      return [...'~~none'].slice(0, type.length ?? undefined).join('');
    case 'uuid':
      return '00000000-0000-4000-8000-00000000dead';
    default: {
      const parsed = parseWire(type, '987654321');
      return parsed.ok ? parsed.value : null;
    }
  }
}

/** A row named, and the same with a key that no row has. */
function named(model: Model, row: RowAt): { readonly there: string; readonly missing: string } | null {
  const other = missingKey(entityOf(model, row.entity).key.type, row.key);
  return other === null ? null : { there: namedRow(model, row), missing: namedRow(model, { entity: row.entity, key: other }) };
}

/** The row itself is changed or deleted, by its key and by a condition. */
function* onRow({ model, entity, kept }: WriteSite): Generator<Attempt> {
  const names = named(model, kept);
  const field = changeable(entity)[0];
  const set =
    field === undefined ? null : `${nameText(field.name)} ${valueText(field.type, kept.values.get(field.name) ?? null)}`;
  const where = `${nameText(entity.name)}[${isRow(model, kept)}]`;
  for (const command of [...(set === null ? [] : [['update', ` with ${set}`] as const]), ['delete', ''] as const]) {
    const [verb, rest] = command;
    if (names !== null)
      yield {
        way: `${verb} by key`,
        commands: `${verb} ${names.there}${rest}`,
        holds: { kind: 'as missing', instead: `${verb} ${names.missing}${rest}` },
      };
    yield { way: `${verb} by condition`, commands: `${verb} ${where}${rest}`, holds: { kind: 'untouched' } };
  }
}

/** The row is pointed at: by rows that may be changed, by new ones, by pairs. A row that is read may be. */
function* asTarget({ model, kept, isRead, owners }: WriteSite): Generator<Attempt> {
  const names = named(model, kept);
  if (isRead || names === null) return;
  for (const { role, owner } of owners) {
    const from = namedRow(model, owner);
    const name = nameText(role.name);
    const pair = (commands: (row: string) => string, way: string): Attempt => ({
      way,
      commands: commands(names.there),
      holds: { kind: 'as missing', instead: commands(names.missing) },
    });
    if (role.way.kind === 'key') {
      yield pair((row) => `update ${from} with ${name} ${row}`, 'point at');
      const others = copied(model, owner, [role.name, ...role.way.columns]);
      if (others !== null)
        yield pair(
          (row) => `create ${nameText(owner.entity)} with ${[`${name} ${row}`, ...others].join(', ')}`,
          'create that points at',
        );
      continue;
    }
    if (role.way.kind === 'path') continue;
    yield pair((row) => `link ${from}.${name} to ${row}`, 'link');
    yield pair((row) => `unlink ${from}.${name} from ${row}`, 'unlink');
    const back = entityOf(model, kept.entity).roles.find(
      (one) => one.relation === role.relation && one.name !== role.name && one.knows === 'many',
    );
    if (back !== undefined) yield pair((row) => `link ${row}.${nameText(back.name)} to ${from}`, 'link from behind the wall');
  }
}

/** The row is sought by a value that it alone has, to be found, changed or made. */
function* soughtAnew({ model, entity, kept, isRead, own }: WriteSite): Generator<Attempt> {
  const uniques = entity.fields.filter(({ unique, name }) => unique !== null && (kept.values.get(name) ?? null) !== null);
  for (const { name, type } of uniques) {
    const sought = `${nameText(entity.name)}[${nameText(name)} = ${valueText(type, kept.values.get(name) ?? null)}]`;
    const others = copied(model, own ?? kept, [...entity.fields.filter(({ unique }) => unique !== null).map((one) => one.name)]);
    const rest = others === null || others.length === 0 ? '' : ` with ${others.join(', ')}`;
    // A row that is read may be found.
    if (!isRead) yield { way: 'find or create', commands: `find or create ${sought}${rest}`, holds: { kind: 'untouched' } };
    yield { way: 'create or update', commands: `create or update ${sought}${rest}`, holds: { kind: 'untouched' } };
  }
}

/** What the row holds is put into a new one, and into one that may be changed: neither may be where this one may not. */
function* copies({ model, entity, walls, kept, isKeptOnWrite, own }: WriteSite): Generator<Attempt> {
  if (!isKeptOnWrite || !isToldByRow(walls, entity)) return;
  const uniques = entity.fields.filter(({ unique }) => unique !== null).map(({ name }) => name);
  const pins = walls.flatMap((wall) => wall.pins.get(entity.name) ?? []);
  const values = copied(model, kept, uniques);
  const fresh = uniques.map((name) => freshValue(entity, name, kept));
  if (values === null || fresh.some((one) => one === null)) return;
  const all = [...values, ...fresh.flatMap((one) => one ?? [])];
  yield {
    way: pins.length > 0 ? 'create against a pin' : 'create',
    commands: `create ${nameText(entity.name)} with ${all.join(', ')}`,
    holds: { kind: 'refused' },
  };
  const changed = copied(model, kept, [...uniques, ...entity.fields.filter(({ fixed }) => fixed).map(({ name }) => name)]);
  if (own !== null && changed !== null && changed.length > 0)
    yield {
      way: 'move behind a wall',
      commands: `update ${namedRow(model, own)} with ${changed.join(', ')}`,
      holds: { kind: 'refused' },
    };
}

/** Whether what walls ask of an entity stands in the row itself: then another row with the same in it is kept as well. */
function isToldByRow(walls: readonly Wall[], entity: Entity): boolean {
  const keys = new Set(entity.key.fields.map(({ name }) => name));
  const isElsewhere = (part: Expression): boolean =>
    part.kind === 'quantified' ||
    part.kind === 'aggregated' ||
    part.kind === 'clock' ||
    (part.kind === 'role' && part.hops.length === 0) ||
    (part.kind === 'field' &&
      part.hops.length === 0 &&
      (keys.has(part.field) || isUnique(entity, part.field) || isFixed(entity, part.field)));
  return walls
    .filter(({ writes }) => writes)
    .every(({ conditions }) =>
      (conditions.get(entity.name) ?? []).every(({ kinds, holds }) => kinds === null && !someExpression(holds, isElsewhere)),
    );
}

function isUnique({ fields }: Entity, name: string): boolean {
  return fields.some((field) => field.name === name && field.unique !== null);
}

function isFixed({ fields }: Entity, name: string): boolean {
  return fields.some((field) => field.name === name && field.fixed);
}

/** The fields that a command may set to what another row has. */
export function changeable({ fields, key }: Entity): readonly Field[] {
  return fields.filter(
    ({ name, fixed, physical, unique }) =>
      !fixed && physical.generated === null && unique === null && !key.fields.some((field) => field.name === name),
  );
}

/** What a row holds and what it lacks, as a command says it, but for its key; null where it cannot be said. */
function copied(model: Model, row: Witness, without: readonly string[]): readonly string[] | null {
  const entity = entityOf(model, row.entity);
  const keys = new Set(entity.key.fields.map(({ name }) => name));
  const fields = entity.fields.flatMap(({ name, type, physical, column, required }): string[] => {
    const value = row.values.get(name) ?? null;
    const isOut = keys.has(name) || without.includes(name) || without.includes(column.value) || physical.generated !== null;
    if (isOut || (value === null && required)) return [];
    return [`${nameText(name)} ${value === null ? 'null' : valueText(type, value)}`];
  });
  const declared = new Set(entity.fields.map(({ column }) => column.value));
  const roles = keyRoles(entity).filter(({ name, way }) => {
    const isField = way.kind === 'key' && way.columns.every((one) => declared.has(one));
    return !isField && !without.includes(name);
  });
  const names = [...new Set(roles.map(({ name }) => name))];
  const pointing = names.flatMap((name): string[] => {
    const there = row.behind.get(name);
    if (there !== undefined) return [`${nameText(name)} ${namedRow(model, there)}`];
    return roles.some((role) => role.name === name && role.knows === 'at most one') ? [`${nameText(name)} null`] : [];
  });
  const needsKey = entity.key.fields.some(({ type, default: given }) => type.kind === 'text' && given === null);
  return needsKey ? null : [...fields, ...pointing];
}

/** Another value for a unique field, so that a copy is refused for nothing else; null where there is none to be had. */
function freshValue({ fields }: Entity, name: string, row: Witness): readonly string[] | null {
  const field = fields.find((one) => one.name === name);
  if (field === undefined || (!field.required && (row.values.get(name) ?? null) === null)) return [];
  const value = missingKey(field.type, row.values.get(name) ?? null);
  return value === null ? null : [`${nameText(name)} ${valueText(field.type, value)}`];
}

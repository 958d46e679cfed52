import { nameText, rowText, valueText } from '../../edits/index.js';
import { type Entity, entityOf, type Field, type Model, type Role } from '../../model/index.js';
import type { Wire } from '../../values/index.js';
import type { RowAt } from '../../write/index.js';

/** A row that ways are tried with: by what it is told apart, and what stands in it. */
export interface Witness {
  readonly entity: string;
  readonly key: Wire;
  /** Its stored values by the names of its fields, the hidden ones too. */
  readonly values: ReadonlyMap<string, Wire>;
  /** The rows behind its to-one roles whose keys it holds, by the names of the roles. */
  readonly behind: ReadonlyMap<string, RowAt>;
}

/** An entity of which a row is out of somebody's reach. */
export interface RowSite {
  readonly model: Model;
  readonly entity: Entity;
  readonly hidden: Witness;
}

/** A role behind which a row is out of somebody's reach, and a row of which it is the owner. */
export interface RoleSite extends RowSite {
  readonly role: Role;
  /** The role is a branch of one that leads to rows of several entities. */
  readonly branch: boolean;
  readonly owner: Witness;
}

/** A kind of way to come by a row: how it is called, and queries that go it. */
export interface Way<Site> {
  readonly name: string;
  queries(site: Site): readonly string[];
}

/** That a row is this one, as a condition. */
export function isRow(model: Model, { entity, values }: Witness): string {
  const { key } = entityOf(model, entity);
  return key.fields.map((field) => isValue(field, values.get(field.name) ?? null)).join(' and ');
}

/** That a field has this value, as a condition. */
export function isValue({ name, type }: Field, value: Wire): string {
  return value === null ? `${nameText(name)} is null` : `${nameText(name)} = ${valueText(type, value)}`;
}

/** A row as a text names it. */
export function namedRow(model: Model, { entity, key }: RowAt): string {
  return rowText({ entity, keyType: entityOf(model, entity).key.type, key });
}

/** The key's fields as terms of an order, so that no two rows stand as one. */
export function byKey({ key }: Entity): string {
  return key.fields.map(({ name }) => nameText(name)).join(', ');
}

/** The roles of an entity whose keys its own rows hold, each branch of one to several entities for itself. */
export function keyRoles({ roles, polymorphic }: Entity): readonly Role[] {
  return [...roles, ...polymorphic.flatMap(({ branches }) => branches)].filter(({ way }) => way.kind === 'key');
}

/** Types whose values engines neither order nor compare alike. */
const UNCOMPARED: ReadonlySet<string> = new Set(['json', 'bytes']);

/** The fields that a condition or an order can be over, whether or not an answer shows them. */
export function comparedFields({ fields }: Entity): readonly Field[] {
  return fields.filter(({ type }) => !UNCOMPARED.has(type.kind));
}

/** Fields that `max` and `min` can be of. */
export function orderedFields(entity: Entity): readonly Field[] {
  return comparedFields(entity).filter(({ type, hidden }) => !hidden && type.kind !== 'boolean');
}

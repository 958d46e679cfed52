import {
  type DerivedField,
  type Entity,
  type Field,
  lineage,
  type Model,
  type PolymorphicRole,
  pivotOf,
  plural,
  type Role,
  snakeCase,
} from '../model/index.js';

/** A field of rows as a resource has it. */
export interface Attribute {
  /** Its name among the members of a resource, which may not be `id` or `type` (JSON:API 1.1, “Fields”). */
  readonly member: string;
  readonly field: Field | DerivedField;
  /** Null for a derived field, which nobody sets. */
  readonly stored: Field | null;
}

/** A role of rows as a resource has it. */
export interface Relationship {
  readonly member: string;
  readonly role: Role | PolymorphicRole;
  readonly many: boolean;
  /** The entities behind it: several of a role to rows of any of them. */
  readonly targets: readonly string[];
  /** The fields of the pairs that it is kept by; none where they have none. */
  readonly pairFields: readonly Field[];
  /** A row may stand behind it several times. */
  readonly mayRepeat: boolean;
  /** A relation that is derived from others is read alone. */
  readonly readOnly: boolean;
}

/** What rows of an entity are over HTTP. */
export interface ResourceType {
  /** The type of its resources, and the name of its collection. */
  readonly name: string;
  readonly entity: Entity;
  readonly attributes: readonly Attribute[];
  readonly relationships: readonly Relationship[];
}

/** All resources of a design. */
export interface Resources {
  readonly byName: ReadonlyMap<string, ResourceType>;
  readonly byEntity: ReadonlyMap<string, ResourceType>;
}

/** The resources of a design: one type for each entity, each kind of a base with one of its own. */
export function resourcesOf(model: Model): Resources {
  const byName = new Map<string, ResourceType>();
  const byEntity = new Map<string, ResourceType>();
  for (const entity of model.entities.values()) {
    const name = freeName(plural(snakeCase(entity.name)), (one) => byName.has(one));
    const type: ResourceType = {
      name,
      entity,
      attributes: attributesOf(entity),
      relationships: relationshipsOf(model, entity),
    };
    byName.set(name, type);
    byEntity.set(entity.name, type);
  }
  return { byName, byEntity };
}

/** A name that is not taken: with a number behind it where it is. */
function freeName(name: string, isTaken: (name: string) => boolean): string {
  for (let number = 1; ; number++) {
    const wanted = number === 1 ? name : `${name}_${number}`;
    if (!isTaken(wanted)) return wanted;
  }
}

function attributesOf({ name: entity, fields, derived, key }: Entity): readonly Attribute[] {
  const isId = (field: Field) => field.name === 'id' && key.fields.length === 1 && key.fields[0]?.name === 'id';
  return [
    ...fields
      .filter((field) => !field.hidden && !isId(field))
      .map((field) => ({ member: memberName(entity, field.name), field, stored: field })),
    ...derived.map((field) => ({ member: memberName(entity, field.name), field, stored: null })),
  ];
}

/** A field’s name as a member: `id` and `type` mean something else there. */
function memberName(entity: string, name: string): string {
  return name === 'id' || name === 'type' ? `${snakeCase(entity)}_${name}` : name;
}

function relationshipsOf(model: Model, entity: Entity): readonly Relationship[] {
  const of = (role: Role | PolymorphicRole, targets: readonly string[], readOnly: boolean): Relationship => ({
    member: memberName(entity.name, role.name),
    role,
    many: role.knows === 'many',
    targets,
    pairFields: pairFieldsOf(model, role),
    mayRepeat: mayRepeat(model, role),
    readOnly: readOnly || targets.length === 0,
  });
  return [
    ...entity.roles.map((role) => of(role, [role.target], entity.given)),
    ...entity.polymorphic.map((role) =>
      of(
        role,
        role.branches.map(({ target }) => target),
        entity.given,
      ),
    ),
    ...entity.paths.map((role) => of(role, [role.target], true)),
  ];
}

function pairFieldsOf(model: Model, role: Role | PolymorphicRole): readonly Field[] {
  const [first] = 'branches' in role ? role.branches : [role];
  if (first?.way.kind !== 'pivot') return [];
  return pivotOf(model, first.relation).fields.filter(({ hidden }) => !hidden);
}

function mayRepeat(model: Model, role: Role | PolymorphicRole): boolean {
  const [first] = 'branches' in role ? role.branches : [role];
  return first?.way.kind === 'pivot' && pivotOf(model, first.relation).repeats;
}

/** Whether rows of an entity are also rows of another: its own, or a base of it. */
export function isOneOf(model: Model, name: string, other: string): boolean {
  return lineage(model, name).some((one) => one.name === other);
}

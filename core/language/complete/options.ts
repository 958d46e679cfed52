import { type AnyPivotRelation, type Entity, lineage, type Model } from '../../model/index.js';
import { typeName } from '../../values/index.js';
import { pivotOfRole, rolesOf, targetsOf } from '../scope.js';

const TYPES = 'integer bigint decimal real boolean text date time timestamp uuid json bytes'.split(' ');

/** Something that fits at the cursor. */
export interface Completion {
  readonly label: string;
  readonly kind:
    | 'keyword'
    | 'type'
    | 'entity'
    | 'mixin'
    | 'choice'
    | 'field'
    | 'role'
    | 'scope'
    | 'wall'
    | 'function'
    | 'parameter'
    | 'value';
  /** What it is, beside its name. */
  readonly detail: string;
}

/** Words of the notation as completions. */
export const keywords = (...words: readonly string[]): Completion[] =>
  words.map((label) => ({ label, kind: 'keyword' as const, detail: '' }));

/** A field as a completion, with its type beside it. */
export function fieldOption(label: string, detail: string): Completion {
  return { label, kind: 'field', detail };
}

/** A role as a completion, with the entities that it leads to, and the pivot that it goes over. */
export function roleOption(label: string, target: string, pivot: AnyPivotRelation | null = null): Completion {
  return { label, kind: 'role', detail: pivot === null ? `→ ${target}` : `→ ${target}, over ${pivot.table.value.name}` };
}

/** The roles of an entity; none where the entity is not known. */
export function rolesIn(entity: Entity | null): Completion[] {
  return rolesOf(entity).map((role) => roleOption(role.name, targetsOf(role).join(', ')));
}

/** The fields of a pivot by their own names, as they stand below its storage line. */
export function pivotFields(pivot: AnyPivotRelation): Completion[] {
  return pivot.fields.map((field) => fieldOption(field.name, typeName(field.type)));
}

/**
 * All that a condition on an entity can name: fields, derived fields, roles, scopes, and the fields of the pivot that it was
 * reached over.
 */
export function membersOf(model: Model, entity: Entity, pivot: AnyPivotRelation | null): Completion[] {
  const scopes = Array.from(model.scopes.values()).filter((scope) => scope.conditions.has(entity.name));
  return [
    ...entity.fields.map((field) => fieldOption(field.name, typeName(field.type))),
    ...entity.derived.map((field) => fieldOption(field.name, 'derived')),
    ...rolesOf(entity).map((role) => roleOption(role.name, targetsOf(role).join(', '), pivotOfRole(model, role))),
    ...scopes.map((scope): Completion => ({ label: scope.name, kind: 'scope', detail: 'scope' })),
    ...(pivot?.fields.map((field) => fieldOption(`${pivot.table.value.name}.${field.name}`, typeName(field.type))) ?? []),
  ];
}

/** The walls of a text. */
export function wallsOf(model: Model): Completion[] {
  return Array.from(model.walls.keys(), (label) => ({ label, kind: 'wall', detail: 'wall' }));
}

/** The entities of a text, each with its table. */
export function entitiesOf(model: Model): Completion[] {
  return Array.from(model.entities.values(), (entity) => ({
    label: entity.name,
    kind: 'entity',
    detail: entity.table.value.name,
  }));
}

/** The entities to which rows can be narrowed: those that a role leads to, or the kinds of an entity, and theirs. */
export function narrowedOf(model: Model, names: readonly string[]): Completion[] {
  const found = names.flatMap((name) => (names.length === 1 ? [] : [name]).concat(kindsBelow(model, name)));
  return found.length === 0 ? entitiesOf(model) : entitiesOf(model).filter(({ label }) => found.includes(label));
}

/** The kinds of an entity, and theirs. */
export function kindsBelow(model: Model, name: string): string[] {
  return (model.entities.get(name)?.kinds?.kinds ?? []).flatMap((kind) => [kind, ...kindsBelow(model, kind)]);
}

/** The sample rows that have a name, of an entity and of its kinds: the names alone, as behind `Branch(`. */
export function sampleRowsOf(model: Model, name: string): Completion[] {
  const are = (entity: string) => model.entities.has(entity) && lineage(model, entity).some((one) => one.name === name);
  return model.samples
    .filter(({ entity }) => are(entity))
    .flatMap(({ entity, rows }) =>
      rows.map((row): Completion => ({ label: row.name, kind: 'value', detail: `sample row of ${entity}` })),
    );
}

/** A mixin as if it were an entity, with the fields that it adds; null where no entity uses it. */
export function mixinAsEntity(model: Model, name: string): Entity | null {
  const user = Array.from(model.entities.values()).find(({ mixins }) => mixins.includes(name));
  if (user === undefined) return null;
  const fields = user.fields.filter(({ mixin }) => mixin === name);
  return { ...user, fields, derived: [], roles: [], polymorphic: [], paths: [] };
}

/** The mixins that some entity uses. */
export function mixinsOf(model: Model): Completion[] {
  const names = new Set(Array.from(model.entities.values()).flatMap((entity) => entity.mixins));
  return Array.from(names, (label) => ({ label, kind: 'mixin', detail: 'mixin' }));
}

/** The types of fields: those of the notation, and the choices of the text with their values. */
export function typesOf(model: Model): Completion[] {
  return [
    ...TYPES.map((label): Completion => ({ label, kind: 'type', detail: '' })),
    ...Array.from(
      model.choices.values(),
      (choice): Completion => ({
        label: choice.name,
        kind: 'choice',
        detail: choice.values.map(({ value }) => value).join(', '),
      }),
    ),
  ];
}

/** The values of a choice, as the notation quotes them. */
export function valuesOf(values: readonly { readonly value: string; readonly title: string | null }[]): Completion[] {
  return values.map(({ value, title }) => ({
    label: `'${value.replaceAll("'", "''")}'`,
    kind: 'value',
    detail: title ?? '',
  }));
}

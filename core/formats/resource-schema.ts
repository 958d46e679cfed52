import { type Attribute, type Relationship, type Resources, type ResourceType, valueTypeOf } from '../live/index.js';
import type { Field } from '../model/index.js';
import { givenSchema, type JsonSchema, orNull, valueSchema } from './value-schema.js';

/** What a resource is read and written as: the names of its schemas. */
export const asRead = ({ name }: ResourceType) => name;
export const asNew = ({ name }: ResourceType) => `${name}_new`;
export const asChanged = ({ name }: ResourceType) => `${name}_changed`;

/** The schemas of all resources, by their names: as they are read, made and changed. */
export function resourceSchemas(resources: Resources): Readonly<Record<string, JsonSchema>> {
  const all: Record<string, JsonSchema> = {};
  for (const type of resources.byName.values()) {
    if (type.entity.kinds?.abstract !== true) all[asRead(type)] = readSchema(type, resources);
    if (type.entity.given || type.entity.kinds?.abstract === true) continue;
    all[asNew(type)] = writtenSchema(type, resources, true);
    all[asChanged(type)] = writtenSchema(type, resources, false);
  }
  return all;
}

function object(properties: Readonly<Record<string, JsonSchema>>, required: readonly string[]): JsonSchema {
  return {
    type: 'object',
    properties,
    ...(required.length === 0 ? {} : { required: [...required] }),
    additionalProperties: false,
  };
}

function readSchema(type: ResourceType, resources: Resources): JsonSchema {
  const attributes = Object.fromEntries(type.attributes.map((one) => [one.member, told(one)]));
  const relationships = Object.fromEntries(type.relationships.map((one) => [one.member, relationshipSchema(one, resources)]));
  return {
    ...object(
      {
        type: { const: type.name },
        id: { type: 'string' },
        attributes: object(attributes, []),
        relationships: object(relationships, []),
        links: object({ self: { type: 'string' } }, ['self']),
        meta: { type: 'object' },
      },
      ['type', 'id', 'attributes', 'relationships', 'links'],
    ),
    ...noted(type.entity.note),
  };
}

/** A value as it is told: one that may be hidden from whoever reads it is then null. */
function told({ field, stored }: Attribute): JsonSchema {
  const type = valueTypeOf(field.type);
  const schema = type === null ? {} : valueSchema(type);
  return {
    ...orNull(schema),
    ...noted(field.note),
    ...(stored?.title === null || stored === null ? {} : { title: stored.title }),
  };
}

function noted(note: string | null): JsonSchema {
  return note === null ? {} : { description: note };
}

/** The resource identifiers that a relationship leads to: also those of the kinds of what it leads to. */
function identifier({ targets, pairFields }: Relationship, resources: Resources, isGiven: boolean): JsonSchema {
  const names = targets.flatMap((target) => namesBelow(resources, target));
  const pair = Object.fromEntries(pairFields.map((field) => [field.name, memberSchema(field, isGiven)]));
  const meta: Readonly<Record<string, JsonSchema>> = pairFields.length === 0 ? {} : { meta: object(pair, []) };
  return object({ type: { enum: names }, id: { type: 'string' }, ...meta }, ['type', 'id']);
}

function namesBelow(resources: Resources, entity: string): readonly string[] {
  const type = resources.byEntity.get(entity);
  if (type === undefined) return [];
  return [type.name, ...(type.entity.kinds?.kinds ?? []).flatMap((kind) => namesBelow(resources, kind))];
}

function memberSchema({ type, required }: Field, isGiven: boolean): JsonSchema {
  const schema = isGiven ? givenSchema(type) : valueSchema(type);
  return required ? schema : orNull(schema);
}

function relationshipSchema(one: Relationship, resources: Resources): JsonSchema {
  const named = identifier(one, resources, false);
  return {
    ...object(
      {
        links: object({ self: { type: 'string' }, related: { type: 'string' } }, ['self', 'related']),
        data: one.many ? { type: 'array', items: named } : { anyOf: [named, { type: 'null' }] },
        meta: { type: 'object' },
      },
      ['links'],
    ),
    ...noted(one.role.note),
  };
}

/** A resource as a body has it that makes one, or changes one. */
function writtenSchema(type: ResourceType, resources: Resources, isNew: boolean): JsonSchema {
  const set = type.attributes.filter(({ stored }) => {
    if (stored === null || stored.internal) return false;
    return isNew || !(stored.fixed || stored.key);
  });
  const attributes = Object.fromEntries(
    set.flatMap(({ member, stored }) => (stored === null ? [] : [[member, memberSchema(stored, true)] as const])),
  );
  const needed = set.flatMap(({ member, stored }) =>
    isNew && stored?.required && stored.default === null && !stored.key && stored.physical.generated === null ? [member] : [],
  );
  const over = type.relationships.filter(({ readOnly }) => !readOnly);
  const relationships = Object.fromEntries(
    over.map((one) => {
      const named = identifier(one, resources, true);
      const isOptional = one.role.knows !== 'one';
      const data = one.many ? { type: 'array', items: named } : isOptional ? { anyOf: [named, { type: 'null' }] } : named;
      return [one.member, object({ data }, ['data'])];
    }),
  );
  return object(
    {
      type: { const: type.name },
      id: { type: 'string' },
      attributes: object(attributes, needed),
      relationships: object(relationships, []),
    },
    isNew ? ['type', ...(needed.length > 0 ? ['attributes'] : [])] : ['type', 'id'],
  );
}

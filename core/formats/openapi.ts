import type { Design } from '../design/index.js';
import {
  MEDIA_TYPE,
  MOST_PAGE_SIZE,
  PAGE_SIZE,
  QUERIES,
  type Relationship,
  type Resources,
  type ResourceType,
  resourcesOf,
  valueTypeOf,
} from '../live/index.js';
import { entityOf, type Model, type Query } from '../model/index.js';
import { asChanged, asNew, asRead, resourceSchemas } from './resource-schema.js';
import { givenSchema, type JsonSchema } from './value-schema.js';

/** Documents of resources that were read, to be shown as examples: by the path and the name of the answer. */
export type Examples = ReadonlyMap<string, unknown>;

/** What the endpoint of a design answers to (OpenAPI 3.1). @param server the address that its paths begin with */
export function openApi(
  { model }: Design,
  { server = '/live/TREE', examples = new Map() }: { server?: string; examples?: Examples } = {},
): string {
  const resources = resourcesOf(model);
  const paths: Record<string, JsonSchema> = {};
  for (const type of resources.byName.values()) {
    Object.assign(paths, pathsOf(type, resources, examples));
  }
  for (const query of model.queries.values()) paths[`/${QUERIES}/${query.name ?? ''}`] = savedPath(model, query);
  const document = {
    openapi: '3.1.0',
    info: {
      title: model.title,
      version: '1',
      description: [
        model.note ?? '',
        'JSON:API 1.1 over the rows of this design, its walls in force. A server to try a client against.',
      ]
        .filter((one) => one !== '')
        .join('\n\n'),
    },
    servers: [{ url: server }],
    security: [{}, { actor: [] }, { actor: [], token: [] }],
    paths,
    components: {
      schemas: { ...resourceSchemas(resources), errors: ERRORS },
      parameters: parameters(),
      responses: Object.fromEntries(
        Object.entries(FAULTS).map(([status, description]) => [`fault_${status}`, faultResponse(description)]),
      ),
      securitySchemes: {
        actor: {
          type: 'apiKey',
          in: 'header',
          name: 'Actor',
          description: 'On whose behalf: the id of a row of the actor’s entity, nobody, or system.',
        },
        token: { type: 'http', scheme: 'bearer', description: 'What lets a client work as the system.' },
      },
    },
  };
  return `${JSON.stringify(document, null, 2)}\n`;
}

const FAULTS = {
  400: 'The address asks for what there is not',
  403: 'It may be read, and not written',
  404: 'There is no such resource within reach',
  409: 'It stands against what is there',
  412: 'It was changed since it was read',
  415: 'The body is of another media type',
  422: 'A value does not fit',
} as const;

const ERRORS: JsonSchema = {
  type: 'object',
  properties: {
    jsonapi: { type: 'object' },
    errors: {
      type: 'array',
      items: {
        type: 'object',
        properties: {
          status: { type: 'string' },
          title: { type: 'string' },
          detail: { type: 'string' },
          source: {
            type: 'object',
            properties: { pointer: { type: 'string' }, parameter: { type: 'string' }, header: { type: 'string' } },
          },
        },
        required: ['status', 'title', 'detail'],
      },
    },
  },
  required: ['errors'],
};

function refer(name: string): JsonSchema {
  return { $ref: `#/components/schemas/${name}` };
}

function content(schema: JsonSchema, example?: unknown): JsonSchema {
  return { [MEDIA_TYPE]: { schema, ...(example === undefined ? {} : { example }) } };
}

function faultResponse(description: string): JsonSchema {
  return { description, content: content(refer('errors')) };
}

function faults(...statuses: readonly (keyof typeof FAULTS)[]): JsonSchema {
  return Object.fromEntries(statuses.map((status) => [String(status), { $ref: `#/components/responses/fault_${status}` }]));
}

function parameters(): Record<string, JsonSchema> {
  const text = { type: 'string' };
  const query = (name: string, description: string, schema: JsonSchema) => ({ name, in: 'query', description, schema });
  return {
    id: { name: 'id', in: 'path', required: true, schema: text, description: 'The key; of several fields, their list as JSON.' },
    include: query('include', 'Paths of relationships whose resources are told along, with commas between.', text),
    sort: query('sort', 'Attributes to sort by, also over relationships to one; a minus for descending.', text),
    filter: query('filter', "A condition of the notation, as in overdue and borrower.branch.name = 'North Quay'.", text),
    size: query('page[size]', 'How many resources a page has.', {
      type: 'integer',
      minimum: 1,
      maximum: MOST_PAGE_SIZE,
      default: PAGE_SIZE,
    }),
    number: query('page[number]', 'Which page.', { type: 'integer', minimum: 1, default: 1 }),
    after: query('page[after]', 'The cursor behind which the page begins; empty for the first.', text),
    total: query('page[total]', 'Whether it is told how many there are in all.', { type: 'boolean', default: false }),
    fields: {
      name: 'fields',
      in: 'query',
      style: 'deepObject',
      explode: true,
      description: 'The members that resources of a type are told with: fields[players]=name,branch.',
      schema: { type: 'object', additionalProperties: text },
    },
  };
}

function refs(...names: readonly string[]): readonly JsonSchema[] {
  return names.map((name) => ({ $ref: `#/components/parameters/${name}` }));
}

/** The resources that an answer about an entity’s rows may have: of the entity, or of any kind of it. */
function anyOf(type: ResourceType, resources: Resources): JsonSchema {
  const names = below(type, resources);
  return names.length === 1 ? refer(names[0] ?? '') : { anyOf: names.map(refer) };
}

function below(type: ResourceType, resources: Resources): readonly string[] {
  const { kinds } = type.entity;
  const own = kinds?.abstract === true ? [] : [asRead(type)];
  return [
    ...own,
    ...(kinds?.kinds ?? []).flatMap((kind) => {
      const next = resources.byEntity.get(kind);
      return next === undefined ? [] : below(next, resources);
    }),
  ];
}

function document(data: JsonSchema): JsonSchema {
  return {
    type: 'object',
    properties: {
      jsonapi: { type: 'object' },
      data,
      included: { type: 'array', items: { type: 'object' } },
      links: { type: 'object' },
      meta: { type: 'object' },
    },
    required: ['data'],
  };
}

function pathsOf(type: ResourceType, resources: Resources, examples: Examples): Record<string, JsonSchema> {
  const { name, entity } = type;
  const one = document(anyOf(type, resources));
  const many = document({ type: 'array', items: anyOf(type, resources) });
  const words = { tags: [name] };
  const isWritten = !entity.given && entity.kinds?.abstract !== true;
  const collection = {
    get: {
      ...words,
      operationId: `list_${name}`,
      summary: `A page of ${name}`,
      parameters: refs('include', 'fields', 'sort', 'filter', 'size', 'number', 'after', 'total'),
      responses: { 200: { description: `A page of ${name}`, content: content(many, examples.get(`/${name}`)) }, ...faults(400) },
    },
    ...(isWritten
      ? {
          post: {
            ...words,
            operationId: `create_${name}`,
            summary: `Make one of ${name}`,
            requestBody: {
              required: true,
              content: content({ type: 'object', properties: { data: refer(asNew(type)) }, required: ['data'] }),
            },
            responses: { 201: { description: 'It is made', content: content(one) }, ...faults(400, 403, 404, 409, 415, 422) },
          },
        }
      : {}),
  };
  const resource = {
    parameters: refs('id'),
    get: {
      ...words,
      operationId: `read_${name}`,
      summary: `One of ${name}`,
      parameters: refs('include', 'fields'),
      responses: {
        200: { description: `One of ${name}`, content: content(one, examples.get(`/${name}/{id}`)) },
        ...faults(400, 404),
      },
    },
    ...(isWritten
      ? {
          patch: {
            ...words,
            operationId: `change_${name}`,
            summary: `Change one of ${name}`,
            requestBody: {
              required: true,
              content: content({ type: 'object', properties: { data: refer(asChanged(type)) }, required: ['data'] }),
            },
            responses: {
              200: { description: 'It is changed', content: content(one) },
              ...faults(400, 403, 404, 409, 412, 415, 422),
            },
          },
        }
      : {}),
    ...(entity.given
      ? {}
      : {
          delete: {
            ...words,
            operationId: `delete_${name}`,
            summary: `Delete one of ${name}`,
            responses: { 204: { description: 'It is gone' }, ...faults(403, 404, 409, 412) },
          },
        }),
  };
  const related = type.relationships.flatMap((over) => relationshipPaths(type, over, resources));
  return { [`/${name}`]: collection, [`/${name}/{id}`]: resource, ...Object.fromEntries(related) };
}

function relationshipPaths(
  type: ResourceType,
  over: Relationship,
  resources: Resources,
): readonly (readonly [string, JsonSchema])[] {
  const { member } = over;
  const targets = over.targets.flatMap((target) => resources.byEntity.get(target) ?? []);
  const names = targets.flatMap((target) => below(target, resources));
  const items = names.length === 1 ? refer(names[0] ?? '') : { anyOf: names.map(refer) };
  const data = over.many ? { type: 'array', items } : { anyOf: [items, { type: 'null' }] };
  const identifier = {
    type: 'object',
    properties: { type: { type: 'string' }, id: { type: 'string' }, meta: { type: 'object' } },
    required: ['type', 'id'],
  };
  const linkage = over.many ? { type: 'array', items: identifier } : { anyOf: [identifier, { type: 'null' }] };
  const words = { tags: [type.name] };
  const body = {
    requestBody: { required: true, content: content({ type: 'object', properties: { data: linkage }, required: ['data'] }) },
  };
  const done = { 204: { description: 'It is done' }, ...faults(403, 404, 409, 415, 422) };
  const writes = over.readOnly ? [] : over.many ? (['post', 'patch', 'delete'] as const) : (['patch'] as const);
  const verbs = { post: 'Add to', patch: 'Replace', delete: 'Take from' } as const;
  return [
    [
      `/${type.name}/{id}/${member}`,
      {
        parameters: refs('id'),
        get: {
          ...words,
          operationId: `read_${type.name}_${member}`,
          summary: `What ${member} of one of ${type.name} leads to`,
          parameters: refs('include', 'fields', ...pageParameters(over)),
          responses: { 200: { description: 'What is behind it', content: content(document(data)) }, ...faults(400, 404) },
        },
      },
    ],
    [
      `/${type.name}/{id}/relationships/${member}`,
      {
        parameters: refs('id'),
        get: {
          ...words,
          operationId: `linkage_${type.name}_${member}`,
          summary: `Which resources ${member} of one of ${type.name} leads to`,
          parameters: refs(...pageParameters(over)),
          responses: {
            200: { description: 'Which resources are behind it', content: content(document(linkage)) },
            ...faults(400, 404),
          },
        },
        ...Object.fromEntries(
          writes.map((method) => [
            method,
            {
              ...words,
              operationId: `${method}_${type.name}_${member}`,
              summary: `${verbs[method]} ${member} of one of ${type.name}`,
              ...body,
              responses: done,
            },
          ]),
        ),
      },
    ],
  ];
}

/** What a page of a relationship is asked for by: what is of several types is neither sorted nor filtered. */
function pageParameters({ many, targets }: Relationship): readonly string[] {
  if (!many) return [];
  return targets.length === 1 ? ['sort', 'filter', 'size', 'number', 'after'] : ['size', 'number'];
}

function savedPath(model: Model, { name, note, parameters: own }: Query): JsonSchema {
  const given = own.map((parameter) => {
    const type = valueTypeOf(parameter.type);
    const schema =
      type === null ? { type: 'string' } : givenSchema(type.kind === 'composite' ? { kind: 'text', length: null } : type);
    const row = parameter.type.kind === 'row' ? `The id of a row of ${entityOf(model, parameter.type.entity).name}.` : null;
    return {
      name: parameter.name,
      in: 'query',
      required: !parameter.optional,
      schema,
      ...(row === null ? {} : { description: row }),
    };
  });
  return {
    get: {
      tags: [QUERIES],
      operationId: `query_${name ?? ''}`,
      summary: note ?? `The saved query ${name ?? ''}`,
      parameters: given,
      responses: {
        200: { description: 'Its rows', content: content(document({ type: 'array', items: { type: 'object' } })) },
        ...faults(400),
      },
    },
  };
}

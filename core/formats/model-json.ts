import { type Design, readDesign } from '../design/index.js';
import { dialects } from '../dialects/index.js';
import {
  type Entity,
  type Field,
  holdingsOf,
  isPivot,
  type Model,
  type PolymorphicRole,
  type Relation,
  type Role,
  storedColumnsOf,
} from '../model/index.js';
import { typeName } from '../values/index.js';
import type { JsonSchema } from './value-schema.js';

/** The version of the model’s JSON. It is another where a reader of the one before would read it wrongly. */
export const MODEL_VERSION = 1;

/** The model of a design as JSON: what stands in its text with every convention filled in, and the text itself, from which it comes in again. */
export function modelJson({ model, text }: Design): string {
  const words = ({ start, end }: { readonly start: number; readonly end: number }) => text.slice(start, end).replace(/\s+/g, ' ');
  const document = {
    format: 'family-tree model',
    version: MODEL_VERSION,
    title: model.title,
    note: model.note,
    dialect: model.dialect,
    actor: model.actor,
    choices: Array.from(model.choices.values(), ({ name, values }) => ({ name, values: values.map(({ value }) => value) })),
    entities: Array.from(model.entities.values(), (entity) => entityJson(entity, words)),
    relations: Array.from(model.relations.values(), (relation) => relationJson(model, relation)),
    scopes: Array.from(model.scopes.values(), ({ name }) => ({ name })),
    walls: Array.from(model.walls.values(), ({ name, note, reads, writes, conditions, unless }) => ({
      name,
      note,
      reads,
      writes,
      lines: Array.from(conditions).flatMap(([entity, own]) =>
        own.map(({ kinds, holds }) => ({ entity, kinds, where: words(holds.span) })),
      ),
      unless: unless.map(({ span }) => words(span)),
    })),
    queries: Array.from(model.queries.values(), ({ name, note, entity, span, parameters }) => ({
      name,
      note,
      entity,
      parameters: parameters.map((one) => ({
        name: one.name,
        type: one.type.kind === 'row' ? one.type.entity : one.type.kind,
        optional: one.optional,
        many: one.many,
      })),
      text: text.slice(span.start, span.end),
    })),
    text,
  };
  return `${JSON.stringify(document, null, 2)}\n`;
}

type Words = (span: { readonly start: number; readonly end: number }) => string;

function entityJson(entity: Entity, words: Words): object {
  const { name, note, table, fields, derived, key, uniques, checks, rules, roles, polymorphic, paths, kinds, given, mixins } =
    entity;
  return {
    name,
    note,
    table: table.value,
    given,
    mixins: [...mixins],
    kinds:
      kinds === null
        ? null
        : { base: kinds.base, kinds: [...kinds.kinds], abstract: kinds.abstract, mark: kinds.mark, storage: kinds.storage.kind },
    key: key.fields.map((field) => field.name),
    fields: fields.map((field) => fieldJson(field)),
    derived: derived.map((field) => ({ name: field.name, expression: words(field.expression.span), note: field.note })),
    uniques: uniques.map(({ members, message }) => ({ members: [...members], message })),
    checks: checks.map(({ name: own, expression, message }) => ({ name: own, expression: words(expression.span), message })),
    rules: rules.map(({ name: own, expression, message }) => ({ name: own, expression: words(expression.span), message })),
    roles: [...roles.map(roleJson), ...polymorphic.map(roleJson)],
    paths: paths.map((path) => ({ name: path.name, knows: path.knows, target: path.target, path: words(path.span) })),
  };
}

function fieldJson(field: Field): object {
  const { name, type, column, required, unique, default: filled, allowed, hidden, internal, fixed, title, note, mixin } = field;
  return {
    name,
    type: typeName(type),
    column: column.value,
    stated: column.origin.kind === 'stated',
    required,
    unique: unique !== null,
    default: filled === null ? null : filled.kind === 'value' ? { value: filled.value } : { by: filled.kind },
    allowed: allowed === null ? null : [...allowed],
    hidden,
    internal,
    fixed,
    title,
    note,
    mixin,
  };
}

function roleJson(role: Role | PolymorphicRole): object {
  const targets = 'branches' in role ? role.branches.map(({ target }) => target) : [role.target];
  return { name: role.name, knows: role.knows, targets, relation: role.relation, note: role.note };
}

function relationJson(model: Model, relation: Relation): object {
  const { name, form, note, onDelete } = relation;
  const held = holdingsOf(relation);
  return {
    name,
    form,
    note,
    onDelete: onDelete.value,
    holder: isPivot(relation) ? null : held.holder,
    table: isPivot(relation) ? relation.table.value : null,
    columns: storedColumnsOf(relation).map(({ value, origin }) => ({ name: value, stated: origin.kind === 'stated' })),
    fields: isPivot(relation) ? relation.fields.map(fieldJson) : [],
    entities: Array.from(model.entities.values())
      .filter(({ roles, polymorphic }) => [...roles, ...polymorphic].some((role) => role.relation === name))
      .map((entity) => entity.name),
  };
}

/**
 * The design that a model’s JSON says. Its text is what counts, and all else in it is held against that text: so nothing that somebody
 * changed in it is passed over.
 *
 * @returns the text; or, for a person, why it says none
 */
export function textOfModel(json: string): { readonly text: string } | { readonly problem: string } {
  let read: unknown;
  try {
    // A mark of byte order is none of JSON (RFC 8259, 8.1), and stands there all the same.
    read = JSON.parse(json.replace(/^\uFEFF/, ''));
  } catch {
    return { problem: 'This is no JSON.' };
  }
  if (typeof read !== 'object' || read === null || !('format' in read) || read.format !== 'family-tree model')
    return { problem: 'This is no model: it has no format “family-tree model”.' };
  if (!('version' in read) || read.version !== MODEL_VERSION)
    return { problem: `This is a model of another version; ${MODEL_VERSION} is read here.` };
  if (!('text' in read) || typeof read.text !== 'string') return { problem: 'The model has no text.' };
  const dialect = 'dialect' in read ? Object.values(dialects).find(({ name }) => name === read.dialect) : undefined;
  const own: unknown = JSON.parse(modelJson(readDesign(read.text, dialect?.name ?? null)));
  const place = firstDifference(own, read, '');
  if (place === null) return { text: read.text };
  return {
    problem: `At ${place} the model says something else than its text. The text is what counts: change it there, and export the model anew.`,
  };
}

/** Where two values of JSON differ first, as a JSON pointer (RFC 6901); null where they are the same. */
function firstDifference(one: unknown, other: unknown, place: string): string | null {
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return one === other ? null : place;
  const members = new Set([...Object.keys(one), ...Object.keys(other)]);
  for (const member of members) {
    const below = `${place}/${member.replaceAll('~', '~0').replaceAll('/', '~1')}`;
    if (!Object.hasOwn(one, member) || !Object.hasOwn(other, member)) return below;
    const found = firstDifference(one[member as never], other[member as never], below);
    if (found !== null) return found;
  }
  return null;
}

const TEXT: JsonSchema = { type: 'string' };
const NOTE: JsonSchema = { type: ['string', 'null'] };
const TRUTH: JsonSchema = { type: 'boolean' };

function record(properties: Readonly<Record<string, JsonSchema>>): JsonSchema {
  return { type: 'object', properties, required: Object.keys(properties), additionalProperties: false };
}

function list(items: JsonSchema): JsonSchema {
  return { type: 'array', items };
}

/** What a model’s JSON is, as a schema that is published with it (JSON Schema 2020-12). */
export function modelSchema(): JsonSchema {
  const table = record({ schema: NOTE, name: TEXT });
  const condition = record({ name: TEXT, expression: TEXT, message: NOTE });
  const field = record({
    name: TEXT,
    type: TEXT,
    column: TEXT,
    stated: TRUTH,
    required: TRUTH,
    unique: TRUTH,
    default: { anyOf: [{ type: 'null' }, record({ value: {} }), record({ by: TEXT })] },
    allowed: { anyOf: [{ type: 'null' }, list({})] },
    hidden: TRUTH,
    internal: TRUTH,
    fixed: TRUTH,
    title: NOTE,
    note: NOTE,
    mixin: NOTE,
  });
  const knows: JsonSchema = { enum: ['one', 'at most one', 'many'] };
  const kinds = record({ base: NOTE, kinds: list(TEXT), abstract: TRUTH, mark: NOTE, storage: TEXT });
  const entity = record({
    name: TEXT,
    note: NOTE,
    table,
    given: TRUTH,
    mixins: list(TEXT),
    kinds: { anyOf: [{ type: 'null' }, kinds] },
    key: list(TEXT),
    fields: list(field),
    derived: list(record({ name: TEXT, expression: TEXT, note: NOTE })),
    uniques: list(record({ members: list(TEXT), message: NOTE })),
    checks: list(condition),
    rules: list(condition),
    roles: list(record({ name: TEXT, knows, targets: list(TEXT), relation: TEXT, note: NOTE })),
    paths: list(record({ name: TEXT, knows, target: TEXT, path: TEXT })),
  });
  const relation = record({
    name: TEXT,
    form: TEXT,
    note: NOTE,
    onDelete: TEXT,
    holder: NOTE,
    table: { anyOf: [{ type: 'null' }, table] },
    columns: list(record({ name: TEXT, stated: TRUTH })),
    fields: list(field),
    entities: list(TEXT),
  });
  const parameter = record({ name: TEXT, type: TEXT, optional: TRUTH, many: TRUTH });
  const wall = record({
    name: TEXT,
    note: NOTE,
    reads: TRUTH,
    writes: TRUTH,
    lines: list(record({ entity: TEXT, kinds: { anyOf: [{ type: 'null' }, list(TEXT)] }, where: TEXT })),
    unless: list(TEXT),
  });
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'A model of Family Tree, version 1',
    ...record({
      format: { const: 'family-tree model' },
      version: { const: MODEL_VERSION },
      title: TEXT,
      note: NOTE,
      dialect: TEXT,
      actor: NOTE,
      choices: list(record({ name: TEXT, values: list(TEXT) })),
      entities: list(entity),
      relations: list(relation),
      scopes: list(record({ name: TEXT })),
      walls: list(wall),
      queries: list(record({ name: NOTE, note: NOTE, entity: TEXT, parameters: list(parameter), text: TEXT })),
      text: TEXT,
    }),
  };
}

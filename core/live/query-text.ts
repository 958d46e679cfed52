import { nameText, rowText, valueText } from '../edits/index.js';
import { type AnswerRow, keyOfRow } from '../load/index.js';
import { type ExpressionType, entityOf, isPivot, type Model } from '../model/index.js';
import { parseWire, splitKey, type ValueType, type Wire } from '../values/index.js';
import { after, type CursorTerm, cursorTerms } from './cursor.js';
import { refuse } from './fault.js';
import type { Reading } from './reading.js';
import type { Relationship, Resources, ResourceType } from './resources.js';
import { sortPaths } from './sort.js';

/** Relationships that are told along, by their members, each with those below it. */
export interface Included {
  readonly over: Relationship;
  readonly below: readonly Included[];
}

/** A query of the notation that answers a request: a person can try it as it stands. */
export interface LiveQuery {
  readonly text: string;
  /** What stands in the text as `:size`, `:from`. */
  readonly parameters: Readonly<Record<string, string>>;
  readonly included: readonly Included[];
}

/** The words that say what parameters such a query has. */
export const PAGE_HEAD = 'size integer, from integer';

/** The resources of a type that a request asks for: a page of them, and one more to tell whether there are any behind it. */
export function collectionText(model: Model, resources: Resources, type: ResourceType, reading: Reading): LiveQuery {
  const included = includedIn(model, resources, [type], reading.include);
  const { page } = reading;
  const conditions = [...conditionsOf(model, type, reading)];
  if (page.kind === 'after') conditions.push(...behindCursor(collectionTerms(resources, type, reading), page.cursor));
  const order = orderOf(resources, type, reading);
  const lines = [
    `from ${nameText(type.entity.name)}`,
    ...conditions.map((condition) => `where ${condition}`),
    ...loadLines(included, 0),
    ...(order === null ? [] : [`order by ${order}`]),
    'limit :size',
    ...(page.kind === 'number' && page.number > 1 ? ['offset :from'] : []),
  ];
  const from = page.kind === 'number' ? (page.number - 1) * page.size : 0;
  return { text: lines.join('\n'), parameters: { size: String(page.size + 1), from: String(from) }, included };
}

/** The one resource of a key. */
export function resourceText(
  model: Model,
  resources: Resources,
  type: ResourceType,
  key: Wire,
  reading: Pick<Reading, 'include'>,
): LiveQuery {
  const included = includedIn(model, resources, [type], reading.include);
  const lines = [`from ${nameText(type.entity.name)}`, `where ${isKey(type, key)}`, ...loadLines(included, 0)];
  return { text: lines.join('\n'), parameters: {}, included };
}

/** The terms of the order that a collection is gone through by. @throws Faulty where there are no cursors of it */
export function collectionTerms(resources: Resources, type: ResourceType, { sort }: Reading): readonly CursorTerm[] {
  return cursorTerms(resources, type, sort, type.entity.orderBy);
}

/** The same of what is behind a role to many. @throws Faulty where there are no cursors of it */
export function relatedTerms(
  resources: Resources,
  { role, targets, mayRepeat }: Relationship,
  { sort }: Reading,
): readonly CursorTerm[] {
  const [only, ...others] = targets.flatMap((name) => resources.byEntity.get(name) ?? []);
  if (only === undefined || others.length > 0 || mayRepeat || 'branches' in role)
    return refuse(400, 'What may stand there several times, or be of several types, is asked for by the number of a page.', {
      parameter: 'page[after]',
    });
  return cursorTerms(resources, only, sort, role.orderBy.length > 0 ? role.orderBy : only.entity.orderBy);
}

function behindCursor(terms: readonly CursorTerm[], cursor: string | null): readonly string[] {
  return cursor === null ? [] : [after(terms, cursor)];
}

/** The values at which one row stands in an order, as far as they lie behind roles: a line of them. Null where none does. */
export function placeText(type: ResourceType, row: AnswerRow, terms: readonly CursorTerm[]): string | null {
  const behind = terms.filter(({ own }) => own === null);
  if (behind.length === 0) return null;
  const shown = behind.map(({ text }, at) => `${text} as place_${at + 1}`).join(', ');
  return [`from ${nameText(type.entity.name)}`, `where ${isKey(type, keyOfRow(type.entity, row))}`, `show ${shown}`].join('\n');
}

/** The resources behind a relationship of one, as a load below it; of many, those up to the end of the page and one more. */
export function relatedText(
  model: Model,
  resources: Resources,
  type: ResourceType,
  key: Wire,
  over: Relationship,
  reading: Reading,
): LiveQuery {
  const targets = over.targets.flatMap((name) => resources.byEntity.get(name) ?? []);
  const below = includedIn(model, resources, targets, reading.include);
  const { page } = reading;
  const only = targets.length === 1 ? targets[0] : undefined;
  if (only === undefined && (reading.sort.length > 0 || reading.filter !== null || reading.equal.size > 0))
    refuse(400, 'Resources of several types are neither sorted nor filtered: ask for those of one collection.', {
      parameter: reading.sort.length > 0 ? 'sort' : 'filter',
    });
  const behind = page.kind === 'after' && over.many ? behindCursor(relatedTerms(resources, over, reading), page.cursor) : [];
  const conditions = [...(only === undefined ? [] : conditionsOf(model, only, reading)), ...behind];
  const order = only === undefined ? null : orderOf(resources, only, reading);
  const most = page.kind === 'number' ? page.number * page.size + 1 : page.size + 1;
  const load = [
    `load ${nameText(over.role.name)}`,
    ...(conditions.length === 0 ? [] : [`where ${conditions.map((one) => `(${one})`).join(' and ')}`]),
    ...(order === null ? [] : [`order by ${order}`]),
    ...(over.many && only !== undefined ? [`limit ${most}`] : []),
  ].join(' ');
  const lines = [`from ${nameText(type.entity.name)}`, `where ${isKey(type, key)}`, load, ...nested(below, 1)];
  return { text: lines.join('\n'), parameters: {}, included: [{ over, below }] };
}

/** A row of a type as a condition on its key. */
function isKey({ entity: { key } }: ResourceType, value: Wire): string {
  const parts = key.type.kind === 'composite' ? splitKey(key.type, value) : [value];
  return key.fields.map(({ name, type }, at) => `${nameText(name)} = ${valueText(type, parts[at] ?? null)}`).join(' and ');
}

/** The relationships of the paths of `include`, put together to a tree. @throws Faulty where there is none of a name */
function includedIn(
  model: Model,
  resources: Resources,
  types: readonly ResourceType[],
  paths: readonly (readonly string[])[],
): readonly Included[] {
  const byFirst = new Map<string, (readonly string[])[]>();
  for (const [first, ...rest] of paths) {
    if (first === undefined) continue;
    const below = byFirst.get(first) ?? [];
    byFirst.set(first, rest.length === 0 ? below : [...below, rest]);
  }
  return Array.from(byFirst, ([member, below]): Included => {
    const over = types.flatMap((type) => type.relationships.find((one) => one.member === member) ?? [])[0];
    if (over === undefined) {
      const names = types.map(({ name }) => name).join(' or ');
      return refuse(400, `Resources of ${names} have no relationship ${member}.`, { parameter: 'include' });
    }
    const targets = over.targets.flatMap((name) => resources.byEntity.get(name) ?? []);
    return { over, below: includedIn(model, resources, targets, below) };
  });
}

function loadLines(included: readonly Included[], depth: number): readonly string[] {
  return included.flatMap(({ over, below }) => [
    `${'  '.repeat(depth)}load ${nameText(over.role.name)}`,
    ...nested(below, depth + 1),
  ]);
}

function nested(included: readonly Included[], depth: number): readonly string[] {
  return included.flatMap(({ over, below }) => [`${'  '.repeat(depth)}${nameText(over.role.name)}`, ...nested(below, depth + 1)]);
}

/** What has to be true of the resources: a condition of the notation, and members with values. */
function conditionsOf(model: Model, type: ResourceType, { filter, equal }: Reading): readonly string[] {
  if (filter !== null) refuseHidden(model, filter);
  const plain = filter === null ? [] : [filter.replace(/\s*[\r\n]\s*/g, ' ')];
  return [...plain, ...Array.from(equal, ([member, values]) => memberIs(model, type, member, values))];
}

/**
 * Refuses a condition that names a field which is never told: whoever may compare it finds out what it is, letter by letter. Any field
 * of such a name is meant, since a condition goes over roles.
 */
function refuseHidden({ entities, relations }: Model, filter: string): void {
  const pairs = Array.from(relations.values()).flatMap((relation) => (isPivot(relation) ? relation.fields : []));
  const fields = [...Array.from(entities.values()).flatMap((entity) => entity.fields), ...pairs];
  const hidden = new Set(fields.filter((field) => field.hidden).map(({ name }) => name.toLowerCase()));
  const withoutTexts = filter.replace(/'(?:[^']|'')*'/g, "''");
  for (const [word] of withoutTexts.matchAll(/"(?:[^"]|"")*"|[\p{L}_][\p{L}\p{N}_]*/gu)) {
    const name = word.replace(/^"(.*)"$/, '$1').replaceAll('""', '"');
    if (hidden.has(name.toLowerCase())) refuse(400, `${name} is hidden: nothing is found by it.`, { parameter: 'filter' });
  }
}

/** That a member has one of some values; an empty one means that it has none. */
function memberIs(model: Model, type: ResourceType, member: string, values: readonly string[]): string {
  const source = { parameter: `filter[${member}]` };
  const written = (parse: (value: string) => string, name: string): string => {
    const given = values.filter((value) => value !== '');
    const some =
      given.length === 0
        ? []
        : [given.length === 1 ? `${name} = ${parse(given[0] ?? '')}` : `${name} in (${given.map(parse).join(', ')})`];
    const none = given.length < values.length ? [`${name} is null`] : [];
    return [...some, ...none].join(' or ');
  };
  if (member === 'id') {
    const rows = values.map((value) => isKey(type, keyIn(type.entity.key.type, value, source)));
    return rows.map((row) => `(${row})`).join(' or ');
  }
  const attribute = type.attributes.find((one) => one.member === member);
  if (attribute !== undefined) {
    const valueType = valueTypeOf(attribute.field.type);
    if (valueType === null) refuse(400, `${member} is not compared with a value.`, source);
    return written((value) => valueText(valueType, valueIn(valueType, value, source)), nameText(attribute.field.name));
  }
  const over = type.relationships.find((one) => one.member === member);
  const [target, ...others] = over?.targets ?? [];
  if (over === undefined || target === undefined) return refuse(400, `Resources of ${type.name} have no ${member}.`, source);
  if (over.many || others.length > 0 || over.readOnly)
    return refuse(
      400,
      `${member} leads to ${over.many ? 'many' : 'several'}: filter by a condition, as in filter=any(${member}[…]).`,
      source,
    );
  const { key } = entityOf(model, target);
  return written(
    (value) => rowText({ entity: target, keyType: key.type, key: keyIn(key.type, value, source) }),
    nameText(over.role.name),
  );
}

function valueIn(type: ValueType, written: string, source: { readonly parameter: string }): Wire {
  const parsed = parseWire(type, written);
  return parsed.ok ? parsed.value : refuse(400, parsed.problem, source);
}

function keyIn(type: ValueType, written: string, source: { readonly parameter: string }): Wire {
  const parsed = parseWire(type, written);
  return parsed.ok ? parsed.value : refuse(400, `“${written}” is no id here.`, source);
}

/** The type of a value that can be written; null of what is none. */
export function valueTypeOf(type: ExpressionType): ValueType | null {
  return type.kind === 'row' || type.kind === 'interval' || type.kind === 'null' ? null : type;
}

/** The order by the terms of `sort`; null where none is asked for. @throws Faulty where a term is none of the resource */
function orderOf(resources: Resources, type: ResourceType, { sort }: Reading): string | null {
  if (sort.length === 0) return null;
  return sort
    .flatMap(({ path, descending }) => sortPaths(resources, type, path).map(({ text }) => `${text}${descending ? ' desc' : ''}`))
    .join(', ');
}

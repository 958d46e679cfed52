import { createOrUpdateText, createText, type Entry, linkNamedText, rowText } from '../core/edits/index.js';
import { type Given, type Named, type Relationship, type ResourceType, refuse } from '../core/live/index.js';
import type { Wire } from '../core/values/index.js';
import { behindRole } from './live-reads.js';
import type { Answering } from './live-request.js';

/** Where a resource is made: in its collection, behind a role of another, or in the place of one that has the same of a unique. */
export type MadeWhere =
  | { readonly kind: 'collection' }
  | { readonly kind: 'behind'; readonly owner: { readonly type: ResourceType; readonly key: Wire }; readonly role: string }
  | { readonly kind: 'by'; readonly member: string };

/**
 * The commands that make a resource, and link it to others.
 *
 * @param name as which the lines after know it
 */
export function creatingText(given: Given, where: MadeWhere, name = 'made'): string {
  const { type, id, entries, linked } = given;
  const keyed = id === null ? [] : keyEntries(type, id);
  const known = new Set(entries.map((entry) => entry.name));
  const text = createdText(given, where, [...keyed.filter((entry) => !known.has(entry.name)), ...entries]);
  const lines = linked.flatMap(({ over, to }) => linkLines('link', `${type.entity.name}(${name})`, over, to));
  return [`${name} = ${text}`, ...lines].join('\n');
}

function createdText({ type }: Given, where: MadeWhere, entries: readonly Entry[]): string {
  switch (where.kind) {
    case 'collection':
      return createText(type.entity.name, entries);
    case 'behind': {
      const { owner, role } = where;
      const { name, key } = owner.type.entity;
      return createText({ owner: { entity: name, keyType: key.type, key: owner.key }, role }, entries);
    }
    case 'by': {
      const { member } = where;
      const attribute = type.attributes.find((one) => one.member === member);
      const field = attribute?.stored ?? null;
      const unique = field === null ? undefined : entries.find(({ name }) => name === field.name);
      if (field === null || (field.unique === null && !field.key) || field.internal)
        return refuse(400, `${member} is no unique attribute of ${type.name}.`, { parameter: 'by' });
      if (unique === undefined || unique.entered.kind !== 'value')
        return refuse(422, `${member} is what the resource is found by: give it.`, { pointer: `/data/attributes/${member}` });
      return createOrUpdateText(
        type.entity.name,
        [unique],
        entries.filter((entry) => entry !== unique),
      );
    }
  }
}

function keyEntries({ entity: { key } }: ResourceType, id: Wire): readonly Entry[] {
  const [only, ...more] = key.fields;
  if (only === undefined || more.length > 0 || key.byRow) return [];
  return [{ name: only.name, entered: { kind: 'value', type: only.type, text: String(id) } }];
}

/** The commands that link an owner, as the notation names it, to others, or take them apart. */
export function linkLines(
  how: 'link' | 'unlink',
  owner: string,
  { role }: Relationship,
  to: readonly Named[],
): readonly string[] {
  return to.map(({ text, pair }) => linkNamedText(how, owner, role.name, [text], how === 'link' ? pair : []));
}

/** The commands by which these, and no others, are behind a role to many. */
export async function replacingLines(
  answering: Answering,
  type: ResourceType,
  key: Wire,
  over: Relationship,
  to: readonly Named[],
): Promise<readonly string[]> {
  const there = await behindRole(answering, type, key, over);
  const wanted = new Set(to.map((named) => String(named.key)));
  const had = new Set(there.map(({ id }) => id));
  const gone = there
    .filter(({ id }) => !wanted.has(id))
    .map(({ type: own, id }): Named => ({ type: own, key: id, text: textOf(own, id), pair: [] }));
  const owner = textOf(type, key);
  return [
    ...linkLines('unlink', owner, over, gone),
    ...linkLines(
      'link',
      owner,
      over,
      to.filter((named) => !had.has(String(named.key)) || named.pair.length > 0),
    ),
  ];
}

/** A resource as the notation names its row. */
export function textOf({ entity }: ResourceType, key: Wire): string {
  return rowText({ entity: entity.name, keyType: entity.key.type, key });
}

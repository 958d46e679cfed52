import { keyFrom } from '../edits/index.js';
import type { Model, Query } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { refuse } from './fault.js';
import type { Relationship, Resources, ResourceType } from './resources.js';

/** What an address of the endpoint speaks of. */
export type Place =
  | { readonly kind: 'index' }
  | { readonly kind: 'operations' }
  | { readonly kind: 'collection'; readonly type: ResourceType }
  | { readonly kind: 'resource'; readonly type: ResourceType; readonly key: Wire }
  /** The resources behind a relationship of one. */
  | { readonly kind: 'related'; readonly type: ResourceType; readonly key: Wire; readonly over: Relationship }
  /** The relationship itself: which resources are behind it. */
  | { readonly kind: 'linkage'; readonly type: ResourceType; readonly key: Wire; readonly over: Relationship }
  | { readonly kind: 'saved'; readonly query: Query };

/** The parameters of an address, as they stand behind its question mark. */
export type Parameters = readonly (readonly [name: string, value: string])[];

/** Where the addresses of saved queries begin. */
export const QUERIES = 'queries';
export const OPERATIONS = 'operations';

/**
 * What the parts of an address speak of.
 *
 * @param parts the path behind the endpoint’s own, each part decoded
 * @throws Faulty where there is no such resource
 */
export function placeOf(model: Model, resources: Resources, parts: readonly string[]): Place {
  const [first, second, third, fourth, ...more] = parts;
  if (first === undefined) return { kind: 'index' };
  if (first === OPERATIONS && second === undefined) return { kind: 'operations' };
  const type = resources.byName.get(first);
  if (first === QUERIES && type === undefined) {
    const query = second === undefined || third !== undefined ? undefined : model.queries.get(second);
    return query === undefined ? refuse(404, `There is no saved query ${second ?? ''}.`) : { kind: 'saved', query };
  }
  if (type === undefined) return refuse(404, `There is no collection ${first}. The index has those that there are.`);
  if (second === undefined) return { kind: 'collection', type };
  const key = keyFrom(type.entity.key.type, second);
  if (key === null) return refuse(404, `There is no resource of ${type.name} with the id ${second}.`);
  if (third === undefined) return { kind: 'resource', type, key };
  if (third === 'relationships' && fourth !== undefined && more.length === 0)
    return { kind: 'linkage', type, key, over: relationshipOf(type, fourth) };
  if (fourth !== undefined) return refuse(404, 'Nothing stands below what a relationship leads to.');
  return { kind: 'related', type, key, over: relationshipOf(type, third) };
}

function relationshipOf(type: ResourceType, member: string): Relationship {
  const found = type.relationships.find((one) => one.member === member);
  return found ?? refuse(404, `Resources of ${type.name} have no relationship ${member}.`);
}

import { nameText } from '../edits/index.js';
import type { Field } from '../model/index.js';
import { refuse } from './fault.js';
import type { Resources, ResourceType } from './resources.js';

/** What a term of `sort` orders by. */
export interface SortPath {
  /** As the notation has it. */
  readonly text: string;
  /** The stored field at its end; null for a derived one. */
  readonly field: Field | null;
  /** Over how many roles it goes. */
  readonly depth: number;
}

/**
 * What a term sorts by: of a key of several fields, each of them.
 *
 * @throws Faulty where the resources have nothing of the kind
 */
export function sortPaths(resources: Resources, type: ResourceType, path: readonly string[]): readonly SortPath[] {
  const [first = '', ...rest] = path;
  const no = (): never =>
    refuse(400, `Resources of ${type.name} have no ${path.join('.')} to be sorted by.`, { parameter: 'sort' });
  if (rest.length === 0) {
    if (first === 'id') return type.entity.key.fields.map((field) => ({ text: nameText(field.name), field, depth: 0 }));
    const attribute = type.attributes.find((one) => one.member === first);
    return attribute === undefined ? no() : [{ text: nameText(attribute.field.name), field: attribute.stored, depth: 0 }];
  }
  const over = type.relationships.find((one) => one.member === first);
  const [target] = over?.targets ?? [];
  const next = target === undefined ? undefined : resources.byEntity.get(target);
  if (over === undefined || over.many || over.targets.length !== 1 || next === undefined) return no();
  return sortPaths(resources, next, rest).map(({ text, field, depth }) => ({
    text: `${nameText(over.role.name)}.${text}`,
    field,
    depth: depth + 1,
  }));
}

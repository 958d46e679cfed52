import type { Entity, Model } from '../../model/index.js';
import { typeName } from '../../values/index.js';
import type { Word } from '../place.js';
import { rolesOf, targetsOf } from '../scope.js';
import { type Completion, entitiesOf, fieldOption, keywords, kindsBelow, rolesIn, sampleRowsOf } from './options.js';

/** What may stand at a place in a sample: the fields and to-one roles of its entity, and behind one its values or named rows. */
export function inSample(model: Model, words: readonly Word[], entity: Entity | null): readonly Completion[] {
  const members = () => membersAndRoles(entity);
  const [first, second] = words;
  if (first === undefined) return members();
  if (second?.text === ':') {
    const last = words.at(-1)?.text;
    if (last === ':' || last === ',') return members();
    if (last === '(') return sampleRowsOf(model, words.at(-2)?.text ?? '');
    return valuesFor(model, entity, last ?? '');
  }
  const role = rolesOf(entity).find((candidate) => candidate.name === first.text);
  if (words.at(-1)?.text === 'any')
    return role === undefined ? [] : entitiesOf(model).filter(({ label }) => targetsOf(role).includes(label));
  if (role !== undefined && second !== undefined) return keywords('or null');
  if (role !== undefined) return keywords(...targetsOf(role).map((target) => `any ${target}`), '0 to 3 each');
  if (second === undefined) return [...keywords('between'), ...valuesFor(model, entity, first.text)];
  if (second.text !== 'between') return keywords('or null');
  return words.length === 3 ? keywords('and') : words.length === 5 ? keywords('or null') : [];
}

/** The stored fields and the roles of an entity. */
export function membersAndRoles(entity: Entity | null): Completion[] {
  return [...(entity?.fields.map((field) => fieldOption(field.name, typeName(field.type))) ?? []), ...rolesIn(entity)];
}

/** The values that a field or a role may have: of a choice those that it has, behind a role its named rows. */
export function valuesFor(model: Model, entity: Entity | null, member: string): Completion[] {
  const role = rolesOf(entity).find((candidate) => candidate.name === member);
  if (role !== undefined) {
    // A row of one of its kinds is one of an entity, too.
    const targets = targetsOf(role).flatMap((target) => [target, ...kindsBelow(model, target)]);
    const named = model.samples
      .filter((sample) => targets.includes(sample.entity))
      .flatMap((sample) =>
        sample.rows.map((row) => ({ label: `${sample.entity}(${row.name})`, kind: 'value' as const, detail: 'sample row' })),
      );
    // Where no row has a name yet, its key says which is meant.
    return named.length > 0 ? named : entitiesOf(model).filter(({ label }) => targets.includes(label));
  }
  const type = entity?.fields.find((field) => field.name === member)?.type;
  if (type?.kind === 'boolean') return keywords('true', 'false');
  return type?.kind === 'choice' ? type.values.map((value) => ({ label: `'${value}'`, kind: 'value', detail: '' })) : [];
}

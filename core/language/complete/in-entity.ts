import type { Entity, Model } from '../../model/index.js';
import { typeName } from '../../values/index.js';
import type { Word } from '../place.js';
import { targetsOf } from '../scope.js';
import { behind, inExpression, orderTerms } from './in-expression.js';
import { type Completion, fieldOption, keywords, mixinsOf, roleOption, rolesIn, typesOf, valuesOf } from './options.js';

const ENTITY_LINES = keywords(
  'uses',
  'key (',
  'unique',
  'index',
  'check',
  'rule',
  'shown as',
  'order by',
  'always load',
  'kinds in',
  'kept',
  'note',
);

const MODIFIERS = keywords(
  'key',
  'optional',
  'unique',
  'default',
  'on update now',
  'in (',
  'column',
  'hidden',
  'internal',
  'fixed',
  'title',
  'note',
  'collate',
  'stored as',
  'generated as',
  'never reused',
  'was',
);

/** @param declared the fields that its lines declare, for an entity that does not stand yet */
export function inEntityLine(
  model: Model,
  words: readonly Word[],
  entity: Entity | null,
  declared: readonly Completion[] = [],
): readonly Completion[] {
  const [first, second] = words;
  if (first === undefined) return ENTITY_LINES;
  switch (first.text) {
    case 'uses':
      return mixinsOf(model);
    case 'key':
    case 'unique':
    case 'index':
      if (second === undefined) return [];
      return entity === null
        ? declared
        : [
            ...entity.fields.map((field) => fieldOption(field.name, typeName(field.type))),
            ...entity.roles.filter((role) => role.way.kind === 'key').map((role) => roleOption(role.name, role.target)),
            ...entity.polymorphic.map((role) => roleOption(role.name, targetsOf(role).join(', '))),
          ];
    case 'check':
    case 'rule':
      return words.some((word) => word.text === ':') ? inExpression(model, behind(words, ':'), entity, null, []) : [];
    case 'shown':
      return second === undefined ? keywords('as') : inExpression(model, words.slice(2), entity, null, []);
    case 'order':
      return second === undefined ? keywords('by') : orderTerms(model, words.slice(2), entity, null);
    case 'always':
      return second === undefined ? keywords('load') : [...rolesIn(entity), ...keywords('once')];
    case 'kinds':
      if (second === undefined) return keywords('in');
      return words.length === 2 ? keywords('single table by', 'joined tables by', 'separate tables', 'json') : keywords('by');
    case 'note':
      return [];
    default:
  }
  if (second === undefined) return typesOf(model);
  if (second.text === '=') return inExpression(model, words.slice(2), entity, null, []);
  const last = words.at(-1)?.text ?? '';
  if (last === 'default') return defaultsOf(model, second.text);
  if (last === 'on') return keywords('update now');
  if (last === '(' || last === 'column' || last === 'title' || last === 'was') return [];
  return MODIFIERS.filter(({ label }) => !words.some((word) => word.text === label));
}

function defaultsOf(model: Model, type: string): Completion[] {
  const choice = model.choices.get(type);
  if (choice !== undefined) return valuesOf(choice.values);
  if (type === 'boolean') return keywords('true', 'false');
  if (type === 'date') return keywords('today');
  return type === 'timestamp' ? keywords('now') : [];
}

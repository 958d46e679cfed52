import type { AnyPivotRelation, Entity, Model } from '../../model/index.js';
import { TokenKind } from '../../notation/index.js';
import type { Word } from '../place.js';
import { rolesOf, sightAt, targetsOf } from '../scope.js';
import { type Completion, keywords, membersOf, narrowedOf, pivotFields, sampleRowsOf } from './options.js';

export const OPERATORS = keywords(
  'and',
  'or',
  'not',
  'is null',
  'is not null',
  'is a',
  'is not a',
  'as',
  'in',
  'between',
  'like',
);

const EXPRESSION_WORDS = keywords('is a', 'not', 'null', 'true', 'false', 'today', 'now', 'case');

const QUANTIFIERS = ['any', 'none', 'all', 'count', 'sum', 'avg', 'min', 'max'];

const FUNCTION_NAMES = 'lower upper length trim coalesce abs round least greatest substr replace'.split(' ');

/** An expression: names of the row at hand, functions and parameters where a value begins, operators behind one. */
export function inExpression(
  model: Model,
  words: readonly Word[],
  entity: Entity | null,
  pivot: AnyPivotRelation | null,
  parameters: readonly string[],
): readonly Completion[] {
  const last = words.at(-1);
  if (last?.text === ':') return parametersOf(parameters, words);
  const sight = sightAt(model, words, entity, pivot);
  if (last?.text === '.') {
    if (sight === null) return [];
    return sight.inPivot && sight.pivot !== null ? pivotFields(sight.pivot) : membersOf(model, sight.entity, null);
  }
  const before = words.at(-2)?.text;
  const isBegun = words.at(words.at(-2)?.text === 'not' ? -3 : -2)?.text === 'is' && (last?.text === 'a' || last?.text === 'an');
  // Behind nothing it is the row at hand that is asked about.
  if (isBegun && sight !== null) {
    const ahead = words.at(words.at(-2)?.text === 'not' ? -4 : -3);
    if (ahead === undefined || BEGINS_VALUE.has(ahead.text) || ahead.text === '(' || ahead.text === '[')
      return narrowedOf(model, [sight.entity.name]);
  }
  if (last?.text === 'as' || ((last?.text === 'a' || last?.text === 'an') && (before === 'is' || before === 'not')))
    return narrowedOf(
      model,
      narrowed(
        model,
        words.slice(
          0,
          words.findLastIndex(({ text }) => text === 'as' || text === 'is'),
        ),
        entity,
      ),
    );
  if (last?.text === '(' && words.at(-2)?.kind === TokenKind.capital) return sampleRowsOf(model, words.at(-2)?.text ?? '');
  const value = last !== undefined && endsValue(last);
  const between = words.findLastIndex(({ text }) => text === 'between');
  if (value && between >= 0 && !words.slice(between).some(({ text }) => text === 'and')) return keywords('and');
  if (value) return OPERATORS;
  const compared = last === undefined ? [] : comparedValues(model, words, entity, pivot);
  return [
    ...compared,
    ...(sight === null ? [] : membersOf(model, sight.entity, sight.pivot)),
    ...QUANTIFIERS.map((label): Completion => ({ label, kind: 'function', detail: 'of related rows' })),
    ...FUNCTION_NAMES.map((label): Completion => ({ label, kind: 'function', detail: '' })),
    ...parameters.map((name): Completion => ({ label: `:${name}`, kind: 'parameter', detail: 'parameter' })),
    ...EXPRESSION_WORDS,
  ];
}

/** What the path at the end of the words leads to: the entities behind its last role. */
function narrowed(model: Model, words: readonly Word[], entity: Entity | null): readonly string[] {
  const name = words.at(-1)?.text ?? '';
  const sight = sightAt(model, words.slice(0, -1), entity, null);
  const role = rolesOf(sight?.entity ?? null).find((candidate) => candidate.name === name);
  return role === undefined ? [] : targetsOf(role);
}

/** Behind `condition =`: the values that the field may have. */
function comparedValues(
  model: Model,
  words: readonly Word[],
  entity: Entity | null,
  pivot: AnyPivotRelation | null,
): Completion[] {
  const operator = words.at(-1)?.text ?? '';
  const member = words.at(-2);
  if (!['=', '<>', '('].includes(operator) || member === undefined) return [];
  const field = operator === '(' ? words.at(-3) : member;
  if (field === undefined) return [];
  const sight = sightAt(model, words.slice(0, words.indexOf(field)), entity, pivot);
  const type = sight?.entity.fields.find((candidate) => candidate.name === field.text)?.type;
  if (type?.kind === 'boolean') return keywords('true', 'false');
  return type?.kind === 'choice' ? type.values.map((value) => ({ label: `'${value}'`, kind: 'value', detail: '' })) : [];
}

const BEGINS_VALUE = new Set([
  'and',
  'or',
  'not',
  'when',
  'then',
  'else',
  'case',
  'where',
  'in',
  'between',
  'like',
  'is',
  'by',
  'having',
]);

function endsValue(word: Word): boolean {
  if (word.kind === TokenKind.symbol) return word.text === ')' || word.text === ']';
  return !BEGINS_VALUE.has(word.text);
}

/** What may stand in an order: an expression, and behind one the word that turns it round. */
export function orderTerms(
  model: Model,
  words: readonly Word[],
  entity: Entity | null,
  pivot: AnyPivotRelation | null,
): readonly Completion[] {
  const last = words.at(-1);
  if (last !== undefined && endsValue(last) && last.text !== ',') return keywords('desc');
  return inExpression(model, words, entity, pivot, []);
}

/** The parameters of a query, with the colon where none is written yet. */
export function parametersOf(parameters: readonly string[], words: readonly Word[]): Completion[] {
  const colon = words.at(-1)?.text === ':';
  return parameters.map((name) => ({ label: colon ? name : `:${name}`, kind: 'parameter', detail: 'parameter' }));
}

/** The words behind the first of this text; none where it does not stand there. */
export function behind(words: readonly Word[], text: string): readonly Word[] {
  const at = words.findIndex((word) => word.text === text);
  return at < 0 ? [] : words.slice(at + 1);
}

import { isPivot, type Model, plural, singular, snakeCase, storedColumnsOf } from '../../model/index.js';
import { TokenKind } from '../../notation/index.js';
import type { CursorPlace, Word } from '../place.js';
import { inEntityLine } from './in-entity.js';
import { OPERATORS, orderTerms } from './in-expression.js';
import { type Completion, entitiesOf, fieldOption, keywords, pivotFields, roleOption, rolesIn } from './options.js';

const RULES = keywords('cascade', 'restrict', 'set null', 'set default', 'no action');

/**
 * What may stand at a place in a relation: entities in its sentences, tables and columns behind `stored in`, rules, pivot lines.
 */
export function inRelation(model: Model, place: CursorPlace, name: string): readonly Completion[] {
  const { words } = place.line;
  const stored = place.above[1];
  if (stored !== undefined) return inPivotLine(model, words, name);
  const [first, second] = words;
  if (first === undefined)
    return [...entitiesOf(model), ...keywords('each', 'stored in', 'on delete', 'on update', 'deferred', 'note')];
  if (first.text === 'stored') {
    if (second === undefined) return keywords('in');
    const last = words.at(-1)?.text ?? '';
    if (last === 'in') return [...keywords('table', 'one of'), ...entitiesOf(model)];
    const relation = model.relations.get(name);
    const open = words.findIndex((word) => word.text === '(');
    if (open > 0 && words[2]?.kind === TokenKind.capital) return rolesIn(model.entities.get(words[2].text) ?? null);
    if (last === 'as') return rolesIn(model.entities.get(words[2]?.text ?? '') ?? null);
    if (last === 'of' || last === ',' || last === 'with') return entitiesOf(model);
    if (last !== '.') return keywords('with', 'as', 'repeats', 'given', 'without triggers', 'without key', 'was');
    if (relation?.kind === 'key') return relation.columns.map((column) => fieldOption(column.value, 'the key column'));
    return relation?.kind === 'polymorphic'
      ? storedColumnsOf(relation).map(({ value }) => fieldOption(value, 'a key column'))
      : [];
  }
  if (first.text === 'on') return second === undefined ? keywords('delete', 'update') : words.length === 2 ? RULES : [];
  if (first.kind !== TokenKind.capital && first.text !== 'each') return [];
  if (words.at(-1)?.text === '|') return entitiesOf(model);
  const verb = words.findIndex((word) => word.text === 'knows');
  if (second === undefined || verb < 0) return keywords('knows one', 'knows at most one', 'knows many', '|');
  const knows = words.slice(verb).map((word) => word.text);
  if (knows.length === 1) return keywords('one', 'at most one', 'many');
  if (knows.at(-1) === 'at') return keywords('most one');
  if (knows.at(-1) === 'most') return keywords('one');
  const as = words.findIndex((word) => word.text === 'as');
  if (as < 0) {
    const target = words.find((word, index) => index > verb && word.kind === TokenKind.capital);
    return target === undefined ? entitiesOf(model) : keywords('as', '|');
  }
  const target = words.find((word, index) => index > verb && word.kind === TokenKind.capital)?.text ?? '';
  if (as === words.length - 1) {
    const many = knows.includes('many');
    const wish = snakeCase(target);
    return [roleOption(many ? plural(wish) : singular(wish), target)];
  }
  const by = words.findIndex((word) => word.text === 'by');
  const entity = model.entities.get(target) ?? null;
  const relation = model.relations.get(name);
  const pivot = relation !== undefined && isPivot(relation) ? relation : null;
  if (by > 0) return orderTerms(model, words.slice(by + 1), entity, pivot);
  return keywords('both ways', 'order by', 'note');
}

/** A line below the storage of a pivot: its own fields, and its key columns, in constraints. */
function inPivotLine(model: Model, words: readonly Word[], relation: string): readonly Completion[] {
  const pivot = model.relations.get(relation);
  const first = words[0]?.text ?? '';
  if (first === '' && pivot !== undefined && 'targets' in pivot) return entitiesOf(model);
  if (pivot === undefined || !('keptInTable' in pivot) || !['unique', 'index', 'check'].includes(first))
    return words[0]?.kind === TokenKind.capital ? keywords('marked') : inEntityLine(model, words, null);
  if (words.length === 1) return [];
  return [
    ...pivotFields(pivot),
    ...(pivot.kind === 'pivot' ? pivot.ends : [pivot.near]).flatMap((end) =>
      end.columns.map((column) => fieldOption(column.value, `the key of ${end.entity}`)),
    ),
    ...(first === 'check' ? OPERATORS : []),
  ];
}

import type { Model } from '../../model/index.js';
import { TokenKind } from '../../notation/index.js';
import type { Word } from '../place.js';
import { beginsCommand, COMMAND_WORDS, inCommand } from './in-command.js';
import { inExpression } from './in-expression.js';
import { type Completion, entitiesOf, keywords, sampleRowsOf } from './options.js';

/** Behind “expect”: a query with what it takes, or a command, and on whose behalf. */
export function inExpectHead(model: Model, words: readonly Word[]): readonly Completion[] {
  const last = words.at(-1);
  if (last?.text === 'as') return [...keywords('system', 'nobody'), ...entitiesOf(model)];
  if (last?.text === '(' && words.at(-2)?.kind === TokenKind.capital) return sampleRowsOf(model, words.at(-2)?.text ?? '');
  if (beginsCommand(words)) return inCommand(model, words);
  if (words.length === 0) {
    const queries = Array.from(model.queries.keys(), (label): Completion => ({ label, kind: 'value', detail: 'query' }));
    return [...queries, ...COMMAND_WORDS];
  }
  const opens = words.filter(({ text }) => text === '(').length;
  const isOpen = opens > words.filter(({ text }) => text === ')').length;
  return isOpen ? [...entitiesOf(model), ...inExpression(model, words.slice(2), null, null, [])] : keywords('as');
}

const LINES = keywords('rows', 'rows at most', 'rows at least', 'statements at most', 'every row', 'no row', 'fails', 'note');

/** A line of what is expected of a query, or of a command. */
export function inExpectLine(model: Model, subject: readonly Word[], words: readonly Word[]): readonly Completion[] {
  const isCommand = beginsCommand(subject);
  if (words.length === 0) return isCommand ? keywords('done', 'refused', 'note') : LINES;
  const [first, second] = words;
  if (second === undefined || second.text !== 'row') return first?.text === 'rows' ? keywords('at most', 'at least') : [];
  const query = model.queries.get(subject[0]?.text ?? '');
  const entity = query === undefined ? null : (model.entities.get(query.entity) ?? null);
  const rows = ['=', '<>', ','].includes(words.at(-1)?.text ?? '') ? entitiesOf(model) : [];
  return [...rows, ...inExpression(model, words.slice(2), entity, null, [])];
}

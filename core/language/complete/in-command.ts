import type { Entity, Model } from '../../model/index.js';
import { TokenKind } from '../../notation/index.js';
import type { Word } from '../place.js';
import { step } from '../scope.js';
import { inExpression } from './in-expression.js';
import { membersAndRoles, valuesFor } from './in-sample.js';
import { type Completion, entitiesOf, keywords, sampleRowsOf } from './options.js';

/** The words that begin a command, each with what belongs to it. */
const COMMANDS = ['create', 'find or create', 'create or update', 'update', 'link', 'unlink', 'delete'] as const;

/** The words by which commands begin. */
export const COMMAND_WORDS = keywords(...COMMANDS);

/** Whether these words begin a command. */
export function beginsCommand(words: readonly Word[]): boolean {
  return COMMANDS.some((command) => command.split(' ')[0] === words[0]?.text);
}

/** What may stand at a place in a command: its rows, what is written into them, and their values. */
export function inCommand(model: Model, words: readonly Word[]): readonly Completion[] {
  const begun = words.findIndex(({ kind }) => kind === TokenKind.capital);
  if (begun < 0)
    return words.length === 1 && words[0]?.text === 'find' ? keywords('or create') : [...orWords(words), ...entitiesOf(model)];
  const last = words.at(-1);
  const before = words.at(-2);
  if (last?.text === '(' && before?.kind === TokenKind.capital) return sampleRowsOf(model, before.text);
  const with_ = words.findIndex(({ text }) => text === 'with');
  const target = walked(model, words.slice(begun, with_ < 0 ? undefined : with_));
  if (with_ >= 0) return inValues(model, words.slice(with_ + 1), rowOf(words[0]?.text ?? '', target));
  if (target.open !== null) return inExpression(model, target.open.words, target.open.entity, null, []);
  if (last?.text === '.') return target.entity === null ? [] : membersAndRoles(target.entity);
  if (last?.text === 'to' || last?.text === 'from' || last?.text === ',') return entitiesOf(model);
  const links = words[0]?.text === 'link' || words[0]?.text === 'unlink';
  return keywords(...(links ? [words[0]?.text === 'link' ? 'to' : 'from'] : []), 'with', 'as');
}

function orWords(words: readonly Word[]): readonly Completion[] {
  return words.length === 1 && words[0]?.text === 'create' ? keywords('or update') : [];
}

/** Of a link the values are those of the pair, whose fields the role's pivot has; of all others those of the row. */
function rowOf(command: string, { entity, pivot }: Walked): Pick<Walked, 'entity' | 'pivot'> {
  return command === 'link' ? { entity: null, pivot } : { entity, pivot: null };
}

interface Walked {
  readonly entity: Entity | null;
  readonly pivot: ReturnType<typeof step>['pivot'];
  /** A bracket that is open, with the words from it on, and the entity whose rows it speaks of. */
  readonly open: { readonly words: readonly Word[]; readonly entity: Entity } | null;
}

/** Where a target leads: an entity, a row, or a way over roles from one. */
function walked(model: Model, words: readonly Word[]): Walked {
  let here: ReturnType<typeof step> = { entity: model.entities.get(words[0]?.text ?? '') ?? null, pivot: null };
  let depth = 0;
  let opened = -1;
  words.forEach((word, index) => {
    if (word.text === '[') {
      if (depth === 0) opened = index;
      depth += 1;
    } else if (word.text === ']') depth -= 1;
    else if (depth === 0 && words[index - 1]?.text === '.') here = step(model, here, word.text);
  });
  const { entity, pivot } = here;
  return { entity, pivot, open: depth > 0 && entity !== null ? { words: words.slice(opened), entity } : null };
}

/** Behind “with”: the names of a row and their values, with commas between. */
function inValues(
  model: Model,
  words: readonly Word[],
  { entity, pivot }: Pick<Walked, 'entity' | 'pivot'>,
): readonly Completion[] {
  const comma = words.findLastIndex(({ text }) => text === ',');
  const [name, ...value] = words.slice(comma + 1);
  if (name === undefined) return entity === null ? pivotNames(pivot) : membersAndRoles(entity);
  if (value.length === 0)
    return [...valuesFor(model, entity, name.text), ...keywords('null', 'today', 'now', 'true', 'false'), ...entitiesOf(model)];
  return inExpression(model, value, entity, null, []);
}

function pivotNames(pivot: Walked['pivot']): readonly Completion[] {
  return pivot?.fields.map(({ name }) => ({ label: name, kind: 'field' as const, detail: 'of the pair' })) ?? [];
}

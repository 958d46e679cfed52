import type { Design } from '../../design/index.js';
import type { Model } from '../../model/index.js';
import { DIALECTS, inLines, type Span, type Syntax, TokenKind } from '../../notation/index.js';
import { type CursorPlace, type PlacedLine, placeAt, type Word } from '../place.js';
import { beginsCommand, inCommand } from './in-command.js';
import { inEntityLine } from './in-entity.js';
import { inExpectHead, inExpectLine } from './in-expect.js';
import { inExpression, orderTerms } from './in-expression.js';
import { inQuery } from './in-query.js';
import { inRelation } from './in-relation.js';
import { inSample } from './in-sample.js';
import { type Completion, entitiesOf, fieldOption, keywords, membersOf, mixinAsEntity, mixinsOf, typesOf } from './options.js';

export interface Completions {
  /** What a chosen one replaces. */
  readonly span: Span;
  readonly options: readonly Completion[];
}

const DECLARATIONS = keywords(
  'tree',
  'mixin',
  'choice',
  'entity',
  'relation',
  'path',
  'scope',
  'wall',
  'query',
  'sample',
  'expect',
  'meant',
);

/** Completions at an offset of a tree's text. The design may be of a slightly older text: the words are read anew. */
export function complete(design: Design, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  return chosen(place, place.quiet ? [] : inTree(design, place));
}

/** Completions at an offset of a query that stands alone, with its parameters' head beside it, or of commands. */
export function completeQuery(design: Design, text: string, head: string, offset: number): Completions {
  const lines = inLines(text);
  const place = placeAt(lines, offset);
  if (!place.quiet && place.above.length === 0 && beginsCommand(place.line.words))
    return chosen(place, inCommand(design.model, place.line.words));
  const parameters = Array.from(head.matchAll(/(?:^|,)\s*(\w+)/g), (match) => match[1] ?? '');
  return chosen(place, place.quiet ? [] : inQuery(design.model, place, queryLines(lines, place), place.above, parameters));
}

/** Completions in a condition on an entity, as in a filter. */
export function completeCondition(design: Design, entity: string, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  const found = design.model.entities.get(entity);
  return chosen(place, place.quiet || found === undefined ? [] : inExpression(design.model, place.line.words, found, null, []));
}

/** Completions in a list of terms to order by. */
export function completeOrder(design: Design, entity: string, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  const found = design.model.entities.get(entity);
  return chosen(place, found === undefined ? [] : orderTerms(design.model, place.line.words, found, null));
}

function chosen(place: CursorPlace, options: readonly Completion[]): Completions {
  const seen = new Set<string>();
  return {
    span: place.span,
    options: options.filter(({ label, kind }) => {
      const known = seen.has(`${kind} ${label}`);
      seen.add(`${kind} ${label}`);
      return !known;
    }),
  };
}

function inTree({ model, syntax }: Design, place: CursorPlace): readonly Completion[] {
  const { line, above } = place;
  const head = above[0];
  if (head === undefined) return line.words.length === 0 ? DECLARATIONS : inHead(model, line.words);
  const name = head.words[1]?.text ?? '';
  switch (head.words[0]?.text) {
    case 'tree':
      return line.words.length === 0
        ? keywords('note', 'actor', 'clock', 'dialect', 'tables as stated', 'references without columns', 'stored', 'kept')
        : inTreeLine(model, line.words);
    case 'entity':
      return inEntityLine(model, line.words, model.entities.get(name) ?? null, declaredFields(syntax, name));
    case 'mixin':
      return inEntityLine(model, line.words, null);
    case 'relation':
      return inRelation(model, place, name);
    case 'scope':
      return inScopeLine(model, line.words);
    case 'wall':
      return inWallLine(model, line.words);
    case 'query': {
      const parameters = head.words.flatMap((word, index) =>
        index > 2 && word.kind === TokenKind.word && ['(', ','].includes(head.words[index - 1]?.text ?? '') ? [word.text] : [],
      );
      return inQuery(model, place, [], above.slice(1), parameters, name);
    }
    case 'sample':
      return inSample(model, line.words, model.entities.get(name) ?? null);
    case 'expect':
      return inExpectLine(model, head.words.slice(1), line.words);
    default:
      return [];
  }
}

/** `Entity where …`. */
function inScopeLine(model: Model, words: readonly Word[]): readonly Completion[] {
  if (words.length === 0) return [...entitiesOf(model), ...mixinsOf(model)];
  if (words.length === 1) return keywords('where');
  const of = words[0]?.text ?? '';
  return inExpression(model, words.slice(2), model.entities.get(of) ?? mixinAsEntity(model, of), null, []);
}

/** A line as that of a scope, `unless …` of the actor, or `pin Entity.member to …`. */
function inWallLine(model: Model, words: readonly Word[]): readonly Completion[] {
  const [first] = words;
  if (first === undefined) return [...inScopeLine(model, words), ...keywords('unless', 'pin', 'note')];
  if (first.text === 'pin' || first.text === 'unless') {
    const behind = words.slice(1);
    const to = behind.findIndex(({ text }) => text === 'to');
    if (first.text === 'unless' || to >= 0)
      return [...keywords('me'), ...inExpression(model, behind.slice(to + 1), null, null, [])];
    if (behind.length === 0) return entitiesOf(model);
    const entity = model.entities.get(behind[0]?.text ?? '');
    return behind.at(-1)?.text === '.' && entity !== undefined ? membersOf(model, entity, null) : keywords('to');
  }
  const last = words.at(-1);
  const isBeside =
    words.length > 1 && last?.kind === TokenKind.symbol && last.text !== '.' && last.text !== ')' && last.text !== ']';
  return [...(isBeside ? keywords('me') : []), ...inScopeLine(model, words)];
}

/** The fields that an entity's lines declare, also where it does not stand yet. */
function declaredFields({ declarations }: Syntax, name: string): readonly Completion[] {
  const declaration = declarations.find((one) => one.kind === 'entity' && one.name.text === name);
  if (declaration?.kind !== 'entity') return [];
  return declaration.lines.flatMap((line) => (line.kind === 'field' ? [fieldOption(line.name.text, 'field')] : []));
}

function inHead(model: Model, words: readonly Word[]): readonly Completion[] {
  const [first] = words;
  const last = words.at(-1)?.text;
  switch (first?.text) {
    case 'entity':
      if (last === 'is') return entitiesOf(model);
      return words.length === 2 || last !== 'in' ? keywords('in', 'is', 'marked', 'abstract', 'given', 'was') : [];
    case 'path':
      return inPath(model, words);
    case 'sample':
      return words.length === 1 ? entitiesOf(model) : [];
    case 'expect':
      return inExpectHead(model, words.slice(1));
    case 'wall':
      return words.length === 2 ? keywords('on read', 'on write') : last === 'on' ? keywords('read', 'write') : [];
    case 'query':
      return words.some((word) => word.text === '(') && words.at(-1)?.kind === TokenKind.word && last !== 'optional'
        ? [...typesOf(model), ...entitiesOf(model)]
        : [];
    default:
      return [];
  }
}

/** `path Entity.name = hops order by … first`. */
function inPath(model: Model, words: readonly Word[]): readonly Completion[] {
  const equals = words.findIndex((word) => word.text === '=');
  if (equals < 0) return words.length === 1 ? entitiesOf(model) : [];
  const entity = model.entities.get(words[1]?.text ?? '') ?? null;
  const path = model.entities.get(words[1]?.text ?? '')?.paths.find(({ name }) => name === words[3]?.text);
  const hops = words.slice(equals + 1);
  const by = hops.findIndex((word) => word.text === 'by');
  if (by > 0)
    return [...orderTerms(model, hops.slice(by + 1), model.entities.get(path?.target ?? '') ?? null, null), ...keywords('first')];
  const last = hops.at(-1)?.text;
  if (last === 'as' || last === undefined || last === '.' || last === '(' || hops.some((word) => word.text === '[')) {
    return inExpression(model, hops, entity, null, []);
  }
  return keywords('order by', 'first');
}

function inTreeLine(model: Model, words: readonly Word[]): readonly Completion[] {
  if (words[0]?.text === 'actor') return entitiesOf(model);
  if (words[0]?.text === 'dialect') return keywords(...DIALECTS);
  return [];
}

/** The lines of a query that stands alone are all at the first column; the one that says from which entity is among them. */
function queryLines(text: string, place: CursorPlace): readonly PlacedLine[] {
  const wordOf = (word: string) => ({ text: word, kind: TokenKind.word, span: { start: 0, end: 0 } });
  const stated = Array.from(text.matchAll(/^(?:from +\w+|show .*)/gm), ([line]) => line);
  const lines = stated.map((line) => ({ indent: 0, words: Array.from(line.matchAll(/\w+|[^\s\w]/g), ([word]) => wordOf(word)) }));
  return [...lines, ...place.above];
}

import type { Model } from '../../model/index.js';
import { TokenKind } from '../../notation/index.js';
import { typeName } from '../../values/index.js';
import type { CursorPlace, PlacedLine, Word } from '../place.js';
import { rolesOf, step, targetsOf } from '../scope.js';
import { behind, inExpression, orderTerms, parametersOf } from './in-expression.js';
import { type Completion, entitiesOf, fieldOption, keywords, narrowedOf, pivotFields, rolesIn, wallsOf } from './options.js';

const QUERY_LINES = keywords(
  'from',
  'where',
  'load',
  'show',
  'group by',
  'having',
  'order by',
  'limit',
  'offset',
  'reads',
  'first',
  'one',
  'exists',
  'count',
  'note',
);

/**
 * What may stand at a place in a query: the words that begin a line, or what belongs into the line.
 *
 * @param lines the lines of the query before the place, and `loads` those of the load that it stands in
 */
export function inQuery(
  model: Model,
  place: CursorPlace,
  lines: readonly PlacedLine[],
  loads: readonly PlacedLine[],
  parameters: readonly string[],
  name?: string,
): readonly Completion[] {
  const { words } = place.line;
  const saved = name === undefined ? undefined : model.queries.get(name);
  const kept = (saved?.show ?? []).map((column) => column.name).filter((column) => /^[a-z_]\w*$/.test(column));
  const stated = lines.find((line) => line.words[0]?.text === 'from')?.words[1]?.text;
  const from = stated ?? saved?.entity;
  const root = from === undefined ? null : (model.entities.get(from) ?? null);
  const owner = loads.reduce<ReturnType<typeof step>>((row, line) => walkLoad(model, row, line.words), {
    entity: root,
    pivot: null,
  });
  const [first] = words;
  // Below a load each line is a deeper one, with or without the word.
  if (loads.length > 0) return inLoad(model, withoutLoad(words), owner, parameters);
  if (first === undefined) return QUERY_LINES;
  switch (first.text) {
    case 'from':
      return words.length === 1 ? entitiesOf(model) : [];
    case 'where':
      return inExpression(model, words.slice(1), root, null, parameters);
    case 'show': {
      if (words.at(-1)?.text === 'as' && !words.some(({ text }) => text === '(')) return [];
      const distinct = words.length === 1 ? keywords('distinct') : [];
      const written = words.slice(words[1]?.text === 'distinct' ? 2 : 1);
      return [...inExpression(model, written, root, null, parameters), ...distinct];
    }
    case 'lift':
      return words.length === 1 ? wallsOf(model) : [];
    case 'reads':
      return inExpression(model, words.slice(1), root, null, []).filter(({ kind }) => kind === 'field' || kind === 'role');
    case 'having':
      return [...inExpression(model, words.slice(1), root, null, parameters), ...shownNames(lines, words, kept)];
    case 'group':
      return words.length === 1 ? keywords('by') : inExpression(model, words.slice(2), root, null, parameters);
    case 'order':
      if (words.length === 1) return keywords('by');
      return [...orderTerms(model, words.slice(2), root, null), ...shownNames(lines, words, kept)];
    case 'limit':
    case 'offset':
      return parametersOf(parameters, words);
    case 'load':
      return inLoad(model, withoutLoad(words), owner, parameters);
    default:
      return [];
  }
}

/** The names that the query gives to what it shows, where a value begins. */
function shownNames(lines: readonly PlacedLine[], words: readonly Word[], kept: readonly string[]): Completion[] {
  const last = words.at(-1)?.text ?? '';
  if (!['by', 'having', ',', '(', 'and', 'or', 'not'].includes(last)) return [];
  const typed = lines
    .filter((line) => line.words[0]?.text === 'show')
    .flatMap(({ words: shown }) => shown.filter((_, index) => shown[index - 1]?.text === 'as').map(({ text }) => text));
  return [...typed, ...kept].map((label) => ({ label, kind: 'field', detail: 'shown' }));
}

function inLoad(
  model: Model,
  words: readonly Word[],
  owner: ReturnType<typeof step>,
  parameters: readonly string[],
): readonly Completion[] {
  const last = words.at(-1)?.text;
  if (last === undefined || (words.length === 1 && last === '(')) return rolesIn(owner.entity);
  if (last === 'as') return narrowedOf(model, targetsBefore(model, owner, words));
  const target = walkLoad(model, owner, words);
  const where = words.findIndex((word) => word.text === 'where');
  const by = words.findLastIndex((word) => word.text === 'by');
  // A bracket at the very beginning is that of a cast.
  const open = words.findIndex((word, index) => index > 0 && word.text === '(');
  if (words.at(-1)?.text === 'limit') return parametersOf(parameters, []);
  if (by > 0 && words[by - 1]?.text !== 'order') return by === words.length - 1 ? keywords('batch', 'join', 'json', 'row') : [];
  if (by > 0 && by > where) return orderTerms(model, words.slice(by + 1), target.entity, target.pivot);
  if (where > 0) return inExpression(model, words.slice(where + 1), target.entity, target.pivot, parameters);
  if (words.some((word) => word.text === '[') && !words.some((word) => word.text === ']')) {
    return inExpression(model, behind(words, '['), target.entity, target.pivot, parameters);
  }
  if (open > 0 && !words.some((word) => word.text === ')')) {
    if (last === '.') return target.pivot === null ? [] : pivotFields(target.pivot);
    const entities = targetsBefore(model, owner, [...words.slice(0, open), ...words.slice(open, open + 1)]).flatMap(
      (name) => model.entities.get(name) ?? [],
    );
    const all = entities.length > 1 ? entities : target.entity === null ? [] : [target.entity];
    return [
      ...all.flatMap(({ fields }) => fields.map((field) => fieldOption(field.name, typeName(field.type)))),
      ...all.flatMap(({ derived }) => derived.map((field) => fieldOption(field.name, 'derived'))),
      ...(target.pivot?.fields.map((field) =>
        fieldOption(`${target.pivot?.table.value.name}.${field.name}`, typeName(field.type)),
      ) ?? []),
    ];
  }
  if (last === '.') return rolesIn(target.entity);
  return keywords('where', 'order by', 'limit', 'first', 'one', 'by');
}

function withoutLoad(words: readonly Word[]): readonly Word[] {
  return words[0]?.text === 'load' ? words.slice(1) : words;
}

/** What the load that is being written leads to, before `as`. */
function targetsBefore(model: Model, owner: ReturnType<typeof step>, words: readonly Word[]): readonly string[] {
  const before = walkLoad(
    model,
    owner,
    words.slice(0, -2).filter(({ text }) => text !== '('),
  );
  const role = rolesOf(before.entity).find(({ name }) => name === words.at(-2)?.text);
  return role === undefined ? [] : targetsOf(role);
}

function walkLoad(model: Model, from: ReturnType<typeof step>, words: readonly Word[]): ReturnType<typeof step> {
  let here = from;
  for (const [index, word] of withoutLoad(words).entries()) {
    if ((word.text === '(' && index > 0) || ['where', 'order', 'limit', 'first', 'one', 'by', '['].includes(word.text)) break;
    if (word.kind === TokenKind.capital) here = { entity: model.entities.get(word.text) ?? null, pivot: null };
    else if (word.kind === TokenKind.word && word.text !== 'as') here = step(model, here, word.text);
  }
  return here;
}

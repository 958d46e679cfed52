import type { Design } from '../design/index.js';
import {
  type AnyPivotRelation,
  type Entity,
  type Model,
  type PolymorphicRelation,
  plural,
  singular,
  snakeCase,
} from '../model/index.js';
import { type Span, TokenKind } from '../notation/index.js';
import { typeName } from '../values/index.js';
import { type Place, type PlacedLine, placeAt, type Word } from './place.js';
import { pivotOfRole, rolesOf, sightAt, step, targetsOf } from './scope.js';

/** Something that fits at the cursor. */
export interface Completion {
  readonly label: string;
  readonly kind:
    | 'keyword'
    | 'type'
    | 'entity'
    | 'mixin'
    | 'choice'
    | 'field'
    | 'role'
    | 'scope'
    | 'function'
    | 'parameter'
    | 'value';
  /** What it is, beside its name. */
  readonly detail: string;
}

export interface Completions {
  /** What a chosen one replaces. */
  readonly span: Span;
  readonly options: readonly Completion[];
}

const keywords = (...words: readonly string[]): Completion[] =>
  words.map((label) => ({ label, kind: 'keyword' as const, detail: '' }));

const DECLARATIONS = keywords('tree', 'mixin', 'choice', 'entity', 'relation', 'path', 'scope', 'query', 'sample');
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
const QUERY_LINES = keywords('from', 'where', 'load', 'order by', 'limit', 'offset', 'first', 'one', 'count', 'note');
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
const RULES = keywords('cascade', 'restrict', 'set null', 'set default', 'no action');
const TYPES = 'integer bigint decimal real boolean text date time timestamp uuid json bytes'.split(' ');
const OPERATORS = keywords('and', 'or', 'not', 'is null', 'is not null', 'is a', 'is not a', 'as', 'in', 'between', 'like');
const EXPRESSION_WORDS = keywords('not', 'null', 'true', 'false', 'today', 'now', 'case');
const QUANTIFIERS = ['any', 'none', 'all', 'count'];
const FUNCTION_NAMES = 'lower upper length trim coalesce abs round least greatest substr replace'.split(' ');

/** What fits at an offset of a tree's text. The design may be of a slightly older text: the words are read anew. */
export function complete(design: Design, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  return chosen(place, place.quiet ? [] : inTree(design.model, place));
}

/** What fits at an offset of a query that stands alone, with its parameters' head beside it. */
export function completeQuery(design: Design, text: string, head: string, offset: number): Completions {
  const place = placeAt(text, offset);
  const parameters = Array.from(head.matchAll(/(?:^|,)\s*(\w+)/g), (match) => match[1] ?? '');
  return chosen(place, place.quiet ? [] : inQuery(design.model, place, queryLines(text, place), place.above, parameters));
}

/** What fits in a condition on an entity, as in a filter. */
export function completeCondition(design: Design, entity: string, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  const found = design.model.entities.get(entity);
  return chosen(place, place.quiet || found === undefined ? [] : inExpression(design.model, place.line.words, found, null, []));
}

/** What fits in a list of terms to order by. */
export function completeOrder(design: Design, entity: string, text: string, offset: number): Completions {
  const place = placeAt(text, offset);
  const found = design.model.entities.get(entity);
  return chosen(place, found === undefined ? [] : orderTerms(design.model, place.line.words, found, null));
}

function chosen(place: Place, options: readonly Completion[]): Completions {
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

function inTree(model: Model, place: Place): readonly Completion[] {
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
      return inEntityLine(model, line.words, model.entities.get(name) ?? null);
    case 'mixin':
      return inEntityLine(model, line.words, null);
    case 'relation':
      return inRelation(model, place, name);
    case 'scope': {
      if (line.words.length === 0) return entitiesOf(model);
      if (line.words.length === 1) return keywords('where');
      const entity = model.entities.get(line.words[0]?.text ?? '');
      return inExpression(model, line.words.slice(2), entity ?? null, null, []);
    }
    case 'query': {
      const parameters = head.words.flatMap((word, index) =>
        index > 2 && word.kind === TokenKind.word && ['(', ','].includes(head.words[index - 1]?.text ?? '') ? [word.text] : [],
      );
      return inQuery(model, place, [], above.slice(1), parameters, name);
    }
    case 'sample':
      return inSample(model, line.words, model.entities.get(name) ?? null);
    default:
      return [];
  }
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
  if (last === 'as') return entitiesOf(model);
  if (last === undefined || last === '.' || last === '(' || hops.some((word) => word.text === '[')) {
    return inExpression(model, hops, entity, null, []);
  }
  return keywords('order by', 'first');
}

function inTreeLine(model: Model, words: readonly Word[]): readonly Completion[] {
  if (words[0]?.text === 'actor') return entitiesOf(model);
  if (words[0]?.text === 'dialect') return keywords('sqlite', 'postgres', 'mariadb');
  return [];
}

function inEntityLine(model: Model, words: readonly Word[], entity: Entity | null): readonly Completion[] {
  const [first, second] = words;
  if (first === undefined) return ENTITY_LINES;
  switch (first.text) {
    case 'uses':
      return mixinsOf(model);
    case 'unique':
    case 'index':
      if (second === undefined) return [];
      return entity === null
        ? []
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

function valuesOf(values: readonly { readonly value: string; readonly title: string | null }[]): Completion[] {
  return values.map(({ value, title }) => ({
    label: `'${value.replaceAll("'", "''")}'`,
    kind: 'value',
    detail: title ?? '',
  }));
}

function inRelation(model: Model, place: Place, name: string): readonly Completion[] {
  const { words } = place.line;
  const stored = place.above[1];
  if (stored !== undefined) return inPivotLine(model, words, name);
  const [first, second] = words;
  if (first === undefined) return [...entitiesOf(model), ...keywords('stored in', 'on delete', 'on update', 'note')];
  if (first.text === 'stored') {
    if (second === undefined) return keywords('in');
    const last = words.at(-1)?.text ?? '';
    if (last === 'in') return [...keywords('table', 'one of'), ...entitiesOf(model)];
    const relation = model.relations.get(name);
    const open = words.findIndex((word) => word.text === '(');
    if (open > 0 && words[2]?.kind === TokenKind.capital) return rolesIn(model.entities.get(words[2].text) ?? null);
    if (last === 'of' || last === ',' || last === 'with') return entitiesOf(model);
    if (last !== '.') return keywords('with', 'repeats', 'given', 'without triggers', 'was');
    if (relation?.kind === 'key') return relation.columns.map((column) => fieldOption(column.value, 'the key column'));
    return relation?.kind === 'polymorphic' ? storedColumns(relation).map((column) => fieldOption(column, 'a key column')) : [];
  }
  if (first.text === 'on') return second === undefined ? keywords('delete', 'update') : words.length === 2 ? RULES : [];
  if (first.kind !== TokenKind.capital && first.text !== 'each') return [];
  if (words.at(-1)?.text === '|') return entitiesOf(model);
  const verb = words.findIndex((word) => word.text === 'knows');
  if (second === undefined || verb < 0) return keywords('knows one', 'knows at most one', 'knows many', '|');
  const knows = words.slice(verb).map((word) => word.text);
  if (knows.length === 1) return keywords('one', 'at most one', 'many');
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
  const pivot = relation?.kind === 'pivot' || relation?.kind === 'polymorphic pivot' ? relation : null;
  if (by > 0) return orderTerms(model, words.slice(by + 1), entity, pivot);
  return keywords('both ways', 'order by', 'note');
}

/** The columns that a polymorphic key stands in. */
function storedColumns({ storage }: PolymorphicRelation): string[] {
  return storage.kind === 'one of' ? storage.columns.map(({ value }) => value) : [storage.type.value, storage.id.value];
}

function rolesIn(entity: Entity | null): Completion[] {
  return rolesOf(entity).map((role) => roleOption(role.name, targetsOf(role).join(', ')));
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

/** The lines of a query that stands alone are all at the first column; the one that says from which entity is among them. */
function queryLines(text: string, place: Place): readonly PlacedLine[] {
  const from = /^from +(\w+)/m.exec(text);
  if (from === null) return place.above;
  const span = { start: 0, end: 0 };
  return [
    { indent: 0, words: ['from', from[1] ?? ''].map((word) => ({ text: word, kind: TokenKind.word, span })) },
    ...place.above,
  ];
}

function inQuery(
  model: Model,
  place: Place,
  lines: readonly PlacedLine[],
  loads: readonly PlacedLine[],
  parameters: readonly string[],
  name?: string,
): readonly Completion[] {
  const { words } = place.line;
  const stated = lines.find((line) => line.words[0]?.text === 'from')?.words[1]?.text;
  const from = stated ?? (name === undefined ? undefined : model.queries.get(name)?.entity);
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
    case 'order':
      return words.length === 1 ? keywords('by') : orderTerms(model, words.slice(2), root, null);
    case 'limit':
    case 'offset':
      return parametersOf(parameters, words);
    case 'load':
      return inLoad(model, withoutLoad(words), owner, parameters);
    default:
      return [];
  }
}

function inLoad(
  model: Model,
  words: readonly Word[],
  owner: ReturnType<typeof step>,
  parameters: readonly string[],
): readonly Completion[] {
  const last = words.at(-1)?.text;
  if (last === undefined || (words.length === 1 && last === '(')) return rolesIn(owner.entity);
  if (last === 'as') return entitiesOf(model);
  const target = walkLoad(model, owner, words);
  const where = words.findIndex((word) => word.text === 'where');
  const by = words.findIndex((word) => word.text === 'by');
  // A bracket at the very beginning is that of a cast.
  const open = words.findIndex((word, index) => index > 0 && word.text === '(');
  if (by > 0 && by > where) return orderTerms(model, words.slice(by + 1), target.entity, target.pivot);
  if (where > 0) return inExpression(model, words.slice(where + 1), target.entity, target.pivot, parameters);
  if (words.some((word) => word.text === '[') && !words.some((word) => word.text === ']')) {
    return inExpression(model, behind(words, '['), target.entity, target.pivot, parameters);
  }
  if (open > 0 && !words.some((word) => word.text === ')')) {
    if (last === '.') return target.pivot === null ? [] : pivotFields(target.pivot);
    return [
      ...(target.entity?.fields.map((field) => fieldOption(field.name, typeName(field.type))) ?? []),
      ...(target.entity?.derived.map((field) => fieldOption(field.name, 'derived')) ?? []),
      ...(target.pivot?.fields.map((field) =>
        fieldOption(`${target.pivot?.table.value.name}.${field.name}`, typeName(field.type)),
      ) ?? []),
    ];
  }
  if (last === '.') return rolesIn(target.entity);
  return keywords('where', 'order by');
}

function withoutLoad(words: readonly Word[]): readonly Word[] {
  return words[0]?.text === 'load' ? words.slice(1) : words;
}

function walkLoad(model: Model, from: ReturnType<typeof step>, words: readonly Word[]): ReturnType<typeof step> {
  let here = from;
  for (const [index, word] of withoutLoad(words).entries()) {
    if ((word.text === '(' && index > 0) || ['where', 'order', 'by', '['].includes(word.text)) break;
    if (word.kind === TokenKind.capital) here = { entity: model.entities.get(word.text) ?? null, pivot: null };
    else if (word.kind === TokenKind.word && word.text !== 'as') here = step(model, here, word.text);
  }
  return here;
}

function inSample(model: Model, words: readonly Word[], entity: Entity | null): readonly Completion[] {
  const members = (): Completion[] => [
    ...(entity?.fields.map((field) => fieldOption(field.name, typeName(field.type))) ?? []),
    ...rolesIn(entity),
  ];
  const [first, second] = words;
  if (first === undefined) return members();
  if (second?.text === ':') {
    const last = words.at(-1)?.text;
    if (last === ':' || last === ',') return members();
    return valuesFor(model, entity, last ?? '');
  }
  if (words.at(-1)?.text === 'any') return entitiesOf(model);
  const role = rolesOf(entity).find((candidate) => candidate.name === first.text);
  if (role !== undefined && second !== undefined) return keywords('or null');
  if (role !== undefined) return keywords(...targetsOf(role).map((target) => `any ${target}`), '0 to 3 each');
  return second === undefined ? [...keywords('between'), ...valuesFor(model, entity, first.text)] : keywords('or null');
}

function valuesFor(model: Model, entity: Entity | null, member: string): Completion[] {
  const role = rolesOf(entity).find((candidate) => candidate.name === member);
  if (role !== undefined) {
    const targets = targetsOf(role);
    return model.samples
      .filter((sample) => targets.includes(sample.entity))
      .flatMap((sample) =>
        sample.rows.map((row) => ({ label: `${sample.entity}(${row.name})`, kind: 'value' as const, detail: 'sample row' })),
      );
  }
  const type = entity?.fields.find((field) => field.name === member)?.type;
  if (type?.kind === 'boolean') return keywords('true', 'false');
  return type?.kind === 'choice' ? type.values.map((value) => ({ label: `'${value}'`, kind: 'value', detail: '' })) : [];
}

/** An expression: names of the row at hand, functions and parameters where a value begins, operators behind one. */
function inExpression(
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
  if (last?.text === 'as' || ((last?.text === 'a' || last?.text === 'an') && (before === 'is' || before === 'not')))
    return entitiesOf(model);
  const value = last !== undefined && endsValue(last);
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

const BEGINS_VALUE = new Set(['and', 'or', 'not', 'when', 'then', 'else', 'case', 'where', 'in', 'between', 'like', 'is', 'by']);

function endsValue(word: Word): boolean {
  if (word.kind === TokenKind.symbol) return word.text === ')' || word.text === ']';
  return !BEGINS_VALUE.has(word.text);
}

function orderTerms(
  model: Model,
  words: readonly Word[],
  entity: Entity | null,
  pivot: AnyPivotRelation | null,
): readonly Completion[] {
  const last = words.at(-1);
  if (last !== undefined && endsValue(last) && last.text !== ',') return keywords('desc');
  return inExpression(model, words, entity, pivot, []);
}

function parametersOf(parameters: readonly string[], words: readonly Word[]): Completion[] {
  const colon = words.at(-1)?.text === ':';
  return parameters.map((name) => ({ label: colon ? name : `:${name}`, kind: 'parameter', detail: 'parameter' }));
}

function membersOf(model: Model, entity: Entity, pivot: AnyPivotRelation | null): Completion[] {
  const scopes = Array.from(model.scopes.values()).filter((scope) => scope.conditions.has(entity.name));
  return [
    ...entity.fields.map((field) => fieldOption(field.name, typeName(field.type))),
    ...entity.derived.map((field) => fieldOption(field.name, 'derived')),
    ...rolesOf(entity).map((role) => roleOption(role.name, targetsOf(role).join(', '), pivotOfRole(model, role))),
    ...scopes.map((scope): Completion => ({ label: scope.name, kind: 'scope', detail: 'scope' })),
    ...(pivot?.fields.map((field) => fieldOption(`${pivot.table.value.name}.${field.name}`, typeName(field.type))) ?? []),
  ];
}

function pivotFields(pivot: AnyPivotRelation): Completion[] {
  return pivot.fields.map((field) => fieldOption(field.name, typeName(field.type)));
}

function fieldOption(label: string, detail: string): Completion {
  return { label, kind: 'field', detail };
}

function roleOption(label: string, target: string, pivot: AnyPivotRelation | null = null): Completion {
  return { label, kind: 'role', detail: pivot === null ? `→ ${target}` : `→ ${target}, over ${pivot.table.value.name}` };
}

function entitiesOf(model: Model): Completion[] {
  return Array.from(model.entities.values(), (entity) => ({
    label: entity.name,
    kind: 'entity',
    detail: entity.table.value.name,
  }));
}

function mixinsOf(model: Model): Completion[] {
  const names = new Set(Array.from(model.entities.values()).flatMap((entity) => entity.mixins));
  return Array.from(names, (label) => ({ label, kind: 'mixin', detail: 'mixin' }));
}

function typesOf(model: Model): Completion[] {
  return [
    ...TYPES.map((label): Completion => ({ label, kind: 'type', detail: '' })),
    ...Array.from(
      model.choices.values(),
      (choice): Completion => ({
        label: choice.name,
        kind: 'choice',
        detail: choice.values.map(({ value }) => value).join(', '),
      }),
    ),
  ];
}

function behind(words: readonly Word[], text: string): readonly Word[] {
  const at = words.findIndex((word) => word.text === text);
  return at < 0 ? [] : words.slice(at + 1);
}

import { cardOf } from '../../core/cards/index.js';
import type { Design } from '../../core/design/index.js';
import { scriptParts } from '../../core/dialects/index.js';
import {
  addEntity,
  addExpectation,
  addField,
  addMeant,
  addQuery,
  addRelation,
  addSampleRow,
  applied,
  changeQuery,
  changeType,
  relationText,
  rename,
  setDefault,
  setDeleteRule,
  setKindsStorage,
  setOptional,
  setSampleCount,
} from '../../core/edits/index.js';
import { formats, leavingFields, picturedDocument, textOfModel } from '../../core/formats/index.js';
import {
  complete,
  completeCondition,
  completeOrder,
  completeQuery,
  definitionOf,
  hover,
  nameAt,
  usedBy,
  usesOf,
} from '../../core/language/index.js';
import { curlLines, resourcesOf } from '../../core/live/index.js';
import { holdingsOf } from '../../core/model/index.js';
import { type Edit, isCommands, parseParameters } from '../../core/notation/index.js';
import { addedLines } from '../../core/revisions/index.js';
import type { AskKind, Asks, Click, Clicked } from './asks.js';
import { designAfter, designOf, type FirstKind } from './first-answers.js';

type Answers = { readonly [K in Exclude<AskKind, FirstKind>]: (ask: Asks[K][0]) => Asks[K][1] };

/** Answers what the page asks of a text, but for its first picture. */
export const laterAnswers: Answers = {
  format: ({ text, format, options }) => formats[format].made(designOf(text), options),
  document: ({ text, folder }) => picturedDocument(designOf(text), folder),
  'text of model': ({ json }) => textOfModel(json),
  resources: ({ text }) => {
    const { model } = designOf(text);
    const types = Array.from(resourcesOf(model).byName.values(), ({ name, entity, relationships }) => ({
      name,
      entity: entity.name,
      given: entity.given,
      abstract: entity.kinds?.abstract === true,
      relationships: relationships.map(({ member, many, readOnly }) => ({ name: member, many, readOnly })),
    }));
    return { types, fields: leavingFields(model) };
  },
  curl: ({ text, type, options }) => {
    const known = resourcesOf(designOf(text).model).byName.get(type);
    return known === undefined ? [] : curlLines(known, options);
  },
  card: ({ text, kind, name }) => cardOf(designOf(text), kind, name),
  complete: ({ text, offset }) => complete(designOf(text), text, offset),
  'complete query': ({ text, query, head, offset }) => completeQuery(designOf(text), query, head, offset),
  'complete filter': ({ text, entity, part, written, offset }) =>
    (part === 'where' ? completeCondition : completeOrder)(designOf(text), entity, written, offset),
  hover: ({ text, offset }) => hover(designOf(text), offset),
  name: ({ text, offset }) => {
    const design = designOf(text);
    const reference = nameAt(design, offset);
    if (reference === null) return null;
    return {
      thing: reference.thing,
      span: reference.span,
      definition: definitionOf(design, reference.thing),
      uses: usesOf(design, reference.thing).map(({ span }) => span),
      usedBy: usedBy(design, reference.thing),
    };
  },
  rename: ({ text, thing, name }) => rename(designOf(text), thing, name),
  click: ({ text, click }) => clicked(designOf(text), click),
  'check query': ({ text, query, head }) =>
    isCommands(query)
      ? designOf(text).commandsOf(query).findings
      : designOf(text).queryOf(query, parseParameters(head) ?? []).findings,
};

function editsOf(design: Design, click: Click): Edit[] {
  switch (click.kind) {
    case 'add entity':
      return addEntity(design, click.name);
    case 'add field':
      return addField(design, click.entity, click.field);
    case 'type':
      return changeType(design, click.entity, click.field, click.type);
    case 'optional':
      return setOptional(design, click.entity, click.field, click.optional);
    case 'default':
      return setDefault(design, click.entity, click.field, click.literal);
    case 'on delete':
      return setDeleteRule(design, click.relation, click.rule);
    case 'kinds storage':
      return setKindsStorage(design, click.entity, click.storage);
    case 'add relation':
      return addRelation(design, click.relation);
    case 'mean':
      return addMeant(design, click.findings, click.why);
    case 'change query':
      return changeQuery(design, click.name, click.head, click.body);
    case 'sample count':
      return setSampleCount(design, click.entity, click.count);
    case 'add sample row':
      return addSampleRow(design, click.entity, click.name, click.values);
    case 'add expectation':
      return addExpectation(design, click.subject, click.lines);
    case 'add query':
      return addQuery(design, click.name, click.head, click.body);
  }
}

function clicked(design: Design, click: Click): Clicked {
  const text = applied(design.text, editsOf(design, click));
  const after = designAfter(text);
  const known = new Set(design.findings.map(({ message }) => message));
  const problems = after.findings
    .filter(({ weight, message }) => weight === 'error' && !known.has(message))
    .map(({ message }) => message);
  const before = new Map(scriptParts(design.schema, design.dialect).map(({ table, sql }) => [table, sql]));
  const name = click.kind === 'add relation' ? click.relation.name : null;
  const holder = name === null ? null : holderOf(after, name);
  const sql = scriptParts(after.schema, after.dialect)
    .filter((part) => before.get(part.table) !== part.sql)
    .map((part) => ({
      ...part,
      fresh: !before.has(part.table),
      added: addedLines(before.get(part.table) ?? '', part.sql),
    }))
    .sort((a, b) => Number(b.table === holder) - Number(a.table === holder));
  const card = name === null ? null : cardOf(after, 'relation', name);
  return { text, problems, card, sql, added: click.kind === 'add relation' ? relationText(click.relation) : '' };
}

/** The table that holds the keys of a relation. */
function holderOf({ model }: Design, name: string): string | null {
  const relation = model.relations.get(name);
  if (relation === undefined) return null;
  const { pairs, holder } = holdingsOf(relation);
  return pairs?.name ?? (holder === null ? null : (model.entities.get(holder)?.table.value.name ?? null));
}

import { cardOf, type RelationCard, type SentenceCard } from '../cards/index.js';
import type { Design } from '../design/index.js';
import { describeType, type Field, isPivot, type NamedThing } from '../model/index.js';
import type { Span } from '../notation/index.js';
import { typeName } from '../values/index.js';
import { wallsTold } from '../walls/index.js';
import { nameAt } from './names.js';
import { usedBy, usedByInWords } from './used-by.js';

/** The hover text of the name at an offset, line by line; null where there is nothing to say of it. */
export function hover(design: Design, offset: number): { readonly span: Span; readonly lines: readonly string[] } | null {
  const reference = nameAt(design, offset);
  if (reference === null) return null;
  const lines = told(design, reference.thing);
  if (lines.length === 0) return null;
  const users = usedByInWords(usedBy(design, reference.thing));
  return { span: reference.span, lines: [...lines, ...(users === '' ? [] : [`Used by ${users}.`])] };
}

function told(design: Design, thing: NamedThing): readonly string[] {
  const { model } = design;
  switch (thing.kind) {
    case 'entity': {
      const card = cardOf(design, 'entity', thing.name);
      if (card?.kind !== 'entity') return [];
      const { table, note, sentences } = card;
      return [`${thing.name}: table ${table.text}, ${table.why}.`, ...(note === null ? [] : [note]), ...sentences.map(spoken)];
    }
    case 'relation': {
      const card = relationCard(design, thing.name);
      return card === null ? [] : [...card.sentences.map(spoken), ...storage(card)];
    }
    case 'role': {
      const owner = model.entities.get(thing.owner);
      const role = [...(owner?.roles ?? []), ...(owner?.polymorphic ?? [])].find((candidate) => candidate.name === thing.name);
      const card = role === undefined ? null : relationCard(design, role.relation);
      const own = card?.sentences.filter(({ subject, role: name }) => subject === thing.owner && name === thing.name) ?? [];
      return card === null ? [] : [...own.map(spoken), ...storage(card), `relation ${card.name}, ${card.form}`];
    }
    case 'field':
      return describeField(design, thing);
    case 'pivot field':
      return describePivotField(design, thing);
    case 'choice':
      return (model.choices.get(thing.name)?.values ?? []).map(({ value, title }) =>
        title === null ? `'${value}'` : `'${value}', shown as ${title}`,
      );
    case 'scope': {
      const scope = model.scopes.get(thing.name);
      if (scope === undefined) return [];
      return [`scope of ${Array.from(scope.conditions.keys()).join(', ')}`, design.text.slice(scope.span.start, scope.span.end)];
    }
    case 'wall': {
      const wall = wallsTold(model, design.text).find(({ name }) => name === thing.name);
      return wall === undefined ? [] : [...(wall.note === null ? [] : [wall.note]), ...wall.sentences];
    }
    case 'mixin': {
      const users = Array.from(model.entities.values()).filter((entity) => entity.mixins.includes(thing.name));
      return [`mixin, used by ${users.map((entity) => entity.name).join(', ') || 'nobody yet'}`];
    }
    case 'query': {
      const query = model.queries.get(thing.name);
      return query === undefined ? [] : [`query from ${query.entity}`, ...(query.note === null ? [] : [query.note])];
    }
    case 'path': {
      const path = model.entities.get(thing.owner)?.paths.find((candidate) => candidate.name === thing.name);
      if (path === undefined) return [];
      return [`A path of ${thing.owner} to ${path.knows} ${path.target}.`, design.text.slice(path.span.start, path.span.end)];
    }
    case 'sample row':
      return [`sample row of ${thing.owner}`];
    case 'parameter': {
      const parameter = model.queries.get(thing.owner)?.parameters.find(({ name }) => name === thing.name);
      return [`parameter of query ${thing.owner}${parameter?.optional === true ? ', may be left empty' : ''}`];
    }
    case 'column': {
      const column = model.queries.get(thing.owner)?.show?.find(({ name }) => name === thing.name);
      return column === undefined
        ? []
        : [`What query ${thing.owner} shows as ${thing.name}: ${describeType(column.expression.type)}.`];
    }
    case 'check':
    case 'rule':
      return [`${thing.kind} of ${thing.owner}`];
    case 'pivot':
      return [`the table of pairs ${thing.name}`];
  }
}

function describeField({ model }: Design, thing: NamedThing): readonly string[] {
  const owner =
    model.entities.get(thing.owner) ??
    Array.from(model.entities.values()).find((entity) => entity.mixins.includes(thing.owner)) ??
    null;
  const field = owner?.fields.find((candidate) => candidate.name === thing.name);
  if (owner !== null && field !== undefined) return describeStored(field, owner.table.value.name);
  const derived = owner?.derived.find((candidate) => candidate.name === thing.name);
  return derived === undefined ? [] : [`${thing.owner}.${thing.name}: derived, computed when read.`];
}

function describePivotField({ model }: Design, thing: NamedThing): readonly string[] {
  const relation = model.relations.get(thing.owner);
  if (relation === undefined || !isPivot(relation)) return [];
  const field = relation.fields.find((candidate) => candidate.name === thing.name);
  return field === undefined ? [] : describeStored(field, relation.table.value.name);
}

function describeStored(field: Field, table: string): readonly string[] {
  const from = field.mixin === null ? '' : `, from ${field.mixin}`;
  const why = field.column.origin.kind === 'stated' ? 'stated' : 'by convention';
  return [
    `${field.name}: ${typeName(field.type)}, ${field.required ? 'required' : 'optional'}${field.unique === null ? '' : ', unique'}${from}.`,
    `Stored in ${table}.${field.column.value}, ${why}.`,
    ...(field.note === null ? [] : [field.note]),
  ];
}

function relationCard(design: Design, name: string): RelationCard | null {
  const card = cardOf(design, 'relation', name);
  return card?.kind === 'relation' ? card : null;
}

function spoken({ subject, knows, targets, role, bothWays }: SentenceCard): string {
  return `${/^[AEIOU]/.test(subject) ? 'An' : 'A'} ${subject} knows ${knows} ${targets.join(' or ')} as ${role}${bothWays ? ', both ways' : ''}.`;
}

function storage(card: RelationCard): string[] {
  return card.storage.map(({ text, why }) => `Stored in ${text}, ${why}.`);
}

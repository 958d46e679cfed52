import type { Design } from '../design/index.js';
import {
  type Declaration,
  type DeleteRule,
  type Edit,
  type EntityLine,
  type EntitySyntax,
  type Knows,
  type Modifier,
  writtenInLines,
} from '../notation/index.js';
import { columnOf, indentOf, insertion, lineEnd, removal } from './lines.js';
import { relationSyntax } from './rename.js';

type FieldLine = Extract<EntityLine, { kind: 'field' }>;

/** A field to be added. The default is a literal as the notation writes it. */
export interface NewField {
  readonly name: string;
  readonly type: string;
  readonly optional: boolean;
  readonly default: string | null;
}

/** An entity with a key and a name, behind the last one. */
export function addEntity(design: Design, name: string): Edit[] {
  return [
    declarationAfter(design, ['entity', 'choice', 'mixin', 'tree'], `entity ${name}\n  id    integer key\n  name  text(80)`),
  ];
}

/** A field behind the entity's last one, its type below the others. Nothing where the text has no such entity. */
export function addField(design: Design, entity: string, field: NewField): Edit[] {
  const syntax = entitySyntax(design, entity);
  if (syntax === null) return [];
  const last = syntax.lines.filter((line): line is FieldLine => line.kind === 'field').at(-1);
  const tail = `${field.type}${field.optional ? ' optional' : ''}${field.default === null ? '' : ` default ${field.default}`}`;
  if (last === undefined) return [insertion(lineEnd(design.text, syntax.head.end), `\n  ${field.name}  ${tail}`)];
  const indent = indentOf(design.text, last.span.start);
  const width = columnOf(design.text, last.type.span.start) - indent.length;
  const gap = Math.max(1, width - field.name.length);
  return [insertion(lineEnd(design.text, last.span.end), `\n${indent}${field.name}${' '.repeat(gap)}${tail}`)];
}

/** Another type for a field. */
export function changeType(design: Design, entity: string, field: string, type: string): Edit[] {
  const line = fieldLine(design, entity, field);
  return line === null ? [] : [{ span: line.type.span, text: type }];
}

/** Lets a field be empty, or no longer. */
export function setOptional(design: Design, entity: string, field: string, optional: boolean): Edit[] {
  const line = fieldLine(design, entity, field);
  const there = line?.modifiers.find(({ kind }) => kind === 'optional');
  if (line === null || (there !== undefined) === optional) return [];
  return there === undefined ? [insertion(line.type.span.end, ' optional')] : [removal(design.text, there.span)];
}

/** Another default for a field, as the notation writes it; null for none. */
export function setDefault(design: Design, entity: string, field: string, literal: string | null): Edit[] {
  const line = fieldLine(design, entity, field);
  if (line === null) return [];
  const there = line.modifiers.find(
    (modifier): modifier is Extract<Modifier, { kind: 'default' }> => modifier.kind === 'default',
  );
  if (there !== undefined)
    return literal === null ? [removal(design.text, there.span)] : [{ span: there.value.span, text: literal }];
  if (literal === null) return [];
  const behind = line.modifiers.find(({ kind }) => kind === 'optional')?.span.end ?? line.type.span.end;
  return [insertion(behind, ` default ${literal}`)];
}

/** Sets a relation's delete rule; null for the rule that the convention gives. */
export function setDeleteRule(design: Design, relation: string, rule: DeleteRule | null): Edit[] {
  const syntax = relationSyntax(design, relation);
  if (syntax === null) return [];
  const there = syntax.lines.find((line) => line.kind === 'on delete');
  if (there !== undefined) {
    if (rule !== null) return [{ span: there.span, text: `on delete ${rule}` }];
    const start = design.text.lastIndexOf('\n', there.span.start);
    return [{ span: { start: Math.max(0, start), end: there.span.end }, text: '' }];
  }
  if (rule === null) return [];
  const first = syntax.lines[0];
  const indent = first === undefined ? '  ' : indentOf(design.text, first.span.start);
  return [insertion(lineEnd(design.text, syntax.span.end), `\n${indent}on delete ${rule}`)];
}

/** How one knows whoever knows it. */
interface Back {
  readonly knows: Knows;
  readonly role: string;
}

/** A relation as a person states it. */
export interface NewRelation {
  readonly name: string;
  readonly subject: string;
  readonly knows: Knows;
  readonly target: string;
  /** Further entities that the role may lead to. */
  readonly more: readonly string[];
  readonly role: string;
  /** The way back; null where nobody walks it. Of a relation to several, that of each of them. */
  readonly back: Back | null;
  /** The way back of each by itself, where they do not all say the same; then `back` means nothing. */
  readonly backs: readonly (Back & { readonly entity: string })[];
  readonly bothWays: boolean;
  /** Behind `stored in`; null where the convention serves. */
  readonly stored: string | null;
  readonly onDelete: DeleteRule | null;
}

/** The text of a relation's declaration. */
export function relationText(relation: NewRelation): string {
  const { name, subject, knows, target, more, role, back, bothWays, stored, onDelete } = relation;
  const targets = [target, ...more].join(' | ');
  const alike = back === null || bothWays ? [] : [{ ...back, entity: more.length > 0 ? 'each' : target }];
  const backs = relation.backs.length > 0 ? relation.backs : alike;
  return [
    `relation ${name}`,
    `  ${subject} knows ${knows} ${targets} as ${role}${bothWays ? ', both ways' : ''}`,
    ...backs.map((way) => `  ${way.entity} knows ${way.knows} ${subject} as ${way.role}`),
    ...(stored === null ? [] : [`  stored in ${stored}`]),
    ...(onDelete === null ? [] : [`  on delete ${onDelete}`]),
  ].join('\n');
}

/** A relation behind the last one. */
export function addRelation(design: Design, relation: NewRelation): Edit[] {
  return [declarationAfter(design, ['relation', 'entity', 'choice', 'mixin', 'tree'], relationText(relation))];
}

/** A query behind the last one, so that what was tried is kept. */
export function addQuery(design: Design, name: string, head: string, body: string): Edit[] {
  const parameters = head.trim() === '' ? '' : `(${head.trim()})`;
  const text = [`query ${name}${parameters}`, ...bodyLines(body)].join('\n');
  return [declarationAfter(design, ['query', 'scope', 'relation', 'entity', 'tree'], text)];
}

/** What is expected of a query with these values, or of a command, behind the last expectation of the text. */
export function addExpectation(design: Design, subject: string, lines: readonly string[]): Edit[] {
  const text = [`expect ${subject}`, ...lines.map((line) => `  ${line}`)].join('\n');
  return [declarationAfter(design, ['expect', 'sample', 'query', 'relation', 'entity', 'tree'], text)];
}

/** Another body and other parameters for a query of the text; its note and what stands around it stay. */
export function changeQuery(design: Design, name: string, head: string, body: string): Edit[] {
  const syntax = design.syntax.declarations.find((one) => one.kind === 'query' && one.name.text === name);
  if (syntax?.kind !== 'query') return [];
  const note = syntax.lines.find(({ kind }) => kind === 'note');
  const parameters = head.trim() === '' ? '' : `(${head.trim()})`;
  const noteLine = note === undefined ? [] : [`  ${design.text.slice(note.span.start, note.span.end)}`];
  const before = /^query\s+\w+\s*(?:\([\s\S]*\))?/.exec(design.text.slice(syntax.head.start, syntax.head.end))?.[0].length ?? 0;
  // What stands behind the parameters, as a note, stays.
  const behind = design.text.slice(syntax.head.start + before, syntax.head.end);
  const text = [`query ${name}${parameters}${behind}`, ...noteLine, ...bodyLines(body)].join('\n');
  return [{ span: { start: syntax.head.start, end: syntax.span.end }, text }];
}

/** The lines of a query below its head; one that was typed on one line is written on several. */
function bodyLines(body: string): string[] {
  return writtenInLines(body)
    .trimEnd()
    .split('\n')
    .map((line) => (line.trim() === '' ? '' : `  ${line}`));
}

/** A declaration behind the last of the first sort that the text has, a blank line between. */
export function declarationAfter(design: Design, sorts: readonly Declaration['kind'][], declaration: string): Edit {
  const { text, syntax } = design;
  for (const sort of sorts) {
    const last = syntax.declarations.filter(({ kind }) => kind === sort).at(-1);
    if (last !== undefined) return insertion(lineEnd(text, last.span.end), `\n\n${declaration}`);
  }
  const end = text.trimEnd().length;
  return insertion(end, `${end === 0 ? '' : '\n\n'}${declaration}`);
}

function entitySyntax(design: Design, name: string): EntitySyntax | null {
  const found = design.syntax.declarations.find((declaration) => declaration.kind === 'entity' && declaration.name.text === name);
  return found?.kind === 'entity' ? found : null;
}

/** The line of a field, in the entity itself or in a mixin that it uses. */
function fieldLine(design: Design, entity: string, name: string): FieldLine | null {
  const mixins = design.model.entities.get(entity)?.mixins ?? [];
  for (const declaration of design.syntax.declarations) {
    const own = declaration.kind === 'entity' && declaration.name.text === entity;
    const mixed = declaration.kind === 'mixin' && mixins.includes(declaration.name.text);
    if (!own && !mixed) continue;
    const line = declaration.lines.find((candidate) => candidate.kind === 'field' && candidate.name.text === name);
    if (line?.kind === 'field') return line;
  }
  return null;
}

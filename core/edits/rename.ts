import { type Design, readDesign } from '../design/index.js';
import { definitionOf, usesOf } from '../language/index.js';
import {
  type Entity,
  farColumns,
  hasTable,
  holdingsOf,
  isMarked,
  isPivot,
  isPolymorphic,
  type NamedThing,
  type Origin,
  type PivotRelation,
  type Relation,
  storedPlace,
} from '../model/index.js';
import type { Edit, RelationSyntax } from '../notation/index.js';
import { RESERVED } from '../notation/index.js';
import { applied, indentOf, insertion, lineEnd } from './lines.js';

/**
 * A rename as edits, with what had to be written out, and what in the database bears the name itself and is renamed there too;
 * or why it cannot be done.
 */
export type Rename =
  | {
      readonly ok: true;
      readonly edits: readonly Edit[];
      readonly places: number;
      readonly kept: readonly string[];
      readonly also: string | null;
    }
  | { readonly ok: false; readonly problem: string };

/**
 * Gives a thing another name wherever the text says it. A table, column or pivot that only a convention had named
 * after it is written out first, so that no rename moves data; a pivot and a check are what they are called in the database.
 */
export function rename(design: Design, thing: NamedThing, name: string): Rename {
  const { text } = design;
  if (definitionOf(design, thing) === null)
    return { ok: false, problem: `The text does not declare ${thing.name}, so there is nothing to rename.` };
  const problem = nameProblem(thing, name);
  if (problem !== null) return { ok: false, problem };
  const uses = usesOf(design, thing);
  const kept = storageOf(design, thing, name);
  const edits = [...uses.map(({ span }) => ({ span, text: name })), ...kept.flatMap((part) => part.edit)];
  const before = errorsOf(design);
  const after = errorsOf(readDesign(applied(text, edits)));
  const [fresh] = after.filter((message) => !before.includes(message));
  if (after.length > before.length && fresh !== undefined) return { ok: false, problem: fresh };
  return { ok: true, edits, places: uses.length, kept: kept.map(({ what }) => what), also: ALSO[thing.kind] ?? null };
}

/** What bears the name itself in the database. */
const ALSO: Partial<Record<NamedThing['kind'], string>> = { pivot: 'the table', check: 'the constraint' };

function errorsOf(design: Design): string[] {
  return design.findings.filter(({ weight }) => weight === 'error').map(({ message }) => message);
}

const CAPITAL: readonly NamedThing['kind'][] = ['entity', 'mixin', 'choice'];

function nameProblem({ kind }: NamedThing, name: string): string | null {
  if (!/^[A-Za-z_][A-Za-z0-9_]*$/.test(name)) return 'A name is made of letters, digits and _, and begins with no digit.';
  if ((RESERVED as readonly string[]).includes(name)) return `${name} is a word of the notation. Choose another name.`;
  const capital = /^[A-Z]/.test(name);
  if (CAPITAL.includes(kind) && !capital) return `The name of an ${kind === 'entity' ? 'entity' : kind} begins with a capital.`;
  return !CAPITAL.includes(kind) && capital ? 'Only entities, mixins and choices begin with a capital.' : null;
}

interface KeptStorage {
  readonly what: string;
  readonly edit: readonly Edit[];
}

/** What a convention named after the thing, written out as it is now. */
function storageOf(design: Design, thing: NamedThing, name: string): KeptStorage[] {
  const { model } = design;
  const relations = Array.from(model.relations.values());
  switch (thing.kind) {
    case 'entity': {
      const entity = model.entities.get(thing.name);
      const pivots = relations.filter(
        (relation): relation is PivotRelation =>
          relation.kind === 'pivot' && relation.ends.some((end) => end.entity === thing.name),
      );
      return [
        ...(entity === undefined ? [] : [...tableOf(design, entity), ...marksOf(design, entity, name)]),
        ...pivots.flatMap((pivot) => relationStorage(design, pivot)),
      ];
    }
    case 'role': {
      const owner = model.entities.get(thing.owner);
      const role = [...(owner?.roles ?? []), ...(owner?.polymorphic ?? [])].find((candidate) => candidate.name === thing.name);
      const relation = role === undefined ? undefined : model.relations.get(role.relation);
      if (relation === undefined) return [];
      // A key is named after the role of its own side alone.
      const { holder, holderRole } = holdingsOf(relation);
      const names = isPivot(relation) || (holderRole === thing.name && holder === thing.owner);
      return names ? relationStorage(design, relation) : [];
    }
    case 'relation': {
      const relation = model.relations.get(thing.name);
      return relation !== undefined && isPivot(relation) && relation.entity === null ? relationStorage(design, relation) : [];
    }
    case 'field':
    case 'pivot field':
      return fieldColumn(design, thing);
    default:
      return [];
  }
}

function tableOf(design: Design, entity: Entity): KeptStorage[] {
  const shares = entity.kinds !== null && entity.kinds.base !== null && !hasTable(entity);
  if (entity.table.origin.kind === 'stated' || shares) return [];
  const syntax = design.syntax.declarations.find(
    (declaration) => declaration.kind === 'entity' && declaration.name.text === entity.name,
  );
  if (syntax?.kind !== 'entity') return [];
  const { name } = entity.table.value;
  return [{ what: `table ${name}`, edit: [insertion(syntax.name.span.end, ` in ${name}`)] }];
}

/** Where a relation is stored, written out where a convention had named it. */
function relationStorage(design: Design, relation: Relation): KeptStorage[] {
  const place = storedPlace(relation);
  const syntax = relationSyntax(design, relation.name);
  if (place === null || syntax === null || !isNamedByConvention(relation)) return [];
  const stored = syntax.lines.find((line) => line.kind === 'stored');
  if (stored?.kind !== 'stored')
    return [{ what: place.text, edit: [lineBelowSentences(design.text, syntax, `stored in ${place.text}`)] }];
  return place.columns !== null && stored.store.kind === 'table' && stored.store.columns === null
    ? [{ what: place.text, edit: [insertion(stored.store.table.span.end, ` ${place.columns}`)] }]
    : [];
}

/** Whether a new name would move what a relation stores. Of a key all of the columns are named together, of a pivot each by itself. */
function isNamedByConvention(relation: Relation): boolean {
  const isConvention = ({ origin }: { readonly origin: Origin }) => origin.kind === 'convention';
  switch (relation.kind) {
    case 'key':
      return relation.columns.every(isConvention);
    case 'polymorphic':
      return farColumns(relation).every(isConvention);
    case 'pivot':
      return [relation.table, ...relation.ends.flatMap(({ columns }) => columns)].some(isConvention);
    case 'polymorphic pivot':
      return [relation.table, ...relation.near.columns, ...farColumns(relation)].some(isConvention);
  }
}

/** What is stored to say that a row is of an entity, where its name alone had said it; the lines bear its new name. */
function marksOf(design: Design, entity: Entity, name: string): KeptStorage[] {
  const kept: KeptStorage[] = [];
  const { kinds } = entity;
  const head = design.syntax.declarations.find((one) => one.kind === 'entity' && one.name.text === entity.name);
  if (
    kinds !== null &&
    !kinds.abstract &&
    kinds.storage.kind !== 'separate tables' &&
    head?.kind === 'entity' &&
    head.mark === null
  )
    kept.push({ what: `mark '${kinds.mark}'`, edit: [insertion(head.head.end, ` marked '${kinds.mark}'`)] });
  for (const relation of design.model.relations.values()) {
    if (!isPolymorphic(relation) || !isMarked(relation)) continue;
    const target = relation.targets.find((one) => one.entity === entity.name && !one.stated);
    const mark = target?.marks[0]?.mark;
    const syntax = relationSyntax(design, relation.name);
    if (mark === undefined || syntax === null || target?.marks.length !== 1) continue;
    const stored = syntax.lines.find((line) => line.kind === 'stored');
    const line = `${name} marked '${mark}'`;
    const what = `mark '${mark}' of relation ${relation.name}`;
    if (stored?.kind === 'stored') {
      const offset = lineEnd(design.text, stored.store.kind === 'table' ? stored.store.table.span.end : stored.span.start);
      kept.push({ what, edit: [insertion(offset, `\n${indentOf(design.text, stored.span.start)}  ${line}`)] });
    } else if (!isPivot(relation)) {
      const place = storedPlace(relation, holdingsOf(relation).holder === entity.name ? name : null);
      if (place !== null)
        kept.push({ what, edit: [lineBelowSentences(design.text, syntax, `stored in ${place.text}\n    ${line}`)] });
    }
  }
  return kept;
}

function fieldColumn(design: Design, thing: NamedThing): KeptStorage[] {
  const definition = definitionOf(design, thing);
  for (const declaration of design.syntax.declarations) {
    const lines =
      declaration.kind === 'entity' || declaration.kind === 'mixin'
        ? declaration.lines
        : declaration.kind === 'relation'
          ? declaration.lines.flatMap((line) => (line.kind === 'stored' ? line.lines : []))
          : [];
    const line = lines.find((candidate) => candidate.kind === 'field' && candidate.name.span.start === definition?.start);
    if (line?.kind !== 'field' || line.modifiers.some(({ kind }) => kind === 'column')) continue;
    return [{ what: `column ${thing.name}`, edit: [insertion(line.type.span.end, ` column ${thing.name}`)] }];
  }
  return [];
}

/** The relation's declaration, as the text has it. */
export function relationSyntax(design: Design, name: string): RelationSyntax | null {
  const found = design.syntax.declarations.find(
    (declaration) => declaration.kind === 'relation' && declaration.name.text === name,
  );
  return found?.kind === 'relation' ? found : null;
}

/** A line right below the sentences of a relation. */
export function lineBelowSentences(text: string, syntax: RelationSyntax, line: string): Edit {
  const last = syntax.lines.filter(({ kind }) => kind === 'sentence').at(-1) ?? null;
  const offset = last?.span.end ?? syntax.head.end;
  const indent = last === null ? '  ' : indentOf(text, last.span.start);
  return insertion(lineEnd(text, offset), `\n${indent}${line}`);
}

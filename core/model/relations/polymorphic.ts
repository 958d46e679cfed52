import { type RelationSyntax, type Sentence, withArticle } from '../../notation/index.js';
import { typeName, type ValueType } from '../../values/index.js';
import { type EntityDraft, findEntity, type Resolution, wrong } from '../draft.js';
import type { Mark, Role, Way } from '../expression.js';
import { sameKeyType } from '../fields.js';
import type {
  Chosen,
  ConcreteKind,
  KeyColumn,
  PolymorphicRelation,
  PolymorphicRole,
  PolymorphicStorage,
  PolymorphicTarget,
} from '../model.js';
import { snakeCase } from '../names.js';
import { convention, ruleOf, type StoredLine, sharedBy, stated } from './form.js';

/** The sentences of a polymorphic relation, sorted: what one entity knows of several, and what each of them knows of it. */
export interface PolymorphicEnds {
  readonly syntax: RelationSyntax;
  /** The one that knows rows of several entities, or is known by them. */
  readonly holder: EntityDraft;
  readonly forth: Sentence | null;
  readonly targets: readonly { readonly entity: EntityDraft; readonly back: Sentence | null }[];
  readonly stored: StoredLine | null;
}

/** Does a relation lead to several entities: by its sentences, or by how it says it is stored? */
export function isPolymorphic(sentences: readonly Sentence[], stored: StoredLine | null): boolean {
  const store = stored?.store;
  return (
    sentences.some(({ subjects, targets }) => subjects === null || subjects.length > 1 || targets.length > 1) ||
    store?.kind === 'typed' ||
    store?.kind === 'one of' ||
    (store?.kind === 'table' && (store.columns?.some((column) => column.kind === 'typed') ?? false))
  );
}

/** The two sides of a polymorphic relation; null, with a finding, where its sentences do not meet. */
export function polymorphicEnds(
  resolution: Resolution,
  syntax: RelationSyntax,
  sentences: readonly Sentence[],
  stored: StoredLine | null,
): PolymorphicEnds | null {
  const label = `relation ${syntax.name.text}`;
  const wide = sentences.find(({ targets }) => targets.length > 1) ?? null;
  const others = sentences.filter((sentence) => sentence !== wide);
  const forth = wide ?? sentences.find(({ subjects }) => subjects?.[0]?.text === holderOf(stored)) ?? null;
  const backs = forth === wide ? others : sentences.filter((sentence) => sentence !== forth);
  const holderName = forth?.subjects?.[0] ?? backs[0]?.targets[0];
  if (holderName === undefined || (forth !== null && (forth.subjects === null || forth.subjects.length > 1))) {
    return wrong(
      resolution,
      'polymorphic-holder',
      forth?.span ?? syntax.head,
      `${label}: one entity points at several; this sentence has several on both sides. State a relation for each of them.`,
    );
  }
  const holder = findEntity(resolution, holderName, label);
  if (holder === null) return null;
  const names = forth?.targets ?? backs.flatMap((sentence) => sentence.subjects ?? []);
  const targets: { entity: EntityDraft; back: Sentence | null }[] = [];
  for (const name of names) {
    const entity = findEntity(resolution, name, label);
    if (entity === null) return null;
    if (targets.some((other) => other.entity === entity))
      return wrong(resolution, 'named-twice', name.span, `${label} names ${entity.name} twice. Remove one.`);
    targets.push({ entity, back: null });
  }
  for (const sentence of backs) {
    const [back, ...more] = sentence.targets;
    if (back === undefined || more.length > 0 || back.text !== holder.name) {
      return wrong(
        resolution,
        'ends-differ',
        sentence.span,
        `${label}: this sentence leads back to ${holder.name}: “each knows many ${holder.name} as …”, or one for each of ${targets.map(({ entity }) => entity.name).join(', ')}.`,
      );
    }
    for (const name of sentence.subjects ?? names) {
      const target = targets.find(({ entity }) => entity.name === name.text);
      if (target === undefined)
        return wrong(
          resolution,
          'ends-differ',
          name.span,
          `${label}: ${holder.name} does not know ${name.text} here. Add it to ${targets.map(({ entity }) => entity.name).join(' | ')}, or remove it.`,
        );
      if (target.back !== null)
        return wrong(
          resolution,
          'third-sentence',
          sentence.span,
          `${label} says twice what ${name.text} knows. Keep one sentence.`,
        );
      target.back = sentence;
    }
  }
  for (const { entity } of targets) {
    const above = targets.find((other) => other.entity !== entity && isBelow(entity, other.entity));
    if (above !== undefined)
      return wrong(
        resolution,
        'kind-beside-base',
        forth?.span ?? syntax.head,
        `${label}: ${entity.name} is ${withArticle(above.entity.name)}, so a row of it could be stored as either. Name one of the two.`,
      );
  }
  return { syntax, holder, forth, targets, stored };
}

function holderOf(stored: StoredLine | null): string | null {
  const store = stored?.store;
  if (store?.kind === 'typed') return store.entity.text;
  return store?.kind === 'one of' ? (store.columns[0]?.entity.text ?? null) : null;
}

function isBelow(entity: EntityDraft, base: EntityDraft): boolean {
  for (let above = entity.base; above !== null; above = above.base) if (above === base) return true;
  return false;
}

/** One key, held with what it points at: by type and id, or by one column for each target. */
export function resolvePolymorphicKey(
  resolution: Resolution,
  ends: PolymorphicEnds,
): { relation: PolymorphicRelation; roles: readonly (Role | PolymorphicRole)[] } | null {
  const { syntax, holder, forth } = ends;
  const label = `relation ${syntax.name.text}`;
  const required = forth?.knows === 'one';
  if (required && ends.targets.every(({ entity }) => entity === holder)) {
    return wrong(
      resolution,
      'self-required',
      forth.span,
      `${holder.name}.${forth.role.text}: no first ${holder.name} could exist, since each would need one before it. Write “knows at most one”.`,
    );
  }
  const targets = targetsOf(resolution, ends);
  if (targets === null) return null;
  const storage = storageOf(resolution, ends);
  if (storage === null) return null;
  const onDelete = ruleOf(
    resolution,
    syntax,
    'on delete',
    required ? 'restrict' : 'set null',
    required ? `${holder.name} knows one of them` : `${holder.name} knows at most one of them`,
  );
  const refused =
    onDelete.value === 'set null' && required ? 'set null' : onDelete.value === 'set default' ? 'set default' : null;
  if (refused !== null) {
    return wrong(
      resolution,
      'set-null-required',
      onDelete.origin.kind === 'stated' ? onDelete.origin.span : syntax.head,
      refused === 'set null'
        ? `${label}: ${holder.name} knows one, so its key cannot be set null. Write “knows at most one”, or another rule.`
        : `${label}: what one column points at depends on another, so no default fits. Use cascade, restrict, set null or no action.`,
    );
  }
  const relation: PolymorphicRelation = {
    kind: 'polymorphic',
    form: 'polymorphic',
    ...sharedBy(resolution, syntax),
    child: holder.name,
    childRole: forth?.role.text ?? null,
    required,
    targets,
    storage,
    onDelete,
  };
  return { relation, roles: rolesOf(relation, ends) };
}

/** The targets, with what is stored for each. */
export function targetsOf(resolution: Resolution, { syntax, stored, targets }: PolymorphicEnds): PolymorphicTarget[] | null {
  const marks = new Map((stored?.marks ?? []).map(({ entity, mark }) => [entity.text, mark]));
  for (const { entity } of stored?.marks ?? []) {
    if (targets.some((target) => target.entity.name === entity.text)) continue;
    return wrong(
      resolution,
      'mark-elsewhere',
      entity.span,
      `relation ${syntax.name.text}: ${entity.text} is none of ${targets.map((target) => target.entity.name).join(', ')}, so it needs no mark. Remove the line.`,
    );
  }
  const taken = new Map<string, string>();
  const found: PolymorphicTarget[] = [];
  for (const { entity, back } of targets) {
    const written = marks.get(entity.name);
    const all = marksOf(entity, written?.value ?? snakeCase(entity.name));
    for (const { mark } of all) {
      const other = taken.get(mark);
      if (other !== undefined)
        return wrong(
          resolution,
          'mark-clash',
          written?.span ?? syntax.head,
          `relation ${syntax.name.text}: ${entity.name} and ${other} are both stored as '${mark}'. Give one of them another mark.`,
        );
      taken.set(mark, entity.name);
    }
    found.push({
      entity: entity.name,
      marks: all,
      stated: written !== undefined,
      role: back?.role.text ?? null,
      knows: back?.knows ?? 'many',
    });
  }
  return found;
}

/** A base whose kinds have tables of their own is told apart by them; any other entity is one mark, whatever kind a row is. */
function marksOf({ name, kinds }: EntityDraft, mark: string): ConcreteKind[] {
  if (kinds?.storage.kind !== 'separate tables') return [{ entity: name, mark }];
  return kinds.concrete.map(({ entity }) => ({ entity, mark: entity === name ? mark : snakeCase(entity) }));
}

function storageOf(resolution: Resolution, ends: PolymorphicEnds): PolymorphicStorage | null {
  const { syntax, holder, forth, stored, targets } = ends;
  const label = `relation ${syntax.name.text}`;
  const store = stored?.store ?? null;
  const composite = targets.find(({ entity }) => entity.key.fields.length > 1);
  if (composite !== undefined) {
    return wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${composite.entity.name}’s key has ${composite.entity.key.fields.length} parts, and one id column holds one. Give it a key of one field, or state a relation of its own for it.`,
    );
  }
  if (store?.kind === 'one of') return oneOf(resolution, ends, store.columns);
  if (store !== null && store.kind !== 'typed') {
    return wrong(
      resolution,
      'store-form',
      stored?.span ?? syntax.head,
      `${label} leads to several entities: it is stored as type and id, as in “stored in ${holder.name}.${forth?.role.text ?? 'of'}_type with ${holder.name}.${forth?.role.text ?? 'of'}_id”, or as “stored in one of …” with a column for each.`,
    );
  }
  if (store !== null && store.entity.text !== holder.name)
    return wrong(
      resolution,
      'store-elsewhere',
      store.entity.span,
      `${label}: ${holder.name} knows the others, so both columns stand in ${holder.name}.`,
      [{ title: `Store it in ${holder.name}`, edits: [{ span: store.entity.span, text: holder.name }] }],
    );
  const role = forth?.role.text ?? snakeCase(holder.name);
  const idType = sharedType(targets.map(({ entity }) => entity.key.type));
  const type: Chosen<string> =
    store === null
      ? { value: `${role}_type`, origin: convention('the role and _type') }
      : { value: store.type.text, origin: stated(store.type.span) };
  const id: Chosen<string> =
    store === null
      ? { value: `${role}_id`, origin: convention('the role and _id') }
      : { value: store.id.text, origin: stated(store.id.span) };
  const declared = holder.fields.filter(({ column }) =>
    [type, id].some(({ value }) => value.toLowerCase() === column.value.toLowerCase()),
  );
  const [field] = declared;
  if (field !== undefined)
    return wrong(
      resolution,
      'column-clash',
      field.span,
      `${label}: ${holder.name}.${field.name} stands in the column ${field.column.value} already, and the relation makes its own. Remove the field.`,
      [
        {
          title: declared.length > 1 ? 'Remove both fields' : 'Remove the field',
          edits: declared.map(({ span }) => ({ span, text: '' })),
        },
      ],
    );
  return { kind: 'type and id', type, id, idType, triggers: !(stored?.withoutTriggers ?? false) };
}

function oneOf(
  resolution: Resolution,
  { syntax, holder, forth, targets, stored }: PolymorphicEnds,
  chosen: Extract<StoredLine['store'], { kind: 'one of' }>['columns'],
): PolymorphicStorage | null {
  const label = `relation ${syntax.name.text}`;
  if (chosen.length !== targets.length) {
    return wrong(
      resolution,
      'one-of-columns',
      stored?.span ?? syntax.head,
      `${label}: one column for each of ${targets.map(({ entity }) => entity.name).join(', ')}, in this order; here are ${chosen.length}.`,
    );
  }
  const columns: KeyColumn[] = [];
  for (const [index, { entity, column }] of chosen.entries()) {
    const target = targets[index]?.entity;
    if (entity.text !== holder.name)
      return wrong(
        resolution,
        'store-elsewhere',
        entity.span,
        `${label}: ${holder.name} knows the others, so all columns stand in ${holder.name}.`,
      );
    if (columns.some(({ value }) => value.toLowerCase() === column.text.toLowerCase()))
      return wrong(
        resolution,
        'named-twice',
        column.span,
        `${label} names ${column.text} twice. Each target has its own column.`,
      );
    const declared = holder.fields.find((field) => field.column.value.toLowerCase() === column.text.toLowerCase());
    const key = target?.key.type;
    if (declared !== undefined && key !== undefined && !sameKeyType(declared.type, key))
      return wrong(
        resolution,
        'key-type-mismatch',
        declared.span,
        `${holder.name}.${declared.name}: ${target?.name}’s key is ${typeName(key)}, but ${holder.table.value.name}.${column.text} is ${typeName(declared.type)}. Change the field to ${typeName(key)}, or remove it and let the relation make it.`,
      );
    if (declared?.required === true)
      return wrong(
        resolution,
        'one-of-required',
        declared.span,
        `${holder.name}.${declared.name}: only one of the columns of ${syntax.name.text} is filled, so each has to be optional${forth?.knows === 'one' ? '; that one is filled is checked' : ''}.`,
      );
    columns.push({ value: column.text, origin: stated(column.span), declared: declared !== undefined });
  }
  return { kind: 'one of', columns };
}

/** The type of all keys, or a text that holds each of them in its canonical form. */
export function sharedType(types: readonly ValueType[]): ValueType {
  const [first] = types;
  if (first !== undefined && types.every((type) => sameKeyType(type, first))) return first;
  const lengths = types.map((type) => {
    switch (type.kind) {
      case 'text':
        return type.length ?? LONGEST_TEXT;
      case 'decimal':
        return type.precision + 2;
      default:
        return LEAST_TEXT;
    }
  });
  return { kind: 'text', length: Math.max(...lengths) };
}

/** A uuid has 36 characters, a number or a moment fewer. */
const LEAST_TEXT = 36;
const LONGEST_TEXT = 255;

/** The mark of a target's rows in the columns of a polymorphic relation. */
export function markOf(
  storage: Extract<PolymorphicStorage, { kind: 'type and id' }>,
  target: PolymorphicTarget,
  key: ValueType,
): Mark {
  return {
    column: storage.type.value,
    values: target.marks.map(({ mark }) => mark),
    held: sameKeyType(storage.idType, key) ? null : storage.idType,
  };
}

function rolesOf(relation: PolymorphicRelation, { holder, forth, targets }: PolymorphicEnds): (Role | PolymorphicRole)[] {
  const { storage } = relation;
  const branches: Role[] = [];
  const backs: Role[] = [];
  relation.targets.forEach((target, index) => {
    const end = targets[index];
    if (end === undefined) return;
    const held: Pick<Extract<Way, { kind: 'key' }>, 'columns' | 'mark'> = storage.kind === 'one of'
      ? { columns: [storage.columns[index]?.value ?? ''], mark: null }
      : { columns: [storage.id.value], mark: markOf(storage, target, end.entity.key.type) };
    if (forth !== null)
      branches.push({
        name: forth.role.text,
        entity: holder.name,
        owner: holder.name,
        target: target.entity,
        relation: relation.name,
        knows: 'at most one',
        way: { kind: 'key', ...held },
        orderBy: [],
        note: forth.note?.value ?? null,
        span: forth.span,
      });
    if (end.back !== null)
      backs.push({
        name: end.back.role.text,
        entity: target.entity,
        owner: end.back.subjects?.[0]?.text ?? relation.targets[0]?.entity ?? '',
        target: holder.name,
        relation: relation.name,
        knows: end.back.knows === 'one' ? 'at most one' : end.back.knows,
        way: { kind: 'child', holder: holder.name, ...held },
        orderBy: [],
        note: end.back.note?.value ?? null,
        span: end.back.span,
      });
  });
  return forth === null ? backs : [polymorphicRole(forth, holder.name, relation.name, branches), ...backs];
}

/** The role that a sentence gives, with its branches. */
export function polymorphicRole(
  sentence: Sentence,
  entity: string,
  relation: string,
  branches: readonly Role[],
): PolymorphicRole {
  const { role, knows, note, span } = sentence;
  return { name: role.text, entity, owner: entity, relation, knows, branches, note: note?.value ?? null, span };
}

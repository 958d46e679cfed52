import type { DeleteRule, RelationLine, RelationSyntax, Sentence, Span } from '../../notation/index.js';
import { keptOf } from '../constraints.js';
import { type EntityDraft, type Resolution, wrong } from '../draft.js';
import type { Chosen, Kept, Origin, Relation, Role } from '../model.js';

export type StoredLine = Extract<RelationLine, { kind: 'stored' }>;

/** A relation's sentences, matched and with their entities known. */
export interface Ends {
  readonly syntax: RelationSyntax;
  readonly first: Sentence;
  /** The sentence that says the way back; null where nobody walks it. */
  readonly second: Sentence | null;
  /** The entity that the first sentence is about, and the one it knows. */
  readonly subject: EntityDraft;
  readonly target: EntityDraft;
  readonly stored: StoredLine | null;
}

/** A form that a relation can take, and how it is resolved. A new form is one new file and one line in the table. */
export interface RelationForm {
  fits(ends: Ends): boolean;
  /** The relation with the roles that it gives its entities; null, with a finding, where it is wrong. */
  resolve(resolution: Resolution, ends: Ends): { relation: Relation; roles: readonly Role[] } | null;
}

/** The rule on delete or update: as stated, else the given default. */
export function ruleOf(
  { asStated }: Resolution,
  syntax: RelationSyntax,
  event: 'on delete' | 'on update',
  byDefault: DeleteRule,
  why: string,
): Chosen<DeleteRule> {
  const line = syntax.lines.find((candidate) => candidate.kind === event);
  if (line !== undefined && (line.kind === 'on delete' || line.kind === 'on update')) {
    return { value: line.rule, origin: { kind: 'stated', span: line.span } };
  }
  if (asStated) return { value: 'no action', origin: convention('what SQL does where nothing is stated') };
  return { value: byDefault, origin: convention(why) };
}

/** What a relation's lines say of its foreign keys beyond their rules. */
export function foreignKeysOf(resolution: Resolution, syntax: RelationSyntax): Pick<Relation, 'deferred' | 'named' | 'kept'> {
  let deferred = false;
  let named: string | null = null;
  const kept: Kept[] = [];
  for (const line of syntax.lines) {
    if (line.kind === 'deferred') deferred = true;
    if (line.kind === 'named') named = line.name.text;
    if (line.kind === 'kept') kept.push(keptOf(resolution, line));
  }
  return { deferred, named, kept };
}

/** The note of a relation, behind its name or on a line of its own. */
export function noteOf(syntax: RelationSyntax): string | null {
  const line = syntax.lines.find((candidate) => candidate.kind === 'note');
  return syntax.note?.value ?? (line?.kind === 'note' ? line.text.value : null);
}

/** The origin of what the text says here. */
export function stated(span: Span): Origin {
  return { kind: 'stated', span };
}

/** The origin of what a convention filled in. */
export function convention(rule: string): Origin {
  return { kind: 'convention', rule };
}

/** A role that clashes with something the entity has already is told, with what it clashes with. */
export function clashesWith(resolution: Resolution, entity: EntityDraft, sentence: Sentence): boolean {
  const name = sentence.role.text;
  const lower = name.toLowerCase();
  const field = entity.fields.find((candidate) => candidate.name.toLowerCase() === lower);
  const role = entity.roles.find((candidate) => candidate.name.toLowerCase() === lower);
  const derived = entity.lines.find((line) => line.kind === 'derived' && line.name.text.toLowerCase() === lower);
  const other =
    field !== undefined
      ? 'a field'
      : derived !== undefined
        ? 'a derived field'
        : role !== undefined
          ? `a role of relation ${role.relation}`
          : null;
  if (other === null) return false;
  wrong(resolution, 'name-clash', sentence.role.span, `${entity.name}.${name} is ${other} already. Give this role another name.`);
  return true;
}

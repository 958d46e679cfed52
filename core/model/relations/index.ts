import type { RelationSyntax, Sentence } from '../../notation/index.js';
import { findEntity, type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import type { PolymorphicRole, Relation } from '../model.js';
import { refer } from '../references.js';
import { clashesWith, type Ends, type RelationForm, type StoredLine } from './form.js';
import { keyForm } from './key.js';
import { pivotForm, symmetricForm } from './pivot.js';
import { isPolymorphic, type PolymorphicEnds, polymorphicEnds, resolvePolymorphicKey } from './polymorphic.js';
import { resolvePolymorphicPivot } from './polymorphic-pivot.js';

/** Every form that a relation can take. */
const forms: readonly RelationForm[] = [keyForm, pivotForm, symmetricForm];

/** A relation, and the roles that it gives its entities. */
export interface ResolvedRelation {
  readonly relation: Relation;
  readonly roles: readonly (Role | PolymorphicRole)[];
}

/** The relation that a declaration states, with its roles; null, with a finding, where it has to be left out. */
export function resolveRelation(resolution: Resolution, syntax: RelationSyntax): ResolvedRelation | null {
  const sentences = syntax.lines.filter((line): line is Sentence => line.kind === 'sentence');
  const stored = syntax.lines.find((line): line is StoredLine => line.kind === 'stored') ?? null;
  return isPolymorphic(sentences, stored)
    ? resolveToSeveral(resolution, syntax, sentences, stored)
    : resolveToOne(resolution, syntax);
}

function resolveToSeveral(
  resolution: Resolution,
  syntax: RelationSyntax,
  sentences: readonly Sentence[],
  stored: StoredLine | null,
): ResolvedRelation | null {
  const ends = polymorphicEnds(resolution, syntax, sentences, stored);
  if (ends === null) return null;
  const resolved = resolvePolymorphicForm(resolution, ends);
  if (resolved === null) return null;
  for (const { role, subjects, targets } of sentences) {
    refer(resolution.references, role, 'role', subjects?.[0]?.text ?? ends.targets[0]?.entity.name ?? '', true);
    for (const name of [...(subjects ?? []), ...targets]) refer(resolution.references, name, 'entity');
  }
  referToStore(resolution, stored);
  const clash =
    (ends.forth !== null && clashesWith(resolution, ends.holder, ends.forth, null)) ||
    ends.targets.some(
      ({ entity, back }) => back !== null && clashesWith(resolution, entity, back, ends.forth?.role.text ?? null),
    );
  return clash ? null : resolved;
}

function resolvePolymorphicForm(resolution: Resolution, ends: PolymorphicEnds): ResolvedRelation | null {
  const backs = ends.targets.map(({ back }) => back?.knows ?? null);
  if (ends.forth?.knows !== 'many' && (ends.forth !== null || ends.stored?.store.kind !== 'table'))
    return resolvePolymorphicKey(resolution, ends);
  if (backs.every((knows) => knows === 'many' || knows === null)) return resolvePolymorphicPivot(resolution, ends);
  return wrong(
    resolution,
    'polymorphic-many',
    ends.forth?.span ?? ends.syntax.head,
    `relation ${ends.syntax.name.text}: one ${ends.holder.name} has many of each, so each of ${ends.targets.map(({ entity }) => entity.name).join(', ')} holds a key of its own. State a relation for each.`,
  );
}

function resolveToOne(resolution: Resolution, syntax: RelationSyntax): ResolvedRelation | null {
  const ends = endsOf(resolution, syntax);
  if (ends === null) return null;
  const form = forms.find((candidate) => candidate.fits(ends));
  if (form === undefined)
    return wrong(
      resolution,
      'relation-form',
      syntax.head,
      `relation ${syntax.name.text}: these two sentences make no relation that can be stored.`,
    );
  const resolved = form.resolve(resolution, ends);
  if (resolved === null) return null;
  const sentences = [ends.first, ...(ends.second === null ? [] : [ends.second])];
  for (const { role, subjects, targets } of sentences) {
    refer(resolution.references, role, 'role', subjects?.[0]?.text ?? '', true);
    for (const name of [...(subjects ?? []), ...targets]) refer(resolution.references, name, 'entity');
  }
  const clash = sentences.some((sentence) => {
    const entity = sentence === ends.first ? ends.subject : ends.target;
    return clashesWith(resolution, entity, sentence, (sentence === ends.first ? ends.second : ends.first)?.role.text ?? null);
  });
  if (clash) return null;
  if (
    ends.second !== null &&
    ends.subject === ends.target &&
    ends.first.role.text.toLowerCase() === ends.second.role.text.toLowerCase()
  ) {
    return wrong(
      resolution,
      'name-clash',
      ends.second.role.span,
      `relation ${syntax.name.text}: both roles of ${ends.subject.name} are called ${ends.second.role.text}. Name each after what it leads to.`,
    );
  }
  return resolved;
}

function endsOf(resolution: Resolution, syntax: RelationSyntax): Ends | null {
  const label = `relation ${syntax.name.text}`;
  const sentences = syntax.lines.filter((line): line is Sentence => line.kind === 'sentence');
  const stored = syntax.lines.filter((line): line is StoredLine => line.kind === 'stored');
  const [first, second = null] = sentences;
  if (first === undefined) {
    return wrong(
      resolution,
      'no-sentence',
      syntax.name.span,
      `${label} has no sentence, so nobody can walk it. Add one like “Loan knows one Player as borrower”.`,
    );
  }
  if (sentences.length > 2)
    return wrong(
      resolution,
      'third-sentence',
      sentences[2]?.span ?? syntax.head,
      `${label} has more than two sentences. State a relation of its own for each pair of ends.`,
    );
  if (stored.length > 1)
    return wrong(
      resolution,
      'two-stores',
      stored[1]?.span ?? syntax.head,
      `${label} says twice where it is stored. Keep one of the two lines.`,
    );
  const subjectName = first.subjects?.[0];
  const targetName = first.targets[0];
  if (subjectName === undefined || targetName === undefined) return null;
  const subject = findEntity(resolution, subjectName, label);
  if (subject === null) return null;
  const target = findEntity(resolution, targetName, label);
  if (target === null) return null;
  if (second !== null && (second.subjects?.[0]?.text !== target.name || second.targets[0]?.text !== subject.name)) {
    return wrong(
      resolution,
      'ends-differ',
      second.span,
      `${label}: the first sentence leads from ${subject.name} to ${target.name}, so the second leads back: “${target.name} knows … ${subject.name} as …”.`,
    );
  }
  referToStore(resolution, stored[0] ?? null);
  return { syntax, first, second, subject, target, stored: stored[0] ?? null };
}

function referToStore({ references }: Resolution, stored: StoredLine | null): void {
  const store = stored?.store;
  if (store === undefined) return;
  if ('entity' in store) refer(references, store.entity, 'entity');
  if ('role' in store && store.role !== null) refer(references, store.role, 'role', store.entity.text);
  if (store.kind === 'table') refer(references, store.table.name, 'pivot', '', true);
  if (store.kind === 'typed') refer(references, store.idEntity, 'entity');
  if (store.kind === 'one of') for (const { entity } of store.columns) refer(references, entity, 'entity');
  for (const { entity } of stored?.marks ?? []) refer(references, entity, 'entity');
}

import type { RelationSyntax, Sentence } from '../../notation/index.js';
import { findEntity, notBuilt, type Resolution, wrong } from '../draft.js';
import type { Relation, Role } from '../model.js';
import { refer } from '../references.js';
import { clashesWith, type Ends, type RelationForm, type StoredLine } from './form.js';
import { keyForm } from './key.js';
import { pivotForm, symmetricForm } from './pivot.js';

/** Every form that a relation can take. */
const forms: readonly RelationForm[] = [keyForm, pivotForm, symmetricForm];

/** The relation that a declaration states, with its roles; null, with a finding, where it has to be left out. */
export function resolveRelation(
  resolution: Resolution,
  syntax: RelationSyntax,
): { relation: Relation; roles: readonly Role[] } | null {
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
    return clashesWith(resolution, entity, sentence);
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
      `${label} has no sentence. Add one like “Loan knows one Player as borrower”.`,
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
  const many = sentences.find(
    (sentence) => sentence.subjects === null || sentence.subjects.length > 1 || sentence.targets.length > 1,
  );
  if (many !== undefined) return notBuilt(resolution, many.span, `${label} is polymorphic`);
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
  const store = stored[0]?.store;
  if (store !== undefined && 'entity' in store) {
    refer(resolution.references, store.entity, 'entity');
    if ('role' in store && store.role !== null) refer(resolution.references, store.role, 'role', store.entity.text);
  }
  return { syntax, first, second, subject, target, stored: stored[0] ?? null };
}

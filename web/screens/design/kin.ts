import { type MapLayout, pivotLabel, relationOfLabel } from '../../../core/map/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import type { Selection } from '../../app/selection.js';

/** What is selected and what it is related to directly; null where nothing is selected. */
export function closeKin(view: DesignView, layout: MapLayout, selection: Selection | null): ReadonlySet<string> | null {
  if (selection === null) return null;
  const kin = new Set<string>([selection.kind === 'entity' ? selection.name : `relation ${selection.name}`]);
  const labels = new Set<string>(layout.labels.map(({ id }) => id));
  for (const [relation, sentences] of sentencesOf(view)) {
    const touches =
      selection.kind === 'relation'
        ? relation === selection.name
        : sentences.some((sentence) => sentence.subject === selection.name || sentence.targets.includes(selection.name));
    if (!touches) continue;
    kin.add(`relation ${relation}`);
    if (labels.has(pivotLabel(relation))) kin.add(pivotLabel(relation));
    for (const { subject, targets } of sentences) {
      // Of a relation to several, one of them is kin to what points at it, and not to the others.
      const whole = selection.kind === 'relation' || subject === selection.name;
      if (whole) for (const name of [subject, ...targets]) kin.add(name);
      else if (targets.includes(selection.name)) kin.add(subject);
    }
  }
  for (const { kind, relation, from, to } of layout.stems) {
    const ofKinds = kind === 'kind' && selection.kind === 'entity' && (from === selection.name || to === selection.name);
    if (ofKinds) kin.add(from).add(to).add(`relation ${relation}`);
    if (kind !== 'kind' && kind !== 'polymorphic' && kin.has(`relation ${relation}`)) for (const end of [from, to]) kin.add(end);
    if (kind === 'polymorphic' && kin.has(`relation ${relation}`))
      for (const end of [from, to]) if (relationOfLabel(end) !== null) kin.add(end);
  }
  return kin;
}

interface Sentence {
  readonly subject: string;
  readonly targets: readonly string[];
}

/** Who knows whom by each relation, in the order of the text. */
export function sentencesOf(view: DesignView): ReadonlyMap<string, readonly Sentence[]> {
  const sentences = new Map<string, Sentence[]>(view.relations.map(({ name }) => [name, []]));
  for (const { name: subject, ends } of view.entities)
    for (const { relation, target, targets } of ends)
      sentences.get(relation)?.push({ subject, targets: targets.length > 0 ? targets : [target] });
  return sentences;
}

/** The entities whose name, table, fields or roles have the letters that are looked for; those by name first. */
export function found(view: DesignView, wish: string): readonly string[] {
  const letters = wish.trim().toLowerCase();
  if (letters === '') return [];
  const has = (text: string) => text.toLowerCase().includes(letters);
  const byName = view.entities.filter(({ name, table }) => has(name) || has(table)).map(({ name }) => name);
  const byMember = view.entities
    .filter(({ fields, ends }) => fields.some(({ name }) => has(name)) || ends.some(({ name }) => has(name)))
    .map(({ name }) => name);
  const begins = (name: string) => (name.toLowerCase().startsWith(letters) ? 0 : 1);
  return Array.from(new Set([...byName.sort((a, b) => begins(a) - begins(b)), ...byMember]));
}

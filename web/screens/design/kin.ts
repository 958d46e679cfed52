import type { MapLayout } from '../../../core/map/index.js';
import type { Selection } from '../../app/selection.js';
import type { DesignView } from '../../workers/design-view.js';

/** What is selected and what it is related to directly; null where nothing is selected. */
export function closeKin(view: DesignView, layout: MapLayout, selection: Selection | null): ReadonlySet<string> | null {
  if (selection === null) return null;
  const kin = new Set<string>([selection.kind === 'entity' ? selection.name : `relation ${selection.name}`]);
  for (const card of view.cards) {
    if (card.kind !== 'relation') continue;
    const touches =
      selection.kind === 'relation'
        ? card.name === selection.name
        : card.sentences.some((sentence) => sentence.subject === selection.name || sentence.targets.includes(selection.name));
    if (!touches) continue;
    kin.add(`relation ${card.name}`);
    if (layout.labels.some(({ id }) => id === `pivot ${card.name}`)) kin.add(`pivot ${card.name}`);
    for (const { subject, targets } of card.sentences) {
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
      for (const end of [from, to]) if (end.startsWith('knot ') || end.startsWith('pivot ')) kin.add(end);
  }
  return kin;
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

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
        : card.sentences.some((sentence) => sentence.subject === selection.name || sentence.target === selection.name);
    if (!touches) continue;
    kin.add(`relation ${card.name}`).add(`pivot ${card.name}`);
    for (const { subject, target } of card.sentences) kin.add(subject).add(target);
  }
  for (const { relation, from, to } of layout.stems) {
    if (kin.has(`relation ${relation}`)) for (const end of [from, to]) kin.add(end);
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

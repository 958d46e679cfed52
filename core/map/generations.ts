import { isKnot } from './label-id.js';
import type { MapLabel, MapStem } from './map.js';

/**
 * The generation of each entity, from 0: one below the lowest of those whose key it holds. Where keys form a loop,
 * the stem that closes it does not count.
 */
export function generationsOf(
  entities: readonly MapLabel[],
  stems: readonly MapStem[],
): { generation: ReadonlyMap<string, number>; closing: ReadonlySet<string> } {
  const children = new Map<string, MapStem[]>();
  for (const stem of linksIn(stems)) {
    if (stem.from === stem.to) continue;
    children.set(stem.from, [...(children.get(stem.from) ?? []), stem]);
  }
  const closing = closingStems(entities, children);
  const waitingFor = new Map(entities.map(({ id }) => [id, 0]));
  for (const list of children.values())
    for (const { id, to } of list) if (!closing.has(id)) waitingFor.set(to, (waitingFor.get(to) ?? 0) + 1);
  const generation = new Map<string, number>();
  const ready = entities.filter(({ id }) => waitingFor.get(id) === 0).map(({ id }) => id);
  for (const id of ready) generation.set(id, 0);
  for (let at = 0; at < ready.length; at++) {
    const id = ready[at] ?? '';
    for (const stem of children.get(id) ?? []) {
      if (closing.has(stem.id)) continue;
      generation.set(stem.to, Math.max(generation.get(stem.to) ?? 0, (generation.get(id) ?? 0) + 1));
      const left = (waitingFor.get(stem.to) ?? 1) - 1;
      waitingFor.set(stem.to, left);
      if (left === 0) ready.push(stem.to);
    }
  }
  return { generation, closing };
}

/** What puts one entity below another: a key, a kind, or a knot between the two. */
function linksIn(stems: readonly MapStem[]): MapStem[] {
  const ends = new Map(
    stems.flatMap((stem) => (stem.kind === 'polymorphic' && isKnot(stem.from) ? [[stem.relation, stem]] : [])),
  );
  return stems.flatMap((stem) => {
    if (stem.kind === 'key' || stem.kind === 'kind') return [stem];
    const end = ends.get(stem.relation);
    if (stem.kind !== 'polymorphic' || stem === end || end === undefined) return [];
    // A stem from a target leads to the knot, and that from the knot to the child.
    return [{ ...stem, from: stem.from === end.from ? stem.to : stem.from, to: end.to }];
  });
}

/** The stems that lead back to an entity above, found by walking down without recursion. */
function closingStems(entities: readonly MapLabel[], children: ReadonlyMap<string, readonly MapStem[]>): Set<string> {
  const closing = new Set<string>();
  const state = new Map<string, 'open' | 'done'>();
  for (const { id } of entities) {
    if (state.has(id)) continue;
    const way = [{ id, next: 0 }];
    state.set(id, 'open');
    while (way.length > 0) {
      const here = way[way.length - 1];
      if (here === undefined) break;
      const stem = children.get(here.id)?.[here.next];
      here.next += 1;
      if (stem === undefined) {
        state.set(here.id, 'done');
        way.pop();
      } else if (state.get(stem.to) === 'open') {
        closing.add(stem.id);
      } else if (!state.has(stem.to)) {
        state.set(stem.to, 'open');
        way.push({ id: stem.to, next: 0 });
      }
    }
  }
  return closing;
}

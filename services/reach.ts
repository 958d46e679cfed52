import { type Entity, entityOf, lineage, type Model } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import { SYSTEM, type WallTold, wallsTold } from '../core/walls/index.js';
import { type ActorFound, actorsFound } from './actors-found.js';
import { entityCounts } from './browse-rows.js';
import type { LookedAt } from './looked-at.js';
import { actorAt } from './working-as.js';

/** Somebody of one kind that the walls tell from others, and what they reach. */
export interface ReachActor extends ActorFound {
  /** By entity, those that a wall stands on alone: how many rows they see, and how many they may change. */
  readonly reach: Readonly<Record<string, { readonly read: number; readonly change: number }>>;
}

/** An entity that leads to whoever is at work, though no wall stands on it. */
export interface Unwalled {
  readonly entity: string;
  /** The to-one roles that lead there. */
  readonly path: readonly string[];
}

/** Who sees and changes what. */
export interface Reach {
  readonly actors: readonly ReachActor[];
  /** All entities with how many rows there are; those that a wall stands on are marked. */
  readonly entities: readonly { readonly name: string; readonly rows: number | null; readonly walled: boolean }[];
  readonly walls: readonly WallTold[];
  readonly unwalled: readonly Unwalled[];
  /** The saved queries that see over a wall. */
  readonly lifts: readonly { readonly query: string; readonly walls: readonly string[]; readonly span: Span }[];
}

/** So many roles lead to whoever is at work at most, where a wall is missed. */
const LONGEST_PATH = 3;

/** Tells who sees and changes what: for each kind of actor that the walls tell apart one that there is, and its rows counted. */
export async function reachOf(lookedAt: LookedAt, options: { readonly signal?: AbortSignal } = {}): Promise<Reach> {
  const { design } = lookedAt;
  const { model } = design;
  const walls = Array.from(model.walls.values());
  const walled = new Set(walls.flatMap(({ conditions }) => Array.from(conditions.keys())));
  const all = await entityCounts(lookedAt, options);
  const actors: ReachActor[] = [];
  for (const found of await actorsFound(lookedAt, options)) {
    const { actor: named } = design.actorOf(found.as);
    const actor = named === null ? null : await actorAt(lookedAt, named, null, options);
    if (actor?.ok !== true || actor.value === SYSTEM) continue;
    const seen = { ...lookedAt, actor: actor.value };
    const [read, change] = [await entityCounts(seen, options, walled), await entityCounts(seen, options, walled, 'write')];
    const reach = Array.from(walled, (name) => [name, { read: read[name] ?? 0, change: change[name] ?? 0 }] as const);
    actors.push({ ...found, reach: Object.fromEntries(reach) });
  }
  return {
    actors,
    entities: Array.from(model.entities.keys(), (name) => ({ name, rows: all[name] ?? null, walled: walled.has(name) })),
    walls: wallsTold(model, design.text),
    unwalled: unwalledIn(model, walled),
    lifts: Array.from(model.queries.values()).flatMap(({ name, lifts, span }) =>
      lifts.length === 0 || name === null ? [] : [{ query: name, walls: [...lifts], span }],
    ),
  };
}

/** Entities from which to-one roles lead to whoever is at work, and on which no wall stands. */
function unwalledIn(model: Model, walled: ReadonlySet<string>): readonly Unwalled[] {
  const { actor } = model;
  if (actor === null || model.walls.size === 0) return [];
  return Array.from(model.entities.values()).flatMap((entity): Unwalled[] => {
    if (walled.has(entity.name) || (entity.kinds?.base ?? null) !== null || entity.name === actor) return [];
    const path = pathTo(model, entity, actor);
    return path === null ? [] : [{ entity: entity.name, path }];
  });
}

/** The shortest way over to-one roles from an entity to another; null where there is none. */
function pathTo(model: Model, from: Entity, to: string): readonly string[] | null {
  let reached: readonly { readonly entity: string; readonly path: readonly string[] }[] = [{ entity: from.name, path: [] }];
  const seen = new Set([from.name]);
  for (let length = 1; length <= LONGEST_PATH; length++) {
    const next: { entity: string; path: readonly string[] }[] = [];
    for (const { entity, path } of reached) {
      const { roles, polymorphic } = entityOf(model, entity);
      for (const role of [...roles, ...polymorphic.flatMap(({ branches }) => branches)]) {
        if (role.way.kind !== 'key') continue;
        const way = [...path, role.name];
        if (role.target === to || lineage(model, role.target).some(({ name }) => name === to)) return way;
        if (!seen.has(role.target)) next.push({ entity: role.target, path: way });
        seen.add(role.target);
      }
    }
    reached = next;
  }
  return null;
}

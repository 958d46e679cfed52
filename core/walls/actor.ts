import { type Expression, type Model, type Pin, readsRow, someExpression, type Wall } from '../model/index.js';
import type { Wire } from '../values/index.js';

/** Whoever looks at rows without walls says so. */
export const SYSTEM = 'system';

/** Whoever is at work: the program itself, which sees all, or somebody whom walls keep from some rows. */
export type Actor = typeof SYSTEM | Walled;

/** Somebody for whom walls stand: a row of the actor's entity, or nobody. */
export interface Walled {
  readonly model: Model;
  /** The walls that keep rows from being read or written, but for those that the actor is free of. */
  readonly walls: readonly Wall[];
  /** The values of the actor by name, as in `me.branch`; null where it is nobody, who has none. */
  readonly me: ReadonlyMap<string, Wire> | null;
  /** What each pin of those walls fills in; one that asks for a value of nobody, or that the actor lacks, is null. */
  readonly pinned: ReadonlyMap<Pin, Wire>;
}

/** What is to be looked up of a row, so that walls stand for it as an actor. */
export interface AskedOfActor {
  /** Over the row itself, asked outside of all walls. */
  readonly columns: readonly Expression[];
  /** The values of the actor among those, by name, as in `me.branch`. */
  readonly values: readonly { readonly name: string; readonly expression: Expression }[];
  /** The actor, of what those came to. */
  actor(cells: readonly Wire[]): Walled;
}

/** Nobody: whoever has not said who they are. A condition that asks for a value of theirs lets nothing through. */
export function nobody(model: Model): Walled {
  const walls = Array.from(model.walls.values());
  const pinned = new Map(pinsOf(walls).map((pin) => [pin, readsRow(pin.value) ? null : constantOf(pin.value)] as const));
  return { model, walls, me: null, pinned };
}

/**
 * What walls, and what is to be run, ask of a row of the actor's entity.
 *
 * @param run the expressions of what is to be run
 */
export function askedOfActor(model: Model, run: readonly Expression[]): AskedOfActor {
  const walls = Array.from(model.walls.values());
  const asked = new Map<string, Expression>();
  for (const condition of [
    ...walls.flatMap(({ conditions }) => Array.from(conditions.values()).flatMap((lines) => lines.map(({ holds }) => holds))),
    ...run,
  ])
    someExpression(condition, (part) => {
      if (part.kind === 'me') asked.set(part.name, part.value);
      return false;
    });
  const freeing = walls.flatMap(({ name, unless }) => unless.map((expression) => ({ wall: name, expression })));
  const pins = pinsOf(walls);
  const names = Array.from(asked.keys());
  return {
    values: Array.from(asked, ([name, expression]) => ({ name, expression })),
    columns: [...asked.values(), ...freeing.map(({ expression }) => expression), ...pins.map(({ value }) => value)],
    actor(cells) {
      const left = cells.values();
      const next = (): Wire => left.next().value ?? null;
      const me = new Map(names.map((name): [string, Wire] => [name, next()]));
      const free = new Set(freeing.flatMap(({ wall }) => (next() === true ? [wall] : [])));
      const pinned = new Map(pins.map((pin): [Pin, Wire] => [pin, next()]));
      return { model, walls: walls.filter(({ name }) => !free.has(name)), me, pinned };
    },
  };
}

/** Each pin of walls, once. */
function pinsOf(walls: readonly Wall[]): readonly Pin[] {
  return walls.flatMap(({ pins }) => Array.from(pins.values()).flat());
}

function constantOf(value: Expression): Wire {
  return value.kind === 'value' ? value.value : null;
}

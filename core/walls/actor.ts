import type { Model, Wall } from '../model/index.js';
import type { Wire } from '../values/index.js';

/** Whoever looks at rows without walls says so. */
export const SYSTEM = 'system';

/** Whoever looks at rows: the program itself, which sees all, or somebody whom walls keep from some. */
export type Actor = typeof SYSTEM | Walled;

/** Somebody for whom walls stand: a row of the actor's entity, or nobody. */
export interface Walled {
  readonly model: Model;
  /** The walls that keep rows from being read, but for those that the actor is free of. */
  readonly walls: readonly Wall[];
  /** The values of the actor by name, as in `me.branch`; null where it is nobody, who has none. */
  readonly me: ReadonlyMap<string, Wire> | null;
}

/** Nobody: whoever has not said who they are. A condition that asks for a value of theirs lets nothing through. */
export function nobody(model: Model): Walled {
  return { model, walls: readWalls(model), me: null };
}

/**
 * A row of the actor's entity at work.
 *
 * @param me the values of the row that walls, and what is run, ask for, by name
 * @param free the names of the walls of which an `unless` frees it
 */
export function somebody(model: Model, me: ReadonlyMap<string, Wire>, free: ReadonlySet<string>): Walled {
  return { model, walls: readWalls(model).filter(({ name }) => !free.has(name)), me };
}

/** The walls that keep rows from being read. */
function readWalls({ walls }: Model): Wall[] {
  return Array.from(walls.values()).filter(({ reads }) => reads);
}

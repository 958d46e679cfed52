import type { QueryPlan } from '../plan/index.js';

/** Who looks at rows. As long as no text states walls, nobody but the program itself does, which sees all. */
export type Actor = 'system';

/** Whoever looks at rows without walls says so. */
export const SYSTEM: Actor = 'system';

let makeWoven: (plan: QueryPlan) => Woven;
let readWoven: (woven: Woven) => QueryPlan;

/**
 * A plan in which each access to an entity carries the conditions of its walls. Only `weave` makes one, and rows are read by no
 * other plan: a spread, a cast or an object made by hand has not got what is read of it.
 */
class WovenPlan {
  readonly #plan: QueryPlan;

  private constructor(plan: QueryPlan) {
    this.#plan = plan;
  }

  static {
    makeWoven = (plan) => new WovenPlan(plan);
    readWoven = (woven) => woven.#plan;
  }
}

export type Woven = WovenPlan;

/** The woven plans, by what they were made of. Whoever lets go of the plan lets go of them. */
const made = new WeakMap<QueryPlan, Woven>();

/**
 * Weaves the walls that hold for an actor into a plan. It is done once for a plan, so that what is made of it can be kept too.
 *
 * @param _actor `'system'` sees all rows
 */
export function weave(plan: QueryPlan, _actor: Actor): Woven {
  const known = made.get(plan) ?? makeWoven(plan);
  made.set(plan, known);
  return known;
}

/** The plan within, for the makers of statements. */
export function planOf(woven: Woven): QueryPlan {
  return readWoven(woven);
}

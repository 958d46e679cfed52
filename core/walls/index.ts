/**
 * Plan → Woven plan: the one pass that weaves walls into every access to an entity. Only this folder can make a
 * Woven plan, and only a Woven plan can be loaded. As long as there are no walls, it passes through.
 */
import type { QueryPlan } from '../plan/index.js';

declare const woven: unique symbol;

/** A plan in which each access to an entity carries the conditions of its walls. */
export interface Woven extends QueryPlan {
  readonly [woven]: true;
}

/** Weaves the walls that hold for an actor into a plan. */
export function weave(plan: QueryPlan): Woven {
  return plan as Woven;
}

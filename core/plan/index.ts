/** Query → Plan: every access to an entity is a source that says so. */

export { PlanTooLarge, unfolded } from './conditions.js';
export { joinSelect } from './join.js';
export * from './plan.js';
export { type PlanOptions, planQuery } from './query-plan.js';

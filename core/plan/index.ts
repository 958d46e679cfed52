/** Query → Plan: a tree of accesses, without SQL. Every read of an entity's rows or keys is an access that says so. */

export type * from './access.js';
export { accessesBelow, accessesOf, partsOf } from './each-access.js';
export { planned, unfolded } from './expressions.js';
export { TITLE } from './fields.js';
export { type JoinPlan, planJoin } from './join.js';
export type * from './plan.js';
export { type PlanOptions, planQuery } from './plan-query.js';
export { type Draft, Planning, PlanTooLarge, pairsOf, walkedBefore } from './planning.js';
export { allHold, anyHolds, lookAtEntity, lookAtTable, type StoredLook } from './stored.js';

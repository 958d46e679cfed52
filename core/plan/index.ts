/** Query → Plan: a tree of accesses, without SQL. Every read of an entity's rows or keys is an access that says so. */

export type * from './access.js';
export { accessesOf } from './each-access.js';
export { unfolded } from './expressions.js';
export { TITLE } from './fields.js';
export { type JoinPlan, planJoin } from './join.js';
export type * from './plan.js';
export { type PlanOptions, planQuery } from './plan-query.js';
export { PlanTooLarge, pairsOf } from './planning.js';
export { allHold, anyHolds, lookAtEntity, lookAtTable, type StoredLook } from './stored.js';

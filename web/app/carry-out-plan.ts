import {
  type ApplyPlanAsk,
  PlanApplied,
  PlanRehearsed,
  PlanSettled,
  type RehearsePlanAsk,
  type SettlePlanAsk,
} from '../../contract/index.js';
import { type Following, longWork, type Outcome } from './long-work.js';

/** The database that a plan was made for. */
interface PlanAt {
  readonly tree: string;
  readonly database: string;
}

/** Tries a plan on a copy of the rows. */
export function rehearsePlan(
  { tree, database }: PlanAt,
  ask: RehearsePlanAsk,
  following: Following,
): Promise<Outcome<PlanRehearsed>> {
  return longWork(PlanRehearsed, `${planAddress(tree, database)}/rehearsal`, ask, following, 'Stopped. The copy was taken away.');
}

/** Carries a plan out. */
export function applyPlan({ tree, database }: PlanAt, ask: ApplyPlanAsk, following: Following): Promise<Outcome<PlanApplied>> {
  const stopped = 'Stopped. Unless the history says that it was done, nothing was.';
  return longWork(PlanApplied, `${planAddress(tree, database)}/apply`, ask, following, stopped);
}

/** Finishes a plan that was left half done, or takes it back. */
export function settlePlan(
  { tree, database }: PlanAt,
  way: SettlePlanAsk['way'],
  following: Following,
): Promise<Outcome<PlanSettled>> {
  return longWork(PlanSettled, `${planAddress(tree, database)}/settling`, { way }, following);
}

/** Lets go of what is kept aside of a plan. */
export function letGoOf({ tree, database }: PlanAt, number: number): Promise<Outcome<PlanSettled>> {
  return longWork(PlanSettled, `${planAddress(tree, database)}/letting-go`, { number }, {});
}

/** Where a browser gets the file of a database. */
export function databaseFileAddress(tree: string, database: string): string {
  return `${planAddress(tree, database)}/file`;
}

function planAddress(tree: string, database: string): string {
  return `/api/trees/${tree}/databases/${encodeURIComponent(database)}`;
}

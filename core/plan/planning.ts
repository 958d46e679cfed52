import type { Model, Role } from '../model/index.js';
import type { Access, AccessId, Over, PlannedExpression, PlannedOrder } from './access.js';

/** An access while its plan is made. */
export interface Draft extends Access {
  readonly over: Over;
  readonly conditions: PlannedExpression[];
  readonly hops: Draft[];
  order: readonly PlannedOrder[];
  reads: Access['reads'];
}

const LARGEST_PLAN = 20_000;

/** A plan that has grown beyond what a statement can hold. */
export class PlanTooLarge extends Error {}

/** The state that the accesses of one plan share while it is made. */
export class Planning {
  /** What is counted for the rows of an access, by the access and what is counted: it is counted once. */
  readonly counts = new Map<string, PlannedExpression>();
  private size = 0;

  /** @param drafts how many accesses the plan has already, where it is gone on with */
  constructor(
    readonly model: Model,
    private drafts = 0,
  ) {}

  /** Counts one part of the plan: scopes that stand on scopes can multiply without end. @throws PlanTooLarge */
  grow(): void {
    this.size += 1;
    if (this.size > LARGEST_PLAN) throw new PlanTooLarge();
  }

  draft(entity: string | null, over: Over, reads: Access['reads'] = 'row'): Draft {
    this.drafts += 1;
    return { id: this.drafts, entity, over, conditions: [], order: [], reads, hops: [] };
  }
}

/** The access behind a role that has been walked from these rows before. */
export function walkedBefore<Walked extends Access>(hops: readonly Walked[], { name, target }: Role): Walked | undefined {
  return hops.find(({ over }) => over.kind === 'role' && over.role.name === name && over.role.target === target);
}

/** The access of the pairs over which a row was reached. */
export function pairsOf({ over, id }: Access): AccessId {
  return over.kind === 'role' && over.pairs !== null ? over.pairs.id : id;
}

import { entityOf, isPivot, keyColumnsOf, type Model, type PivotRelation, type Relation } from '../model/index.js';
import {
  allHold,
  anyHolds,
  type Holding,
  lookAtEntity,
  lookAtTable,
  type PlannedExpression,
  type QueryPlan,
  type StoredLook,
} from '../plan/index.js';
import type { ValueType } from '../values/index.js';
import { type HeldKey, heldKeys } from './held-keys.js';

/** The question of a plan of a profile: groups as (children, parents), or one count. */
export type ProfileAsk =
  | { readonly kind: 'groups' | 'parents'; readonly entity: string; readonly role: string | null }
  | { readonly kind: 'rows' }
  | { readonly kind: 'empty' | 'dangling'; readonly column: string };

export interface ProfilePlan {
  readonly tells: ProfileAsk;
  readonly plan: QueryPlan;
}

/** The plans of a relation's profile. Each target of a polymorphic relation is a parent of its own. */
export function profilePlans(model: Model, relation: Relation): ProfilePlan[] {
  const keys = heldKeys(model, relation);
  const [first] = keys;
  if (first === undefined) return [];
  const { look } = first;
  const ends =
    relation.kind === 'pivot' && relation.form === 'symmetric'
      ? bothWays(model, relation)
      : keys.flatMap((held) => endOf(model, held));
  return [
    { tells: { kind: 'rows' }, plan: counted(look, relation.kind === 'pivot' ? first.marked : null) },
    ...ends,
    ...emptyOf(look, relation),
    ...keys.flatMap((held): ProfilePlan[] =>
      held.lost === null ? [] : [{ tells: { kind: 'dangling', column: held.column }, plan: counted(held.look, held.lost) }],
    ),
  ];
}

function counted(look: StoredLook, where: PlannedExpression | null): QueryPlan {
  return look.plan(where, { kind: 'count', of: null });
}

/** The rows of which a key that may be empty leads nowhere; none for pairs, which are always filled. */
function emptyOf(look: StoredLook, relation: Relation): ProfilePlan[] {
  const keys = keyColumnsOf(relation);
  if (isPivot(relation)) return [];
  const columns = keys.flat();
  // A key of which a part is empty leads nowhere; of a key for each of several entities one is filled.
  const where = allHold(keys.map((key) => anyHolds(key.map((name) => look.isEmpty(name)))));
  return [{ tells: { kind: 'empty', column: columns.join(', ') }, plan: counted(look, where) }];
}

function endOf(model: Model, { look, key, marked, target, role, heldAsText }: HeldKey): ProfilePlan[] {
  const filled = key.map((name) => look.isFilled(name));
  return ends(model, target, role, [look.holding(key, allHold([marked, allHold(filled)]))], heldAsText);
}

/** A pair that counts for both of its rows. */
function bothWays(model: Model, { table, ends: [first, second] }: PivotRelation): ProfilePlan[] {
  const reading = ({ columns }: typeof first): Holding =>
    lookAtTable(model, table.value).holding(
      columns.map(({ value }) => value),
      null,
    );
  return ends(model, first.entity, first.role, [reading(first), reading(second)], null);
}

function ends(
  model: Model,
  target: string,
  role: string | null,
  holding: readonly Holding[],
  heldAsText: ValueType | null,
): ProfilePlan[] {
  const { name } = entityOf(model, target);
  const parents = lookAtEntity(model, name);
  return [
    { tells: { kind: 'parents', entity: name, role }, plan: counted(parents, null) },
    {
      tells: { kind: 'groups', entity: name, role },
      plan: parents.plan(null, { kind: 'multiplicities', holding, heldAsText }),
    },
  ];
}

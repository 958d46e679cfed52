import { type Expression, isNarrowed, type Role, someExpression, type Wall, type WallLine } from '../model/index.js';
import {
  type Access,
  type AccessId,
  accessesBelow,
  accessesOf,
  type Draft,
  type LoadPlan,
  type PlannedExpression,
  type PlannedField,
  Planning,
  planned,
  type QueryPlan,
  walkedBefore,
} from '../plan/index.js';
import { type Actor, SYSTEM, type Walled } from './actor.js';
import { plantedFault } from './faults.js';

/** The walls on the accesses of one plan. */
export interface Weave {
  /** What the walls ask of the rows of each access; nothing where none stands on them. An access that is missing was forgotten. */
  readonly walls: ReadonlyMap<AccessId, readonly PlannedExpression[]>;
  /** The accesses that are in the plan for the walls alone. */
  readonly accesses: readonly Access[];
  /** The access to what stands behind a to-one role of the rows of another, where a wall may hide it; else null. */
  behind(from: AccessId, role: Role): Access | null;
}

let makeWoven: (plan: QueryPlan, weave: Weave | null) => Woven;
let readWoven: (woven: Woven) => { readonly plan: QueryPlan; readonly weave: Weave | null };

/**
 * A plan in which each access to an entity carries the conditions of its walls. Only `weave` makes one, and rows are read by no
 * other plan: a spread, a cast or an object made by hand has not got what is read of it.
 */
class WovenPlan {
  readonly #plan: QueryPlan;
  readonly #weave: Weave | null;

  private constructor(plan: QueryPlan, weave: Weave | null) {
    this.#plan = plan;
    this.#weave = weave;
  }

  static {
    makeWoven = (plan, weave) => new WovenPlan(plan, weave);
    readWoven = (woven) => ({ plan: woven.#plan, weave: woven.#weave });
  }
}

export type Woven = WovenPlan;

/** The woven plans, by what they were made of. Whoever lets go of the plan lets go of them. */
const made = new WeakMap<QueryPlan, Map<string, Woven>>();

/**
 * Weaves the walls that hold for an actor into a plan. It is done once for a plan and the walls that stand, so that what is made
 * of it can be kept too.
 *
 * @param as `'system'` sees all rows
 * @param wanted what its rows are wanted for
 */
export function weave(plan: QueryPlan, as: Actor, wanted: WovenFor = 'read'): Woven {
  const fault = plantedFault();
  const actor = fault?.actor?.(as) ?? as;
  const name = actor === SYSTEM ? SYSTEM : `${fault?.name ?? ''}${nameOf(actor, wanted)}`;
  const known = made.get(plan) ?? new Map<string, Woven>();
  made.set(plan, known);
  const before = known.get(name);
  if (before !== undefined) return before;
  const woven = makeWoven(plan, actor === SYSTEM ? null : new Weaving(plan, actor, wanted).done());
  known.set(name, woven);
  return woven;
}

/** The plan within, for the makers of statements. */
export function planOf(woven: Woven): QueryPlan {
  return readWoven(woven).plan;
}

/** The walls within, for the makers of statements; null where whoever reads sees all rows. */
export function weaveOf(woven: Woven): Weave | null {
  return readWoven(woven).weave;
}

/** *write*: the rows of a plan's own are to be written, and those that must not be are none of them. */
export type WovenFor = 'read' | 'write';

/** What tells one actor's walls from another's: the values of the actor are bound later. */
function nameOf({ walls, me }: Walled, wanted: WovenFor): string {
  return JSON.stringify([wanted, me === null, ...walls.map(({ name }) => name)]);
}

const NONE: readonly PlannedExpression[] = [];

/** Lays the walls on every access of a plan. */
class Weaving {
  private readonly walls = new Map<AccessId, readonly PlannedExpression[]>();
  private readonly added = new Map<AccessId, Access>();
  private readonly hidden = new Map<string, Access>();
  private readonly planning: Planning;
  private readonly standing: readonly Wall[];
  private readonly isNobody: boolean;
  private readonly fault = plantedFault();

  constructor(
    private readonly plan: QueryPlan,
    { model, walls, me }: Walled,
    private readonly wanted: WovenFor,
  ) {
    const accesses = accessesOf(plan);
    this.isNobody = me === null;
    const standing = walls.filter(({ name }) => !plan.lifts.includes(name));
    this.standing = this.fault?.standing?.(standing, walls, plan) ?? standing;
    this.planning = new Planning(model, Math.max(0, ...accesses.map(({ id }) => id)));
    for (const access of accesses) this.lay(access);
  }

  done(): Weave {
    const { root, output, loads } = this.plan;
    if (output.kind === 'rows' && this.fault?.hidesNothing !== true) this.hides(root, output.fields, loads);
    const { walls, added, hidden } = this;
    return { walls, accesses: Array.from(added.values()), behind: (from, role) => hidden.get(placeOf(from, role)) ?? null };
  }

  /** Lays the walls of its entity on an access. What they themselves ask is asked of all rows. */
  private lay(access: Access): void {
    if (this.walls.has(access.id)) return;
    const { entity } = access;
    const isWritten = this.wanted === 'write' && access === this.plan.root;
    const lines = entity === null || !readsAnew(access) ? [] : this.asked(entity, isWritten);
    const asked = this.fault?.asked?.(lines, access, this.plan, this.wanted) ?? lines;
    // Hops of a wall are walked past all walls, and never shared with those of the plan.
    const row: Draft = { ...access, conditions: [], hops: [] };
    const conditions = asked.length === 0 ? NONE : asked.map((line) => planned(this.planning, row, this.condition(line)));
    this.walls.set(access.id, conditions);
    for (const inner of accessesBelow({ ...row, over: { kind: 'all' }, order: [], conditions })) this.open(inner);
  }

  /** An access that a wall itself makes. */
  private open(access: Access): void {
    this.added.set(access.id, access);
    this.walls.set(access.id, NONE);
  }

  private asked(entity: string, isWritten = false): readonly WallLine[] {
    return this.standing.flatMap(({ reads, conditions }) => (reads || isWritten ? (conditions.get(entity) ?? []) : []));
  }

  /** What a line asks of each row. One that asks for a value of nobody lets nothing through; that of a kind lets all others. */
  private condition({ kinds, holds }: WallLine): Expression {
    const { type, span } = holds;
    const asksMe = this.isNobody && someExpression(holds, ({ kind }) => kind === 'me');
    const asked: Expression = asksMe ? { kind: 'value', value: false, type, span } : holds;
    if (kinds === null) return asked;
    const isOther: Expression = { kind: 'is kind', hops: [], kinds, negated: true, type, span };
    return { kind: 'binary', operator: 'or', left: isOther, right: asked, type, span };
  }

  /** Finds the to-one roles of rows whose other rows a wall may hide: those by which they are loaded, or whose keys they show. */
  private hides(row: Access, fields: readonly PlannedField[], loads: readonly LoadPlan[]): void {
    for (const field of fields) if (field.kind === 'held key') this.hide(row, field.role);
    for (const load of loads) {
      this.hide(row, load.role);
      if (load.output.kind === 'rows') this.hides(load.rows, load.output.fields, load.loads);
    }
  }

  private hide(row: Access, role: Role): void {
    if (role.way.kind !== 'key' || isNarrowed(this.planning.model, role) || this.asked(role.target).length === 0) return;
    const known = walkedBefore(row.hops, role) ?? this.hidden.get(placeOf(row.id, role));
    const behind = known ?? this.planning.draft(role.target, { kind: 'role', from: row.id, role, pairs: null, steps: [] }, 'key');
    this.hidden.set(placeOf(row.id, role), behind);
    if (known !== undefined) return;
    this.added.set(behind.id, behind);
    this.lay(behind);
  }
}

function placeOf(from: AccessId, { relation, name, target }: Role): string {
  return `${from}\n${relation}\n${name}\n${target}`;
}

/** Whether an access reads rows that no other has reached before: owners were, and so was the end of a path. */
function readsAnew({ over, entity }: Access): boolean {
  if (over.kind === 'owners') return false;
  return over.kind !== 'role' || over.steps.at(-1)?.entity !== entity;
}

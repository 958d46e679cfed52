import type { Design } from '../core/design/index.js';
import { type Preparation, prepare } from '../core/load/index.js';
import type { LoadWay } from '../core/notation/index.js';
import type { QueryPlan } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import { type Actor, SYSTEM, type Walled, type WovenFor, weave } from '../core/walls/index.js';
import type { Engine } from '../engines/index.js';
import { nowOf } from './clock.js';

/** A database that is looked at, with the design that says what stands in it. */
export interface LookedAt {
  readonly design: Design;
  readonly engine: Engine;
  /** The keys of the sample rows, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so its constraints keep types and keys, and now is the tree's own. */
  readonly madeHere: boolean;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
  /** Whoever looks; left out, the system, which sees all rows. */
  readonly actor?: Actor;
}

/** The inputs of a plan beside the database. */
export interface PlanInputs {
  readonly parameters?: Readonly<Record<string, string | null>>;
  /** What now is, as a timestamp in wire form, where it is not the database's. */
  readonly now?: string;
  /** The way by which everything is loaded; left out, each load has its own. */
  readonly way?: LoadWay;
  /** What the rows are wanted for; left out, to be read. */
  readonly wanted?: WovenFor;
  /** Whose values are asked for by `me`, where that is somebody else than whoever looks. */
  readonly me?: Walled;
}

/** Prepares a plan to be run on a database, with the walls that stand for whoever looks. */
export function preparedFor(lookedAt: Omit<LookedAt, 'engine'>, plan: QueryPlan, given: PlanInputs = {}): Preparation {
  const { design, madeHere, kept, sampleKeys, actor = SYSTEM } = lookedAt;
  const { model, dialect } = design;
  const { parameters = {}, now = nowOf(model, madeHere), way, me: asked, wanted } = given;
  const database = {
    model,
    dialect,
    madeHere,
    ...(kept === undefined ? {} : { kept }),
    ...(way === undefined ? {} : { way }),
  };
  const whose = asked ?? actor;
  const me = whose === SYSTEM ? null : (whose.me ?? 'nobody');
  return prepare(weave(plan, actor, wanted), database, { parameters, now, sampleKeys, me });
}

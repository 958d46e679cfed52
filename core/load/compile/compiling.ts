import type { Dialect } from '../../dialects/index.js';
import { type Entity, entityOf, type Model, type Role } from '../../model/index.js';
import type { LoadWay } from '../../notation/index.js';
import type { Access, AccessId, PlannedExpression, PlannedPart } from '../../plan/index.js';
import type { SqlExpression } from '../../sql/index.js';
import type { EngineValues } from '../../values/index.js';
import type { Binding } from './compiled.js';
import type { BuilderSite, SelectBuilder } from './select-builder.js';

/** The context that all statements of one plan share: the model, the dialect, the parameters that were bound. */
export interface Compiling {
  readonly model: Model;
  readonly values: EngineValues;
  readonly print: (expression: SqlExpression) => string;
  /** The way by which everything is loaded; null where each load has its own. */
  readonly way: LoadWay | null;
  readonly madeHere: boolean;
  /** Whether a select in `from` can speak of the rows around it. */
  readonly correlates: boolean;
  /** How so many rows of each owner are asked for the quickest. */
  readonly limitsEach: Dialect['limitsEach'];
  readonly accesses: ReadonlyMap<AccessId, Access>;
  readonly bindings: Map<string, Binding>;
  /** What holds for the rows of an access that are reached: the walls on it, and what the plan itself asks. */
  conditionsOf(access: Access): readonly PlannedExpression[];
  /** The access to what stands behind a role of the rows of another, where walls may hide it; else null. */
  behind(access: AccessId, role: Role): Access | null;
  /** A planned expression as SQL over the sources of a row. */
  sqlOf(row: SourceRow, expression: PlannedExpression): SqlExpression;
  /** What the builders of all selects share. */
  readonly site: BuilderSite;
}

/** The row at hand: the select that it is read in, and where it stands there. */
export interface SourceRow {
  readonly builder: SelectBuilder;
  readonly access: Access;
  readonly alias: string;
  /** The group of rows that is spoken of, where it is one and not a row. */
  readonly group?: GroupSource;
}

/** What groups of rows have, in a select that makes them. */
export interface GroupSource {
  /** The term of the groups at a place, from 0. */
  term(index: number): SqlExpression;
  aggregate(part: Extract<PlannedPart, { kind: 'of group' }>): SqlExpression;
}

/** The entity whose rows an access reads. */
export function entityAt(model: Model, { entity }: Access): Entity {
  if (entity === null) throw new Error('pairs are no rows of an entity');
  return entityOf(model, entity);
}

/** Puts the rows of an access into a select. */
export function rowAt(builder: SelectBuilder, access: Access, alias: string): SourceRow {
  builder.put(access, alias);
  return { builder, access, alias };
}

import type { Design } from '../core/design/index.js';
import { type Prepared, prepare, writtenSql } from '../core/load/index.js';
import type { Query } from '../core/model/index.js';
import type { LoadWay } from '../core/notation/index.js';
import { planQuery, type QueryPlan } from '../core/plan/index.js';
import { SYSTEM, weave } from '../core/walls/index.js';

/** What a plan is prepared for, beside its design. */
export interface For {
  readonly madeHere?: boolean;
  readonly kept?: ReadonlySet<string>;
  readonly way?: LoadWay;
}

/** A plan ready to be run, its parameters left empty. */
export function preparedPlan({ model, dialect }: Design, plan: QueryPlan, { madeHere = true, kept, way }: For = {}): Prepared {
  const database = { model, dialect, madeHere, ...(kept === undefined ? {} : { kept }), ...(way === undefined ? {} : { way }) };
  const ready = prepare(weave(plan, SYSTEM), database, { parameters: {}, now: '2031-04-12T09:00:00.000000Z', sampleKeys: {} });
  if (!ready.ok) throw new Error(ready.problems.join('\n'));
  return ready.prepared;
}

/** The query that a text is. @throws where it is none, with its findings */
export function queryIn(design: Design, text: string): Query {
  const { query, findings } = design.queryOf(text);
  if (query === null) throw new Error(`${text}\n${findings.map(({ message }) => message).join('\n')}`);
  return query;
}

/** A query's text, ready to be run. */
export function preparedQuery(design: Design, text: string, wanted: For = {}): Prepared {
  return preparedPlan(design, planQuery(design.model, queryIn(design, text)), wanted);
}

/** The SQL for a query's rows. */
export function sqlOf(design: Design, text: string, wanted: For = {}): string {
  return writtenSql(preparedQuery(design, text, wanted), design.dialect);
}

import * as v from 'valibot';
import { FindingMessage, QueryRun } from './runs.js';

/** A query whose loads are to be run in each way, for so many root rows at most. */
export const WaysAsk = v.object({ run: QueryRun, most: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(1_000_000)) });
export type WaysAsk = v.InferOutput<typeof WaysAsk>;

export const MeasuredWay = v.object({
  way: v.picklist(['batch', 'join', 'json', 'row']),
  statements: v.number(),
  /** The lines that the engine handed over, the values in them, and their size. */
  rows: v.number(),
  cells: v.number(),
  bytes: v.number(),
  /** The middle of several runs, in the database. */
  milliseconds: v.number(),
  /** Why it cannot be compared; null where its answer is that of the others. */
  problem: v.nullable(v.string()),
  sql: v.array(v.string()),
});
export type MeasuredWay = v.InferOutput<typeof MeasuredWay>;

export const WaysMeasured = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** The root rows that there were, and all rows that were asked for, each once. */
    parents: v.number(),
    wanted: v.number(),
    costs: v.array(MeasuredWay),
  }),
  v.object({ ok: v.literal(false), findings: v.array(FindingMessage), problems: v.array(v.string()) }),
]);
export type WaysMeasured = v.InferOutput<typeof WaysMeasured>;

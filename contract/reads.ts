import * as v from 'valibot';
import { FindingMessage, QueryRun } from './runs.js';

/** A query, and what the page that uses it reads of its rows: paths with commas between, beside those that its text names. */
export const ReadsAsk = v.object({ run: QueryRun, paths: v.pipe(v.string(), v.maxLength(10_000)) });
export type ReadsAsk = v.InferOutput<typeof ReadsAsk>;

export const ReadsChecked = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    sentence: v.string(),
    asRead: v.number(),
    loaded: v.number(),
    asReadTenfold: v.number(),
    difference: v.nullable(v.string()),
    unloaded: v.array(v.object({ path: v.string(), statements: v.number() })),
    /** The lines that the query lacks. */
    lines: v.array(v.string()),
    unread: v.array(v.object({ path: v.string(), rows: v.number(), bytes: v.number() })),
    wide: v.array(v.object({ path: v.string(), fields: v.array(v.string()) })),
  }),
  v.object({ ok: v.literal(false), findings: v.array(FindingMessage), problems: v.array(v.string()) }),
]);
export type ReadsChecked = v.InferOutput<typeof ReadsChecked>;

import * as v from 'valibot';
import { Name, recordOf, Span } from './parts.js';

export const Run = v.object({
  query: v.variant('kind', [
    v.object({ kind: v.literal('saved'), name: Name }),
    /** A query's text; `head` declares its parameters, as behind a query's name. */
    v.object({
      kind: v.literal('text'),
      text: v.pipe(v.string(), v.maxLength(100_000)),
      head: v.pipe(v.string(), v.maxLength(10_000)),
    }),
  ]),
  parameters: recordOf(v.nullable(v.pipe(v.string(), v.maxLength(1_000_000)))),
});
export type Run = v.InferOutput<typeof Run>;

export const LogEntry = v.object({
  path: v.string(),
  plain: v.string(),
  sent: v.string(),
  byColumns: v.boolean(),
  parameters: v.array(v.object({ name: v.string(), shown: v.string(), count: v.nullable(v.number()) })),
  /** How often it was sent; what follows is the sum of all. */
  times: v.number(),
  rows: v.number(),
  cells: v.number(),
  bytes: v.number(),
  milliseconds: v.number(),
  span: v.nullable(Span),
  /** How the engine answers it, in words; `scan` marks a step that reads every row. */
  steps: v.array(v.object({ depth: v.number(), text: v.string(), scan: v.boolean() })),
});
export type LogEntry = v.InferOutput<typeof LogEntry>;

export const FindingMessage = v.object({
  weight: v.picklist(['error', 'warning', 'note']),
  code: v.string(),
  message: v.string(),
  span: Span,
});

export const RunResult = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    entity: v.string(),
    cardinality: v.picklist(['many', 'first', 'one', 'count', 'exists']),
    /** The rows are lines of what the query shows, and not rows of the entity. */
    flat: v.boolean(),
    /** Related rows are loaded along. */
    loads: v.boolean(),
    /** The root rows, as one JSON array. */
    text: v.string(),
    rows: v.number(),
    log: v.array(LogEntry),
    /** Where rows were left out: of a load, or of the root (an empty path). `size`: it was the answer’s length that cut them. */
    cuts: v.array(v.object({ path: v.string(), limit: v.number(), size: v.nullable(v.number()) })),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), findings: v.array(FindingMessage), problems: v.array(v.string()) }),
]);
export type RunResult = v.InferOutput<typeof RunResult>;

/** Rows to choose from where a parameter is an entity. */
export const RowChoices = v.object({ rows: v.array(v.object({ key: v.string(), shown: v.string() })), more: v.boolean() });
export type RowChoices = v.InferOutput<typeof RowChoices>;

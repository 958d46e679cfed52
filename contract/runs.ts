import * as v from 'valibot';
import { ActorText, Name, recordOf, Span } from './parts.js';

const QueryText = v.pipe(v.string(), v.maxLength(100_000));

const Saved = v.object({ kind: v.literal('saved'), name: Name });
/** A query's text; `head` declares its parameters, as behind a query's name. */
const Typed = v.object({ kind: v.literal('text'), text: QueryText, head: v.pipe(v.string(), v.maxLength(10_000)) });
/** One statement in the SQL of the database, which only reads. */
const Sql = v.object({ kind: v.literal('sql'), text: QueryText });

const RunParts = {
  parameters: recordOf(v.nullable(v.pipe(v.string(), v.maxLength(1_000_000)))),
  /** The plans are measured: each statement is carried out once more, to count what its steps find. */
  measured: v.optional(v.boolean()),
  /** It is counted how many rows there are beside a page. */
  total: v.optional(v.boolean()),
  /** On whose behalf, as a text says it: `Player(2)`, `nobody`; left out, the system's, which sees all rows. */
  as: v.optional(ActorText),
};

/** A run of a query. */
export const QueryRun = v.object({ query: v.variant('kind', [Saved, Typed]), ...RunParts });
export type QueryRun = v.InferOutput<typeof QueryRun>;

/** A run of a query, or of plain SQL. */
export const Run = v.object({ query: v.variant('kind', [Saved, Typed, Sql]), ...RunParts });
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
  /** How the engine answers it, in words; `mark` says why a step may be dear. Rows are those of each time that a step runs. */
  steps: v.array(
    v.object({
      depth: v.number(),
      text: v.string(),
      mark: v.nullable(v.picklist(['full scan', 'sort', 'temporary table'])),
      expected: v.nullable(v.number()),
      found: v.nullable(v.number()),
    }),
  ),
});
export type LogEntry = v.InferOutput<typeof LogEntry>;

export const FindingMessage = v.object({
  weight: v.picklist(['error', 'warning', 'note']),
  code: v.string(),
  message: v.string(),
  span: Span,
});

/** Something that a person should know of a query that was run; the fix edits the query's text, or the design's. */
export const QueryWarning = v.object({
  weight: v.picklist(['warning', 'note']),
  code: v.string(),
  message: v.string(),
  evidence: v.string(),
  span: v.nullable(Span),
  fix: v.nullable(
    v.object({
      of: v.picklist(['query', 'design']),
      title: v.string(),
      edits: v.array(v.object({ span: Span, text: v.string() })),
    }),
  ),
});
export type QueryWarning = v.InferOutput<typeof QueryWarning>;

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
    /** Rows may stand before these, or behind them. */
    page: v.boolean(),
    /** How many rows there are beside a page; null where that was not asked. */
    total: v.nullable(v.number()),
    log: v.array(LogEntry),
    /** Where rows were left out: of a load, or of the root (an empty path). `size`: it was the answer’s length that cut them. */
    cuts: v.array(v.object({ path: v.string(), limit: v.number(), size: v.nullable(v.number()) })),
    warnings: v.array(QueryWarning),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), findings: v.array(FindingMessage), problems: v.array(v.string()) }),
]);
export type RunResult = v.InferOutput<typeof RunResult>;

/** Rows to choose from where a parameter is an entity. */
export const RowChoices = v.object({ rows: v.array(v.object({ key: v.string(), shown: v.string() })), more: v.boolean() });
export type RowChoices = v.InferOutput<typeof RowChoices>;

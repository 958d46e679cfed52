import * as v from 'valibot';
import { ActorText, Name, recordOf, Span } from './parts.js';

const Via = v.object({ entity: Name, key: v.pipe(v.string(), v.maxLength(10_000)), role: Name });

/** A window of an entity's rows: which, in what order, walked to from where. */
export const RowsAsk = v.object({
  entity: Name,
  where: v.pipe(v.string(), v.maxLength(10_000)),
  orderBy: v.pipe(v.string(), v.maxLength(2000)),
  via: v.nullable(Via),
  /** One row alone, by its key. */
  key: v.optional(v.pipe(v.string(), v.maxLength(10_000))),
  from: v.pipe(v.number(), v.integer(), v.minValue(0)),
  count: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(500)),
  /** On whose behalf; left out, the system’s, which sees all rows. */
  as: v.optional(ActorText),
});
export type RowsAsk = v.InferOutput<typeof RowsAsk>;

const Row = recordOf(v.unknown());

export const RowsAnswer = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** All rows that were asked for, of which these are a window. */
    total: v.number(),
    cut: v.boolean(),
    rows: v.array(Row),
    sql: v.string(),
    milliseconds: v.number(),
    revision: v.number(),
  }),
  v.object({
    ok: v.literal(false),
    findings: v.array(
      v.object({ part: v.picklist(['where', 'order by']), message: v.string(), start: v.number(), end: v.number() }),
    ),
    problems: v.array(v.string()),
  }),
]);
export type RowsAnswer = v.InferOutput<typeof RowsAnswer>;

/** Two who look through the same rows: *system*, *nobody* or a row. */
export const BesideAsk = v.object({
  ...v.omit(RowsAsk, ['from', 'count', 'as', 'key']).entries,
  one: ActorText,
  other: ActorText,
});
export type BesideAsk = v.InferOutput<typeof BesideAsk>;

/** The rows that each of them finds, with those that one alone sees before those that both do. */
export const RowsBeside = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    both: v.number(),
    onlyOne: v.number(),
    onlyOther: v.number(),
    /** One of them finds more rows than are compared. */
    cut: v.boolean(),
    rows: v.array(v.object({ key: v.string(), shown: v.string(), one: v.boolean(), other: v.boolean(), differs: v.boolean() })),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type RowsBeside = v.InferOutput<typeof RowsBeside>;

export const CountsAsk = v.object({
  entity: Name,
  keys: v.pipe(v.array(v.union([v.string(), v.number()])), v.maxLength(500)),
  /** On whose behalf; left out, the system’s, which sees all rows. */
  as: v.optional(ActorText),
});
export type CountsAsk = v.InferOutput<typeof CountsAsk>;

/** By role, then by the owner's key; a row that is missing knows none. */
export const Counts = v.object({ counts: recordOf(recordOf(v.number())) });
export type Counts = v.InferOutput<typeof Counts>;

/** How many rows each entity has; one that cannot be counted is missing. */
export const EntityCounts = v.object({ rows: recordOf(v.number()) });
export type EntityCounts = v.InferOutput<typeof EntityCounts>;

const KeyRows = v.array(v.object({ column: v.string(), rows: v.number() }));

/** One way to store the kinds of a base, measured on its rows. */
export const KindsWay = v.object({
  storage: v.picklist(['single table', 'joined tables', 'separate tables', 'json']),
  chosen: v.boolean(),
  problem: v.nullable(v.string()),
  needs: v.nullable(v.string()),
  tables: v.number(),
  columns: v.number(),
  emptyShare: v.number(),
  asks: v.array(
    v.object({
      what: v.string(),
      joins: v.number(),
      tables: v.number(),
      statements: v.number(),
      rows: v.number(),
      milliseconds: v.number(),
      sql: v.string(),
    }),
  ),
  bytes: v.number(),
  lost: v.array(v.string()),
});
export type KindsWay = v.InferOutput<typeof KindsWay>;

/** The ways to store the kinds of a base, side by side. */
export const KindsCompared = v.object({ ways: v.array(KindsWay) });
export type KindsCompared = v.InferOutput<typeof KindsCompared>;

/** What the rows say about a relation. */
export const Profile = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    rows: v.number(),
    ends: v.array(
      v.object({
        entity: v.string(),
        role: v.nullable(v.string()),
        histogram: v.object({
          least: v.number(),
          mean: v.number(),
          most: v.number(),
          none: v.number(),
          parents: v.number(),
          buckets: v.array(v.object({ least: v.number(), most: v.number(), parents: v.number() })),
        }),
      }),
    ),
    empty: KeyRows,
    dangling: KeyRows,
    milliseconds: v.number(),
    statements: v.array(v.string()),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type Profile = v.InferOutput<typeof Profile>;

/** Rows that do not hold to the design, and what was asked to find them. */
export const RowsChecked = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    findings: v.array(
      v.object({
        code: v.string(),
        weight: v.picklist(['error', 'warning', 'note']),
        message: v.string(),
        span: Span,
        rows: v.number(),
        /** The entity whose rows they are; null for pairs of a pivot, and for values. */
        entity: v.nullable(v.string()),
        /** The condition under which Rows shows them; null where the notation cannot say it. */
        condition: v.nullable(v.string()),
        examples: v.array(v.object({ key: v.unknown(), values: v.array(v.object({ column: v.string(), value: v.unknown() })) })),
        sql: v.string(),
      }),
    ),
    asked: v.number(),
    unanswered: v.array(v.object({ message: v.string(), span: Span })),
    milliseconds: v.number(),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type RowsChecked = v.InferOutput<typeof RowsChecked>;

/** Rows that are to be deleted: as behind “delete” in a command, or such commands. */
export const ImpactAsk = v.object({
  rows: v.pipe(v.string(), v.maxLength(100_000)),
  /** On whose behalf; left out, the system’s, which sees all rows. */
  as: v.optional(ActorText),
});
export type ImpactAsk = v.InferOutput<typeof ImpactAsk>;

/** What a delete takes along, empties or is refused by, told before anything is touched. */
export const ImpactTold = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    rows: v.array(v.object({ entity: v.string(), rows: v.number() })),
    groups: v.array(
      v.object({
        effect: v.picklist(['goes along', 'is emptied', 'gets its default', 'refuses', 'may refuse', 'stays']),
        generation: v.number(),
        of: v.string(),
        table: v.string(),
        over: v.array(v.string()),
        rows: v.number(),
        ways: v.array(v.object({ over: v.string(), rows: v.number() })),
        /** The foreign key or the trigger that does it; empty where nothing does. */
        by: v.string(),
        /** The first of the rows. */
        looks: v.array(v.object({ entity: v.string(), key: v.string(), shown: v.string() })),
      }),
    ),
    /** Triggers that others wrote: what they do is not told by reading them. */
    unforeseen: v.array(v.object({ table: v.string(), trigger: v.string() })),
    sql: v.array(v.string()),
  }),
  v.object({ ok: v.literal(false), problems: v.array(v.string()) }),
]);
export type ImpactTold = v.InferOutput<typeof ImpactTold>;

/** How the expectations of a text came out. */
export const ExpectationsHeld = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    runs: v.array(
      v.object({
        label: v.string(),
        /** The saved query that it is of; null for a command. */
        query: v.nullable(v.string()),
        span: Span,
        /** Each line, and why it does not hold; null where it does. */
        lines: v.array(v.object({ text: v.string(), span: Span, broken: v.nullable(v.string()) })),
        /** Why it could not be tried; null where it was. */
        problem: v.nullable(v.string()),
        milliseconds: v.number(),
      }),
    ),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type ExpectationsHeld = v.InferOutput<typeof ExpectationsHeld>;

import * as v from 'valibot';
import { Login } from './database.js';
import { Address, LONGEST_TEXT, Name } from './parts.js';

const Id = v.pipe(v.string(), v.maxLength(100));

/** A database that a design is carried over to, change by change. */
export const DesignDatabase = v.object({
  /** `in use` for the one that the tree looks at as it is; the others by a key of their own. */
  id: v.string(),
  /** What a person calls it: *staging*. */
  label: v.string(),
  kind: v.picklist(['file', 'embedded', 'server']),
  dialect: v.picklist(['sqlite', 'postgres', 'mariadb']),
  /** Where it is, in words. */
  where: v.string(),
  /** What a person types before a server is changed; null for what is not on one. */
  typed: v.nullable(v.string()),
  /** Whether the file is in the data folder, and so can be downloaded. */
  download: v.boolean(),
});
export type DesignDatabase = v.InferOutput<typeof DesignDatabase>;

/** The databases of a design, and what was answered to what their plans ask. */
export const DesignDatabases = v.object({ databases: v.array(DesignDatabase), answers: v.string() });
export type DesignDatabases = v.InferOutput<typeof DesignDatabases>;

const DatabaseLabel = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(40));

/** A database that a design is to have: an empty file, one that is filled with the sample rows, or one on a server. */
export const NewDesignDatabase = v.variant('kind', [
  v.object({ kind: v.literal('file'), label: DatabaseLabel, samples: v.boolean() }),
  /** One that is there, or that is to be made, empty, under the name of the address. */
  v.object({ kind: v.literal('server'), address: Address, ...Login, label: DatabaseLabel, make: v.boolean() }),
]);
export type NewDesignDatabase = v.InferOutput<typeof NewDesignDatabase>;

/** Keeps answers, in place of those that were seen. */
export const KeepAnswers = v.object({
  answers: v.pipe(v.string(), v.maxLength(LONGEST_TEXT)),
  instead: v.pipe(v.string(), v.maxLength(LONGEST_TEXT)),
});
export type KeepAnswers = v.InferOutput<typeof KeepAnswers>;

/**
 * What a database is to become. *text*: what the text says; *before*: what it was before its newest plan, which is taken back;
 * *last*: what it was last changed to from here, where somebody else's hand has changed it since.
 */
export const PlanGoal = v.picklist(['text', 'before', 'last']);
export type PlanGoal = v.InferOutput<typeof PlanGoal>;

export const PlanAsk = v.object({
  goal: PlanGoal,
  /** Digests of the SQL that a person agrees to be run there; `powers`: also by a login that could do what was said. */
  powers: v.boolean(),
  agreed: v.pipe(v.array(v.pipe(v.string(), v.maxLength(64))), v.maxLength(10_000)),
});
export type PlanAsk = v.InferOutput<typeof PlanAsk>;

/** A plan that was made, by its key. */
const MadePlan = { plan: Id };

/** So many rows of a server are rehearsed on, unless a person says another number. */
export const MOST_REHEARSED = 1_000_000;

/** A plan to try on a copy; of a server with more than `most` rows on a part of them that keeps its relations. */
export const RehearsePlanAsk = v.object({
  ...MadePlan,
  most: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(100_000_000)), MOST_REHEARSED),
});
export type RehearsePlanAsk = v.InferOutput<typeof RehearsePlanAsk>;

/** A plan to carry out, under a name. */
export const ApplyPlanAsk = v.object({
  ...MadePlan,
  name: Name,
  /** Whether a person has agreed to what is lost. */
  allowLoss: v.boolean(),
  /** What was typed as the name of the server's database; null for what is on none. */
  typed: v.nullable(v.pipe(v.string(), v.maxLength(1000))),
});
export type ApplyPlanAsk = v.InferOutput<typeof ApplyPlanAsk>;

/** Finishes a plan that was left half done, or takes it back. */
export const SettlePlanAsk = v.object({ way: v.picklist(['finish', 'take back']) });
export type SettlePlanAsk = v.InferOutput<typeof SettlePlanAsk>;

/** Lets go of what is kept aside of a plan, by its number in the history. */
export const LetGoAsk = v.object({ number: v.pipe(v.number(), v.integer()) });

/** A change, and what the rows say to it. */
export const ToldChange = v.object({
  id: v.string(),
  kind: v.picklist(['new', 'changed', 'gone']),
  subject: v.string(),
  table: v.nullable(v.string()),
  sentence: v.string(),
  verdict: v.picklist(['safe', 'needs an answer', 'loses data']),
  rows: v.number(),
  lost: v.number(),
});
export type ToldChange = v.InferOutput<typeof ToldChange>;

/** What only a person can say, with the lines that say it. */
export const ToldQuestion = v.object({
  kind: v.string(),
  of: v.string(),
  table: v.string(),
  sentence: v.string(),
  rows: v.number(),
  examples: v.array(v.object({ shown: v.string(), rows: v.number() })),
  /** Some of its rows as they are, those that are alike together, each with the line that keeps it. */
  look: v.array(
    v.array(
      v.object({
        values: v.array(v.object({ column: v.string(), shown: v.nullable(v.string()) })),
        keep: v.nullable(v.string()),
      }),
    ),
  ),
  ways: v.array(v.object({ line: v.string(), does: v.string() })),
});
export type ToldQuestion = v.InferOutput<typeof ToldQuestion>;

/** A statement of a plan. */
export const ToldOperation = v.object({
  sql: v.string(),
  what: v.string(),
  table: v.nullable(v.string()),
  /** Whether a person wrote it. */
  byHand: v.boolean(),
});
export type ToldOperation = v.InferOutput<typeof ToldOperation>;

/** What was done to a database. */
export const ToldHistory = v.object({
  number: v.number(),
  name: v.string(),
  at: v.string(),
  milliseconds: v.number(),
  rows: v.number(),
  state: v.picklist(['applied', 'undone']),
  undoes: v.nullable(v.number()),
  changes: v.array(v.string()),
  textBefore: v.nullable(v.string()),
  textAfter: v.string(),
  /** The tables in which is kept what went. */
  asides: v.array(v.string()),
});
export type ToldHistory = v.InferOutput<typeof ToldHistory>;

/** What would happen to a database. */
export const ChangesPlanned = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    plan: v.string(),
    /** The revision of the text that it was made of. */
    revision: v.number(),
    changes: v.array(ToldChange),
    questions: v.array(ToldQuestion),
    /** What keeps it from being carried out, in words. */
    faults: v.array(v.string()),
    /** What is done by hand among it, and what of that stays where it is taken back, in words. */
    byHand: v.array(v.string()),
    /** In working order; none while a question is open. */
    operations: v.array(ToldOperation),
    /** All of them, as a script of the engine's own shell. */
    script: v.string(),
    /** How it locks what it works on, as the engine does. */
    locks: v.string(),
    /** The plan that this one takes back. */
    undoes: v.nullable(v.object({ number: v.number(), name: v.string() })),
    history: v.array(ToldHistory),
    /** The entities, and the relations in a table of their own, whose tables become otherwise, by name. */
    entities: v.record(v.string(), v.picklist(['new', 'changed'])),
    milliseconds: v.number(),
  }),
  v.object({
    ok: v.literal(false),
    problem: v.string(),
    /** The SQL that the text states itself, or its answers by hand, and that a person has to look at first. */
    states: v.optional(
      v.object({
        statements: v.array(v.object({ sql: v.string(), digest: v.string() })),
        /** What the login could do beyond its own database, in words; null for nothing. */
        powers: v.nullable(v.string()),
      }),
    ),
    /** A plan that was left half done, and what can become of it. */
    left: v.optional(v.object({ canFinish: v.boolean(), canTakeBack: v.boolean() })),
  }),
]);
export type ChangesPlanned = v.InferOutput<typeof ChangesPlanned>;
export type PlannedChanges = Extract<ChangesPlanned, { ok: true }>;

const SideBySide = v.object({
  key: v.string(),
  /** By column. */
  before: v.record(v.string(), v.unknown()),
  after: v.nullable(v.record(v.string(), v.unknown())),
});

/** What came of a plan, on a copy or on the database itself. */
const NotDone = [
  v.object({ kind: v.literal('refused'), problem: v.string() }),
  /** The database is not as the plan saw it. */
  v.object({ kind: v.literal('moved'), differs: v.array(v.string()) }),
] as const;

export const PlanRehearsed = v.variant('kind', [
  v.object({
    kind: v.literal('rehearsed'),
    milliseconds: v.array(v.number()),
    tables: v.array(
      v.object({
        before: v.nullable(v.string()),
        after: v.nullable(v.string()),
        rowsBefore: v.number(),
        rowsAfter: v.number(),
        changed: v.array(SideBySide),
      }),
    ),
    unheld: v.array(v.string()),
    /** What takes it back again, as a script; empty where that asks something. */
    back: v.string(),
    /** What of the rows was rehearsed on, in words; null for all of them. */
    part: v.nullable(v.string()),
  }),
  ...NotDone,
]);
export type PlanRehearsed = v.InferOutput<typeof PlanRehearsed>;

export const PlanApplied = v.variant('kind', [
  v.object({
    kind: v.literal('applied'),
    number: v.number(),
    name: v.string(),
    milliseconds: v.number(),
    rows: v.number(),
    /** Where the file was copied to before; null where it was not. */
    before: v.nullable(v.string()),
  }),
  ...NotDone,
]);
export type PlanApplied = v.InferOutput<typeof PlanApplied>;

/** What became of a plan that was left half done, in words. */
export const PlanSettled = v.variant('ok', [
  v.object({ ok: v.literal(true), told: v.string() }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type PlanSettled = v.InferOutput<typeof PlanSettled>;

/** What somebody else's hand has changed in a database, as edits of the text. */
export const DriftEdits = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** The revision of the text that they are of. */
    revision: v.number(),
    /** The text with them. */
    text: v.string(),
    /** What could not be brought over, and why, in words. */
    left: v.array(v.string()),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type DriftEdits = v.InferOutput<typeof DriftEdits>;

/** Where a database stands. */
export const DatabaseStands = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** The newest of its history; null where it was never changed from here. */
    newest: v.nullable(v.object({ number: v.number(), name: v.string(), at: v.string() })),
    /** The last revision of the text that says what the database was changed to; null where none does. */
    revision: v.nullable(v.number()),
    isText: v.boolean(),
    /** What somebody else's hand has changed since, in sentences. */
    drift: v.array(v.string()),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type DatabaseStands = v.InferOutput<typeof DatabaseStands>;

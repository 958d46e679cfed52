import * as v from 'valibot';
import { ActorText, Name } from './parts.js';

/** A line of a file, with its values in the order of the columns. */
const FileLine = v.object({
  number: v.number(),
  values: v.array(v.unknown()),
  /** Why it cannot be read; null where it can. */
  problem: v.nullable(v.string()),
});

/** A file that was sent, as far as it was looked at: its columns, its first lines, and what the columns are likely to be. */
export const LookedAtFile = v.object({
  file: v.string(),
  name: v.string(),
  form: v.picklist(['csv', 'json lines']),
  columns: v.array(v.string()),
  bytes: v.number(),
  lines: v.array(FileLine),
  /** What each column is likely to be, as it is written. */
  guessed: v.array(v.string()),
  /** All that a column can be. */
  uses: v.array(v.string()),
});
export type LookedAtFile = v.InferOutput<typeof LookedAtFile>;

const Use = v.pipe(v.string(), v.maxLength(500));

/** What the lines of a file are to become. */
export const LinesAsk = v.object({
  entity: Name,
  /** What each column is, in their order. */
  uses: v.pipe(v.array(Use), v.maxLength(2000)),
  nothing: v.pipe(v.string(), v.maxLength(100)),
  there: v.picklist(['refuse', 'skip', 'update']),
  match: v.pipe(v.array(Use), v.maxLength(20)),
  /** Whether the good lines stay where others are refused. */
  goodOnes: v.boolean(),
  /** Only the first lines, and nothing of them stays. */
  preview: v.boolean(),
  /** On whose behalf; left out, the system’s. */
  as: v.optional(ActorText),
});
export type LinesAsk = v.InferOutput<typeof LinesAsk>;

export const LinesTold = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    lines: v.number(),
    created: v.number(),
    updated: v.number(),
    skipped: v.number(),
    refused: v.number(),
    /** Whether what was written stays. */
    kept: v.boolean(),
    /** Whether the file was read to its end. */
    ended: v.boolean(),
    /** Why the first of those that were refused were. */
    refusals: v.array(v.object({ line: v.number(), column: v.nullable(v.string()), message: v.string() })),
    /** What became of the first lines. */
    first: v.array(v.object({ line: v.number(), became: v.picklist(['created', 'updated', 'skipped', 'refused']) })),
    /** Why what was written will be gone when the rows are made anew; null where it will not. */
    passing: v.nullable(v.string()),
  }),
  v.object({ ok: v.literal(false), problems: v.array(v.string()) }),
]);
export type LinesTold = v.InferOutput<typeof LinesTold>;

/** Rows that are to stand in a file. */
export const RowsOutAsk = v.object({
  entity: Name,
  where: v.pipe(v.string(), v.maxLength(10_000)),
  orderBy: v.pipe(v.string(), v.maxLength(2000)),
  via: v.nullable(v.object({ entity: Name, key: v.pipe(v.string(), v.maxLength(10_000)), role: Name })),
  /** What each column is, in their order; none for all that it takes to put the rows in again. */
  uses: v.pipe(v.array(Use), v.maxLength(2000)),
  form: v.picklist(['csv', 'json lines']),
  nothing: v.pipe(v.string(), v.maxLength(100)),
  /** On whose behalf; left out, the system’s, which sees all rows. */
  as: v.optional(ActorText),
});
export type RowsOutAsk = v.InferOutput<typeof RowsOutAsk>;

/** All that a column of a file can be for rows of an entity, and those that put rows in again. */
export const FileColumns = v.object({ uses: v.array(v.string()), whole: v.array(v.string()) });
export type FileColumns = v.InferOutput<typeof FileColumns>;

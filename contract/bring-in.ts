import * as v from 'valibot';
import { Login } from './database.js';
import { Address, FilePath } from './parts.js';
import { Tree } from './trees.js';

/** Brings in a database from a server: all of it, or the named schemas. */
export const BringInAddress = v.object({
  address: Address,
  schemas: v.nullable(v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(500))),
  /** Names or patterns of tables, as a person lists them; empty for all. */
  tables: v.pipe(v.string(), v.maxLength(10_000)),
  ...Login,
});
export type BringInAddress = v.InferOutput<typeof BringInAddress>;

const ScriptLine = v.object({ line: v.number(), sql: v.string() });

/** How a database came in: from where, what was kept as SQL, what was not carried. */
export const Arrival = v.object({
  source: v.object({ kind: v.picklist(['upload', 'path', 'server']), name: v.string() }),
  at: v.string(),
  /** What the database has, and what became of it. */
  summary: v.object({ was: v.string(), became: v.string() }),
  kept: v.array(v.string()),
  report: v.array(v.string()),
  /** Why a copy is looked at; null where it is the file itself, or what was uploaded. */
  copied: v.nullable(v.string()),
  /** What became of the script; null where a database came in. */
  script: v.nullable(
    v.object({
      made: v.number(),
      failures: v.number(),
      failed: v.array(v.object({ ...ScriptLine.entries, message: v.string() })),
      refused: v.array(ScriptLine),
      /** What was kept by an earlier version does not tell of any. */
      leftOut: v.fallback(v.array(ScriptLine), []),
    }),
  ),
});
export type Arrival = v.InferOutput<typeof Arrival>;

export const BroughtInTree = v.object({ tree: Tree, arrival: Arrival });
export type BroughtInTree = v.InferOutput<typeof BroughtInTree>;

/** Brings in a database or a script below the folder that was given at the start. */
export const BringInPath = v.object({ path: FilePath });

/** What changed in a database since it came in, as edits to the text; nothing is saved until it is taken in. */
export const BroughtAgain = v.object({
  /** Under which it is taken in. */
  pending: v.string(),
  /** The revision that the edits are for. */
  basedOn: v.number(),
  text: v.string(),
  changes: v.array(
    v.object({
      kind: v.picklist(['came', 'went', 'changed', 'left']),
      where: v.string(),
      was: v.nullable(v.string()),
      now: v.nullable(v.string()),
      why: v.nullable(v.string()),
    }),
  ),
});
export type BroughtAgain = v.InferOutput<typeof BroughtAgain>;

/** What a long piece of work is at. */
export const WorkStep = v.object({
  what: v.string(),
  /** How much of the work is done, from 0 to 1, where that is known. */
  share: v.optional(v.number()),
});
export type WorkStep = v.InferOutput<typeof WorkStep>;

import * as v from 'valibot';
import { DatabaseInUse } from './database.js';
import { FilePath, HeldText, Name, TreeText } from './parts.js';

export const TreeSummary = v.object({
  id: v.string(),
  title: v.string(),
  /** *made*: its database is made from the text. *brought in*: a database that was there before, looked at as it is. */
  kind: v.picklist(['made', 'brought in']),
  revision: v.number(),
  savedAt: v.string(),
  entities: v.number(),
  /** The `.kin` file that the text is bound to. */
  file: v.nullable(v.string()),
});
export type TreeSummary = v.InferOutput<typeof TreeSummary>;

export const TreeList = v.object({
  trees: v.array(TreeSummary),
  /** Those that were taken off the shelf. */
  takenOff: v.array(TreeSummary),
  uploadLimit: v.number(),
  /** The folder that was given at the start, with the `.kin` files, and the databases and scripts below it. */
  folder: v.nullable(v.object({ path: v.string(), files: v.array(v.string()), databases: v.array(v.string()) })),
});
export type TreeList = v.InferOutput<typeof TreeList>;

/** Takes a tree off the shelf, or puts it back. */
export const ShelfTree = v.object({ takenOff: v.boolean() });
export type ShelfTree = v.InferOutput<typeof ShelfTree>;

export const Tree = v.object({
  id: v.string(),
  inUse: DatabaseInUse,
  title: v.string(),
  kind: v.picklist(['made', 'brought in']),
  /** Its database came in with it, and how is known. */
  arrived: v.boolean(),
  revision: v.number(),
  text: HeldText,
  file: v.nullable(v.string()),
});
export type Tree = v.InferOutput<typeof Tree>;

export const NewTree = v.variant('from', [
  v.object({ from: v.literal('demo') }),
  v.object({ from: v.literal('empty'), title: v.optional(Name) }),
  v.object({ from: v.literal('text'), text: TreeText }),
]);
export type NewTree = v.InferOutput<typeof NewTree>;

/** Opens a file below the folder that was given at the start. */
export const OpenFile = v.object({ path: FilePath });
export type OpenFile = v.InferOutput<typeof OpenFile>;

import * as v from 'valibot';
import { DatabaseState } from './database.js';

/** How a tree's file stands to its text. */
export const FileState = v.variant('kind', [
  v.object({ kind: v.literal('same') }),
  v.object({ kind: v.literal('failed'), message: v.string() }),
  /** Both were changed in the same lines: `base` is what both began from, `text` what the file has. */
  v.object({ kind: v.literal('clash'), base: v.string(), text: v.string() }),
]);
export type FileState = v.InferOutput<typeof FileState>;

/** What happens to an open tree, as it happens. */
export const TreeEvent = v.variant('kind', [
  v.object({ kind: v.literal('database'), state: DatabaseState }),
  /** There is a newer revision, by somebody else or from the bound file. */
  v.object({ kind: v.literal('text'), revision: v.number(), source: v.picklist(['page', 'file']) }),
  v.object({ kind: v.literal('file'), state: FileState }),
]);
export type TreeEvent = v.InferOutput<typeof TreeEvent>;

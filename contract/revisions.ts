import * as v from 'valibot';
import { HeldText, TreeText } from './parts.js';

/** `overFile`: the text of the bound file that this one was brought together with, so that it may be written over. */
export const SaveText = v.object({ text: TreeText, basedOn: v.pipe(v.number(), v.integer()), overFile: v.optional(TreeText) });
export type SaveText = v.InferOutput<typeof SaveText>;

export const Saved = v.object({ revision: v.number() });
export type Saved = v.InferOutput<typeof Saved>;

/** Somebody saved another text in between; both are kept. */
export const SaveConflict = v.object({ message: v.string(), revision: v.number(), text: HeldText });
export type SaveConflict = v.InferOutput<typeof SaveConflict>;

export const Revisions = v.object({
  revisions: v.array(
    v.object({
      number: v.number(),
      savedAt: v.string(),
      /** Where it came from: this page, or the bound file. */
      source: v.picklist(['page', 'file']),
      /** Lines that came and went against the one before. */
      added: v.number(),
      removed: v.number(),
    }),
  ),
});
export type Revisions = v.InferOutput<typeof Revisions>;

export const Revision = v.object({ number: v.number(), savedAt: v.string(), text: HeldText });
export type Revision = v.InferOutput<typeof Revision>;

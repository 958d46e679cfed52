import * as v from 'valibot';
import { recordOf } from './parts.js';

/** A statement that a request of the live endpoint made. */
const LiveStatement = v.object({ plain: v.string(), milliseconds: v.number(), rows: v.number(), values: v.array(v.string()) });

/** A request that came to the live endpoint, with what it did. */
export const LiveRequestTold = v.object({
  /** Counts up from the first that came. */
  number: v.number(),
  at: v.string(),
  method: v.string(),
  path: v.string(),
  /** On whose behalf. */
  as: v.string(),
  status: v.number(),
  milliseconds: v.number(),
  /** The query of the notation that read, and the commands that wrote. */
  texts: v.array(v.string()),
  log: v.array(LiveStatement),
});
export type LiveRequestTold = v.InferOutput<typeof LiveRequestTold>;

/** Where the live endpoint of a tree is, and what came to it. */
export const LiveState = v.object({
  /** The path that its addresses begin with. */
  base: v.string(),
  /** What lets a client work as the system. */
  token: v.string(),
  /** The last requests, the newest first. */
  requests: v.array(LiveRequestTold),
});
export type LiveState = v.InferOutput<typeof LiveState>;

/** What the work on a request gives back to the server that took it. */
export const LiveAnswered = v.object({
  status: v.number(),
  headers: recordOf(v.string()),
  /** The document as text; empty for none. */
  body: v.string(),
  texts: v.array(v.string()),
  log: v.array(LiveStatement),
  /** What was written, to be kept; null where nothing was. */
  wrote: v.nullable(v.object({ text: v.string(), seed: v.string(), undo: v.nullable(v.unknown()) })),
});
export type LiveAnswered = v.InferOutput<typeof LiveAnswered>;

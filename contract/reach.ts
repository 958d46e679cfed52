import * as v from 'valibot';
import { recordOf, Span } from './parts.js';

/** Who sees and changes what: kinds of actors against entities, and the walls in words. */
export const Reach = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    actors: v.array(
      v.object({
        as: v.string(),
        shown: v.string(),
        kind: v.string(),
        /** How many rows are of this kind; null for nobody. */
        rows: v.nullable(v.number()),
        reach: recordOf(v.object({ read: v.number(), change: v.number() })),
      }),
    ),
    entities: v.array(v.object({ name: v.string(), rows: v.nullable(v.number()), walled: v.boolean() })),
    walls: v.array(v.object({ name: v.string(), span: Span, sentences: v.array(v.string()), note: v.nullable(v.string()) })),
    /** Entities that lead to whoever is at work, and have no wall. */
    unwalled: v.array(v.object({ entity: v.string(), path: v.array(v.string()) })),
    lifts: v.array(v.object({ query: v.string(), walls: v.array(v.string()), span: Span })),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type Reach = v.InferOutput<typeof Reach>;
